/** A text in a table that is taken when it is left or entered. */
interface TextCellProps {
  readonly label: string;
  readonly value: string;
  onChange(text: string): void;
}

export function TextCell({ label, value, onChange }: TextCellProps) {
  return (
    <input
      key={value}
      aria-label={label}
      defaultValue={value}
      onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
      onBlur={(event) => event.target.value !== value && onChange(event.target.value)}
      className="h-7 w-full min-w-0 border border-line-strong bg-sheet px-2"
    />
  );
}
