/** A short text that is taken when it is left or entered. */
interface TextCellProps {
  readonly label: string;
  readonly value: string;
  readonly maxLength?: number;
  onChange(text: string): void;
}

export function TextCell({ label, value, maxLength = 200, onChange }: TextCellProps) {
  return (
    <input
      key={value}
      aria-label={label}
      defaultValue={value}
      maxLength={maxLength}
      onKeyDown={(event) => {
        event.stopPropagation();
        if (event.key === 'Enter') event.currentTarget.blur();
      }}
      onBlur={(event) => event.target.value !== value && onChange(event.target.value)}
      className="h-7 w-full min-w-0 border border-line-strong bg-sheet px-2"
    />
  );
}
