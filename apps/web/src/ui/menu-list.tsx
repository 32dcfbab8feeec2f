/** A menu that is open, and how its entries look; asked for by menu.tsx alone. */
import { DropdownMenu } from 'radix-ui';
import { Fragment } from 'react';
import type { MenuEntry, MenuProps } from './menu.tsx';

function Entry({ content, disabled = false, href, onSelect }: MenuEntry) {
  return (
    <DropdownMenu.Item
      disabled={disabled}
      asChild={href !== undefined}
      {...(onSelect ? { onSelect } : {})}
      className="flex h-8 items-center gap-2 px-3 outline-none select-none data-[disabled]:opacity-40 data-[highlighted]:bg-teal-wash"
    >
      {href === undefined ? (
        content
      ) : (
        <a href={href} download>
          {content}
        </a>
      )}
    </DropdownMenu.Item>
  );
}

/** Open from the first: the click that fetched it asked for that. */
export function MenuList({ trigger, align = 'end', side = 'bottom', entries }: MenuProps) {
  return (
    <DropdownMenu.Root defaultOpen>
      <DropdownMenu.Trigger asChild>{trigger}</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align={align}
          side={side}
          sideOffset={side === 'top' ? 8 : 0}
          className="z-50 min-w-40 border border-line-strong bg-sheet py-1 shadow-md"
        >
          {entries.map((entry) => (
            <Fragment key={entry.id}>
              {entry.isApart ? <DropdownMenu.Separator className="my-1 h-px bg-line" /> : null}
              <Entry {...entry} />
            </Fragment>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
