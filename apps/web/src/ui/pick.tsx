/** Choosing from a list that drops down. */
import { Check, ChevronsUpDown } from 'lucide-react';
import { Select } from 'radix-ui';
import { useId, type KeyboardEvent, type ReactNode } from 'react';
import { passOn } from './passed-keys.ts';

export interface Option<V extends string> {
  value: V;
  text: ReactNode;
  disabled?: boolean;
}

/** Letters on a list that is closed are commands of the page: the list itself takes no notice of them. */
function leaveLetters(event: KeyboardEvent): void {
  if (event.key.length !== 1 || event.key === ' ' || event.ctrlKey || event.metaKey || event.altKey) return;
  passOn(event.nativeEvent);
  event.preventDefault();
}

interface PickProps<V extends string> {
  label: string;
  value: V | undefined;
  options: readonly Option<V>[];
  placeholder?: string;
  hideLabel?: boolean;
  onChange(value: V): void;
}

export function Pick<V extends string>({ label, value, options, placeholder, hideLabel, onChange }: PickProps<V>) {
  const id = useId();
  return (
    <div className="flex min-w-0 flex-col gap-1">
      <label htmlFor={id} className={hideLabel ? 'sr-only' : 'rule-label'}>
        {label}
      </label>
      <Select.Root value={value ?? ''} onValueChange={(next) => onChange(next as V)}>
        <Select.Trigger
          id={id}
          aria-label={label}
          onKeyDown={leaveLetters}
          className="flex h-8 w-full min-w-0 items-center gap-2 border border-line-strong bg-sheet px-2 text-left data-[placeholder]:text-ink-soft"
        >
          <span className="min-w-0 flex-1 truncate">
            <Select.Value placeholder={placeholder ?? 'Choose'} />
          </span>
          <ChevronsUpDown size={13} className="shrink-0 text-ink-soft" aria-hidden />
        </Select.Trigger>
        <Select.Portal>
          <Select.Content
            position="popper"
            sideOffset={3}
            className="z-50 max-h-80 min-w-(--radix-select-trigger-width) overflow-hidden border border-line-strong bg-sheet shadow-md"
          >
            <Select.Viewport>
              {options.map((option) => (
                <Select.Item
                  key={option.value}
                  value={option.value}
                  disabled={option.disabled ?? false}
                  className="flex min-h-8 items-center gap-2 py-1 pr-3 pl-2 outline-none select-none data-[disabled]:opacity-40 data-[highlighted]:bg-teal-wash"
                >
                  <span className="w-4 shrink-0">
                    <Select.ItemIndicator>
                      <Check size={14} />
                    </Select.ItemIndicator>
                  </span>
                  <Select.ItemText>{option.text}</Select.ItemText>
                </Select.Item>
              ))}
            </Select.Viewport>
          </Select.Content>
        </Select.Portal>
      </Select.Root>
    </div>
  );
}
