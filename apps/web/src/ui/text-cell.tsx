/** A short text that is taken when it is left or entered. */
interface TextCellProps {
  /** As high as the lists beside it. */
  readonly tall?: boolean;
  readonly label: string;
  readonly value: string;
  readonly maxLength?: number;
  onChange(text: string): void;
}

export function TextCell({ label, value, maxLength = 200, tall, onChange }: TextCellProps) {
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
      className={`${tall ? 'h-8' : 'h-7'} w-full min-w-0 border border-line-strong bg-sheet px-2`}
    />
  );
}
