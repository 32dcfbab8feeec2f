/** Inks of their own names on a print: each a plate of its own, or laid down in process inks, by values when they are known. */
import { isPrint, setFilmFields, spotInksOf, type SpotRule } from '@lorvek/model';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { dispatch, useDocument } from '../../document/store.ts';
import { gestureOf } from '../../document/gesture.ts';
import { Card } from '../../ui/card.tsx';
import { PickRow, Switch } from '../../ui/choices.tsx';
import { NumberField } from '../../ui/fields.tsx';

const PLATE: SpotRule = { as: 'plate', cmyk: null };
const INKS = ['Cyan', 'Magenta', 'Yellow', 'Black'] as const;

type Cmyk = NonNullable<SpotRule['cmyk']>;

/** Shares of the process inks. */
function CmykFields({ name, cmyk, onChange }: { name: string; cmyk: Cmyk; onChange(cmyk: Cmyk): void }) {
  return (
    <div className="grid grid-cols-4 gap-1">
      {INKS.map((ink, i) => (
        <NumberField
          key={ink}
          label={`${ink} of ${name}`}
          short={ink[0]}
          value={Math.round(100 * (cmyk[i] ?? 0))}
          suffix="%"
          decimals={0}
          min={0}
          max={100}
          onChange={(percent) => onChange(cmyk.map((v, k) => (k === i ? percent / 100 : v)) as Cmyk)}
        />
      ))}
    </div>
  );
}

interface InkProps {
  readonly name: string;
  readonly hex: string;
  readonly rule: SpotRule;
  onChange(rule: SpotRule): void;
}

/** How one ink is laid down. */
function Ink({ name, hex, rule, onChange }: InkProps) {
  return (
    <section aria-label={`Ink ${name}`} className="flex flex-col gap-1.5 border-t pt-2 first:border-t-0 first:pt-0">
      <div className="flex items-center gap-2">
        <span className="size-4 shrink-0 border border-line-strong" style={{ background: hex }} />
        <span className="min-w-0 flex-1 truncate font-semibold" title={name}>
          {name}
        </span>
        <PickRow<SpotRule['as']>
          label={`How ${name} is laid down`}
          value={rule.as}
          options={[
            { value: 'plate', label: 'A plate of its own', content: 'Own plate' },
            { value: 'process', label: 'In process inks', content: 'Process' },
          ]}
          onChange={(as) => onChange({ ...rule, as })}
        />
      </div>
      <Switch label="By values" checked={rule.cmyk !== null} onChange={(on) => onChange({ ...rule, cmyk: on ? [0, 0, 0, 0] : null })} />
      {rule.cmyk ? <CmykFields name={name} cmyk={rule.cmyk} onChange={(cmyk) => onChange({ ...rule, cmyk })} /> : null}
    </section>
  );
}

export function InksCard({ sheet }: { sheet: SheetPlan }) {
  const drawing = useDocument((state) => state.drawing);
  const { layer } = sheet;
  if (!isPrint(layer)) return null;
  const inks = spotInksOf(drawing, layer.id);
  if (inks.length === 0) return null;
  const put = (name: string, rule: SpotRule): void =>
    void dispatch(
      setFilmFields,
      { id: layer.id, fields: { spots: { ...layer.spots, [name]: rule } } },
      { origin: 'print.spots', group: gestureOf('spots') },
    );
  return (
    <Card title="Inks by name">
      {inks.map(({ name, hex }) => (
        <Ink key={name} name={name} hex={hex} rule={layer.spots?.[name] ?? PLATE} onChange={(rule) => put(name, rule)} />
      ))}
    </Card>
  );
}
