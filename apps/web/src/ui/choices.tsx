/** Choosing from a row of which one is on, and a switch; lists that drop down are in pick.tsx. */
import { Switch as RadixSwitch, ToggleGroup } from 'radix-ui';
import { useId, type ReactNode } from 'react';

export interface RowOption<V extends string> {
  value: V;
  label: string;
  content: ReactNode;
}

/** One of a few, side by side. */
export function PickRow<V extends string>({
  label,
  value,
  options,
  onChange,
}: {
  label: string;
  value: V;
  options: readonly RowOption<V>[];
  onChange(value: V): void;
}) {
  return (
    <ToggleGroup.Root type="single" aria-label={label} value={value} onValueChange={(next) => next && onChange(next as V)} className="flex">
      {options.map((option) => (
        <ToggleGroup.Item
          key={option.value}
          value={option.value}
          aria-label={option.label}
          title={option.label}
          className="-ml-px flex h-7 min-w-8 flex-auto items-center justify-center border border-line-strong bg-sheet px-1 text-[13px] whitespace-nowrap first:ml-0 hover:bg-teal-wash data-[state=on]:relative data-[state=on]:border-teal data-[state=on]:bg-teal-wash data-[state=on]:font-semibold"
        >
          {option.content}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}

export function Switch({ label, checked, onChange }: { label: string; checked: boolean; onChange(checked: boolean): void }) {
  const id = useId();
  return (
    <div className="flex items-center justify-between gap-2">
      <label htmlFor={id}>{label}</label>
      <RadixSwitch.Root
        id={id}
        checked={checked}
        onCheckedChange={onChange}
        className="h-5 w-9 shrink-0 border border-line-strong bg-desk p-px data-[state=checked]:border-teal data-[state=checked]:bg-teal"
      >
        <RadixSwitch.Thumb className="block size-4 bg-sheet shadow-sm transition-transform data-[state=checked]:translate-x-4" />
      </RadixSwitch.Root>
    </div>
  );
}
