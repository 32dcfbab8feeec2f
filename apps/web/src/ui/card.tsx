/** A card of the ticket: titled, collapsible, remembers whether it is open. */
import { ChevronDown } from 'lucide-react';
import { Collapsible } from 'radix-ui';
import { useState, type ReactNode } from 'react';

export function Card({
  title,
  children,
  aside,
  startsOpen = true,
}: {
  title: string;
  children: ReactNode;
  aside?: ReactNode;
  startsOpen?: boolean;
}) {
  const key = `lorvek.card.${title}`;
  const [open, setOpen] = useState(() => (localStorage.getItem(key) ?? String(startsOpen)) === 'true');
  const change = (next: boolean): void => {
    setOpen(next);
    localStorage.setItem(key, String(next));
  };
  return (
    <Collapsible.Root open={open} onOpenChange={change} className="panel shrink-0">
      <Collapsible.Trigger className="flex h-8 w-full items-center gap-2 pr-4 pl-2.5 text-left font-semibold">
        <ChevronDown size={14} className={`text-ink-soft transition-transform ${open ? '' : '-rotate-90'}`} aria-hidden />
        <span className="flex-1 truncate">{title}</span>
        {aside}
      </Collapsible.Trigger>
      <Collapsible.Content className="flex flex-col gap-2 border-t px-2.5 pt-2 pb-2.5">{children}</Collapsible.Content>
    </Collapsible.Root>
  );
}

/** A line of name and figure. */
export function Figure({ name, children, strong }: { name: string; children: ReactNode; strong?: boolean }) {
  return (
    <div className="flex items-baseline justify-between gap-3">
      <span className="text-ink-soft">{name}</span>
      <span className={`numerals text-right ${strong ? 'font-medium' : ''}`}>{children}</span>
    </div>
  );
}

/** A remark that must not be missed: the icon and words carry it, not the colour alone. */
export function Notice({ level, children }: { level: 'note' | 'warning' | 'stop'; children: ReactNode }) {
  const look = { note: 'border-teal bg-teal-wash', warning: 'border-amber bg-amber-wash', stop: 'border-brick bg-brick-wash' }[level];
  const word = { note: '', warning: 'Look: ', stop: 'Stop: ' }[level];
  return (
    <div role={level === 'note' ? 'note' : 'alert'} className={`border-l-4 px-2 py-1.5 text-[13px] ${look}`}>
      {word ? <strong>{word}</strong> : null}
      {children}
    </div>
  );
}
