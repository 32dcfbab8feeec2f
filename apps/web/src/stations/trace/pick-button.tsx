/** A button that stays pressed while the clicks or strokes it asks for are waited for. */
import type { ReactNode } from 'react';
import { Button } from '../../ui/button.tsx';
import { pick, usePicking, type Picking } from './picking.ts';

export function PickButton({ what, children }: { what: Picking; children: ReactNode }) {
  const on = usePicking((state) => state.picking === what);
  return (
    <Button size="small" aria-pressed={on} className={on ? 'border-teal! bg-teal-wash!' : ''} onClick={() => pick(what)}>
      {children}
    </Button>
  );
}
