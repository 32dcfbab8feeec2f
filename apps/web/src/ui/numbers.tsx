/** Number fields said as a table of what is asked: one mechanism for every card of figures. */
import type { LengthUnit } from '@lorvek/core/units';
import { LengthField, NumberField } from './fields.tsx';

const KINDS = {
  degrees: { suffix: '°', decimals: 1, scale: 1 },
  percent: { suffix: '%', decimals: 1, scale: 1 },
  /** 0 to 1, shown as percent. */
  share: { suffix: '%', decimals: 0, scale: 100 },
  difference: { suffix: 'ΔE', decimals: 1, scale: 1 },
  pixels: { suffix: 'px', decimals: 0, scale: 1 },
  area: { suffix: 'px²', decimals: 0, scale: 1 },
  level: { suffix: '', decimals: 0, scale: 1 },
  plain: { suffix: '', decimals: 2, scale: 1 },
} as const;

export interface NumberAsked<T> {
  readonly field: keyof T & string;
  readonly label: string;
  readonly short?: string;
  readonly as: 'length' | keyof typeof KINDS;
  /** In the field's own unit. */
  readonly min?: number;
  readonly max?: number;
  readonly step?: number;
  readonly when?: (values: T) => boolean;
}

interface NumbersProps<T> {
  readonly values: T;
  readonly asked: readonly NumberAsked<T>[];
  /** Of lengths. */
  readonly unit?: LengthUnit;
  /** Fields beside one another; 1 gives each a line with its whole label. */
  readonly columns?: 1 | 2 | 3;
  change(fields: Partial<T>): void;
}

const COLUMNS = { 1: 'grid-cols-1', 2: 'grid-cols-2', 3: 'grid-cols-3' } as const;

function Asked<T>({
  values,
  one,
  unit = 'mm',
  wide,
  change,
}: Omit<NumbersProps<T>, 'asked' | 'columns'> & { one: NumberAsked<T>; wide: boolean }) {
  const { field, label, short, as, min, max, step } = one;
  const value = Number(values[field]);
  const set = (next: number): void => change({ [field]: next } as unknown as Partial<T>);
  const said = wide ? { label, wide } : { label, short: short ?? label };
  if (as === 'length')
    return <LengthField {...said} mm={value} unit={unit} {...(min === undefined ? {} : { minMm: min })} onChange={set} />;
  const { suffix, decimals, scale } = KINDS[as];
  return (
    <NumberField
      {...said}
      value={value * scale}
      suffix={suffix}
      decimals={decimals}
      {...(step === undefined ? {} : { step: step * scale })}
      {...(min === undefined ? {} : { min: min * scale })}
      {...(max === undefined ? {} : { max: max * scale })}
      onChange={(next) => set(next / scale)}
    />
  );
}

export function Numbers<T>({ asked, columns, ...rest }: NumbersProps<T>) {
  const shown = asked.filter(({ when }) => when?.(rest.values) ?? true);
  return (
    <div className={`grid gap-2 ${COLUMNS[columns ?? (shown.length === 1 ? 1 : 2)]}`}>
      {shown.map((one) => (
        <Asked key={one.field} {...rest} one={one} wide={columns === 1} />
      ))}
    </div>
  );
}
