/** A menu that hangs on a button. What draws it follows after the page is shown. */
import { cloneElement, lazy, Suspense, useState, type ReactElement, type ReactNode } from 'react';
import { useLater } from './use-later.ts';

export interface MenuEntry {
  /** Of its own among the entries. */
  readonly id: string;
  readonly content: ReactNode;
  readonly disabled?: boolean;
  /** A file that it saves, instead of something that it does. */
  readonly href?: string;
  /** A line above it. */
  readonly isApart?: boolean;
  onSelect?(): void;
}

export interface MenuProps {
  /** The button that it hangs on. */
  readonly trigger: ReactElement<{ onClick?: () => void; 'aria-haspopup'?: 'menu' }>;
  readonly align?: 'start' | 'end';
  readonly side?: 'top' | 'bottom';
  readonly entries: readonly MenuEntry[];
}

const loadList = () => import('./menu-list.tsx');
const MenuList = lazy(async () => ({ default: (await loadList()).MenuList }));

export function Menu(props: MenuProps) {
  const [isWanted, setWanted] = useState(false);
  useLater(loadList);
  const closed = cloneElement(props.trigger, { onClick: () => setWanted(true), 'aria-haspopup': 'menu' });
  return isWanted ? (
    <Suspense fallback={closed}>
      <MenuList {...props} />
    </Suspense>
  ) : (
    closed
  );
}
