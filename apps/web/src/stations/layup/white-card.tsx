/** White ink of a print: where it lies, and how much of it. */
import { isPrint, setFilmFields, spotsOf, USUAL_WHITE, type WhiteRule } from '@lorvek/model';
import type { LengthUnit } from '@lorvek/core/units';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { PassesPart } from './passes-part.tsx';
import { dispatch } from '../../document/store.ts';
import { gestureOf } from '../../document/gesture.ts';
import { Card, Notice } from '../../ui/card.tsx';
import { PickRow, Switch } from '../../ui/choices.tsx';
import { Pick } from '../../ui/pick.tsx';
import { LengthField, NumberField } from '../../ui/fields.tsx';

const COVERAGES: Record<WhiteRule['coverage'], string> = {
  'where-printed': 'Where printed',
  'whole-sheet': 'Whole sheet, within the trim',
  'named-spot': 'Named spot',
  'more-under-dark': 'More under dark',
  'more-under-light': 'More under light',
};

const ORDERS: Record<WhiteRule['where'], string> = {
  behind: 'White is printed first, colour on it: seen from the front.',
  'in-front': 'Colour is printed first, white over it: seen through the film. Mirror it for the inside of glass.',
  between: 'Colour, white and colour again: for glass that is seen from both sides.',
};

/** Inks of the art that may stand for white. */
function Spots({ sheet, rule, set }: { sheet: SheetPlan; rule: WhiteRule; set(fields: Partial<WhiteRule>): void }) {
  const there = spotsOf((sheet.print?.white?.under ?? sheet.print?.forms ?? []).flatMap(({ items }) => items));
  if (there.length === 0) return <Notice level="warning">No item has an ink of its own name. Give it one on Draw, in its paint.</Notice>;
  return (
    <div className="flex flex-col gap-1">
      {there.map((spot) => (
        <Switch
          key={spot}
          label={spot}
          checked={rule.spots.includes(spot)}
          onChange={(on) => set({ spots: on ? [...rule.spots, spot] : rule.spots.filter((one) => one !== spot) })}
        />
      ))}
    </div>
  );
}

interface RuleProps {
  readonly sheet: SheetPlan;
  readonly rule: WhiteRule;
  readonly unit: LengthUnit;
  set(fields: Partial<WhiteRule>): void;
}

/** How much of it, and how far it spreads. */
function CoverageFields({ sheet, rule, unit, set }: RuleProps) {
  return (
    <>
      <Pick
        label="Coverage of white"
        value={rule.coverage}
        options={(Object.keys(COVERAGES) as WhiteRule['coverage'][]).map((value) => ({ value, text: COVERAGES[value] }))}
        onChange={(coverage) => set({ coverage })}
      />
      {rule.coverage === 'named-spot' ? <Spots sheet={sheet} rule={rule} set={set} /> : null}
      {rule.coverage === 'more-under-dark' || rule.coverage === 'more-under-light' ? (
        <NumberField wide label="Bend of the curve" value={rule.bend} step={0.1} min={0.1} max={10} onChange={(bend) => set({ bend })} />
      ) : null}
      <NumberField
        wide
        label="Strength of white"
        value={rule.strengthPct}
        suffix="%"
        decimals={0}
        min={0}
        max={100}
        onChange={(strengthPct) => set({ strengthPct })}
      />
      <LengthField
        wide
        label="Spread (minus: choke)"
        mm={rule.spreadMm}
        unit={unit}
        minMm={-50}
        hint="A little choke hides white at the edges of the colour"
        onChange={(spreadMm) => set({ spreadMm })}
      />
    </>
  );
}

function WhiteFields(props: RuleProps) {
  const { rule, set } = props;
  return (
    <>
      <PickRow
        label="Where white lies"
        value={rule.where}
        options={[
          { value: 'behind', label: 'Behind the colour', content: 'Behind' },
          { value: 'in-front', label: 'In front of the colour', content: 'In front' },
          { value: 'between', label: 'Between two colours', content: 'Between' },
        ]}
        onChange={(where) => set({ where })}
      />
      <p className="text-[13px] text-ink-soft">{ORDERS[rule.where]}</p>
      <CoverageFields {...props} />
    </>
  );
}

export function WhiteCard({ sheet, unit }: { sheet: SheetPlan; unit: LengthUnit }) {
  const { layer } = sheet;
  if (!isPrint(layer)) return null;
  const rule = layer.white;
  const put = (white: WhiteRule | undefined): void =>
    void dispatch(setFilmFields, { id: layer.id, fields: { white } }, { origin: 'print.white', group: gestureOf('white') });
  const set = (fields: Partial<WhiteRule>): void => put({ ...(rule ?? USUAL_WHITE), ...fields });
  return (
    <Card title="White ink" startsOpen={layer.medium === 'clear' || rule !== undefined}>
      <Switch label="Print white" checked={rule !== undefined} onChange={(on) => put(on ? USUAL_WHITE : undefined)} />
      {rule ? (
        <WhiteFields sheet={sheet} rule={rule} unit={unit} set={set} />
      ) : (
        <Notice level={layer.medium === 'clear' ? 'warning' : 'note'}>
          {layer.medium === 'clear' ? 'The medium is clear: without white the colours are seen through.' : 'No white is printed.'}
        </Notice>
      )}
      <PassesPart sheet={sheet} />
    </Card>
  );
}
