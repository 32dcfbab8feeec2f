/** Something larger than the material, divided: by what, overlaps, order; what the panels come to. */
import { itemOf, leavesOf, PANEL_WAYS, type PanelsFill } from '@lorvek/model';
import { describeLength, type LengthUnit } from '@lorvek/core/units';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { create } from 'zustand';
import { useDocument } from '../../document/store.ts';
import { writeFittingPlan } from '../../frame/write-out.tsx';
import { Button } from '../../ui/button.tsx';
import { Figure, Notice } from '../../ui/card.tsx';
import { PickRow, Switch } from '../../ui/choices.tsx';
import { Pick } from '../../ui/pick.tsx';
import { LengthField, NumberField } from '../../ui/fields.tsx';
import { change } from './change.ts';

export const usePanelsView = create<{ open: boolean }>(() => ({ open: true }));

const WAYS: Record<PanelsFill['way'], string> = {
  shapes: 'Seams between shapes',
  width: 'Panels of a width',
  count: 'Columns and rows',
  seams: 'Seams by hand',
};

interface Props {
  readonly sheet: SheetPlan;
  readonly unit: LengthUnit;
  readonly fill: PanelsFill;
}

/** Places of seams as figures, from the edge of the whole. */
function SeamPlaces({ sheet, unit, fill }: Props) {
  const { panels } = sheet.filled;
  const set = (fields: Partial<PanelsFill>): boolean => change(sheet.layer.id, { fill: { ...fill, ...fields } });
  const rows = (axis: 'x' | 'y', from: number, word: string) => (
    <div className="flex flex-col gap-1">
      {fill.seams[axis].map((at, i) => (
        <div key={i} className="flex items-center gap-1">
          <div className="flex-1">
            <LengthField
              wide
              label={`${word} ${i + 1}`}
              mm={Math.round((at - from) * 100) / 100}
              unit={unit}
              onChange={(mm) =>
                set({
                  seams: { ...fill.seams, [axis]: fill.seams[axis].map((one, k) => (k === i ? mm + from : one)).sort((a, b) => a - b) },
                })
              }
            />
          </div>
          <Button size="small" onClick={() => set({ seams: { ...fill.seams, [axis]: fill.seams[axis].filter((_, k) => k !== i) } })}>
            Take off
          </Button>
        </div>
      ))}
    </div>
  );
  const box = panels?.box;
  const add = (axis: 'x' | 'y'): void => {
    if (!box) return;
    const [from, to] = axis === 'x' ? [box.minX, box.maxX] : [box.minY, box.maxY];
    // in the middle of the widest gap between seams
    const ends = [from, ...fill.seams[axis], to];
    const widest = ends.slice(1).reduce((best, end, i) => (end - (ends[i] ?? 0) > (ends[best + 1] ?? 0) - (ends[best] ?? 0) ? i : best), 0);
    const at = ((ends[widest] ?? from) + (ends[widest + 1] ?? to)) / 2;
    set({ seams: { ...fill.seams, [axis]: [...fill.seams[axis], Math.round(at * 100) / 100].sort((a, b) => a - b) } });
  };
  return (
    <>
      {rows('x', box?.minX ?? 0, 'Upright seam')}
      {rows('y', box?.minY ?? 0, 'Level seam')}
      <div className="flex gap-1.5">
        <Button size="small" onClick={() => add('x')}>
          Add an upright seam
        </Button>
        <Button size="small" onClick={() => add('y')}>
          Add a level seam
        </Button>
      </div>
      <p className="text-[13px] text-ink-soft">Measured from the left and the lower edge of the whole. Seams can also be dragged on it.</p>
    </>
  );
}

/** Items that no seam goes through. */
function KeptWhole({ sheet, fill }: Props) {
  const drawing = useDocument((state) => state.drawing);
  const selection = useDocument((state) => state.selection);
  const set = (whole: string[]): boolean => change(sheet.layer.id, { fill: { ...fill, whole } });
  const words = leavesOf(drawing).filter((leaf) => leaf.kind === 'lettering');
  const there = fill.whole.filter((id) => itemOf(drawing, id));
  const chosen = leavesOf(drawing, selection).map(({ id }) => id);
  return (
    <>
      <Figure name="No seam through">
        {there.length === 0 ? 'nothing named' : `${there.length} ${there.length === 1 ? 'item' : 'items'}`}
      </Figure>
      <div className="flex flex-wrap gap-1.5">
        {words.length > 0 ? (
          <Button size="small" onClick={() => set([...new Set([...there, ...words.map(({ id }) => id)])])}>
            All lettering
          </Button>
        ) : null}
        <Button
          size="small"
          disabled={chosen.length === 0}
          title="What is selected on Draw"
          onClick={() => set([...new Set([...there, ...chosen])])}
        >
          The selection
        </Button>
        {there.length > 0 ? (
          <Button size="small" onClick={() => set([])}>
            None
          </Button>
        ) : null}
      </div>
    </>
  );
}

function Sizes({ sheet, unit, fill }: Props) {
  const set = (fields: Partial<PanelsFill>): boolean => change(sheet.layer.id, { fill: { ...fill, ...fields } });
  if (fill.way === 'count')
    return (
      <div className="grid grid-cols-2 gap-2">
        <NumberField
          label="Columns"
          value={fill.columns}
          decimals={0}
          min={1}
          max={500}
          onChange={(columns) => set({ columns: Math.round(columns) })}
        />
        <NumberField
          label="Rows of panels"
          short="Rows"
          value={fill.rows}
          decimals={0}
          min={1}
          max={500}
          onChange={(rows) => set({ rows: Math.round(rows) })}
        />
      </div>
    );
  if (fill.way === 'width')
    return (
      <>
        <LengthField
          wide
          label="Width of a panel"
          mm={fill.widthMm ?? sheet.material.widthMm - 2 * sheet.layUp.marginMm}
          unit={unit}
          minMm={10}
          onChange={(widthMm) => set({ widthMm })}
        />
        <Switch label="Divide upward too" checked={fill.heightMm !== null} onChange={(on) => set({ heightMm: on ? 1000 : null })} />
        {fill.heightMm !== null ? (
          <LengthField
            wide
            label="Height of a panel"
            mm={fill.heightMm}
            unit={unit}
            minMm={10}
            onChange={(heightMm) => set({ heightMm })}
          />
        ) : null}
      </>
    );
  if (fill.way === 'seams') return <SeamPlaces sheet={sheet} unit={unit} fill={fill} />;
  return <LengthField wide label="Least panel" mm={fill.leastMm} unit={unit} minMm={0} onChange={(leastMm) => set({ leastMm })} />;
}

/** How far panels lie over one another, and go on beyond the outer edge. */
function Laps({ fill, unit, set }: Omit<Props, 'sheet'> & { set(fields: Partial<PanelsFill>): void }) {
  return (
    <>
      <div className="grid grid-cols-2 gap-2">
        <LengthField
          label="Overlap sideways"
          short="Lap →"
          mm={fill.overlapMm}
          unit={unit}
          minMm={0}
          onChange={(overlapMm) => set({ overlapMm })}
        />
        <LengthField
          label="Overlap upward"
          short="Lap ↑"
          mm={fill.overlapUpMm}
          unit={unit}
          minMm={0}
          onChange={(overlapUpMm) => set({ overlapUpMm })}
        />
      </div>
      <LengthField wide label="More at the outer edge" mm={fill.bleedMm} unit={unit} minMm={0} onChange={(bleedMm) => set({ bleedMm })} />
    </>
  );
}

/** How many there are, and how large the whole is. */
function PanelFigures({ panels, unit }: { panels: SheetPlan['filled']['panels']; unit: LengthUnit }) {
  if (!panels) return <Notice level="stop">It could not be divided so; the Cut check says why.</Notice>;
  const { minX, minY, maxX, maxY } = panels.box;
  const count = panels.panels.length;
  const say = (mm: number): string => describeLength(Math.round(mm), unit);
  return (
    <>
      <Figure name="Panels" strong>
        {count} on {count} {count === 1 ? 'sheet' : 'sheets'}
      </Figure>
      <Figure name="The whole">
        {say(maxX - minX)} × {say(maxY - minY)}
      </Figure>
    </>
  );
}

export function PanelsFields(props: Props) {
  const { sheet, unit, fill } = props;
  const isOpen = usePanelsView((state) => state.open);
  const set = (fields: Partial<PanelsFill>): void => void change(sheet.layer.id, { fill: { ...fill, ...fields } });
  const { panels } = sheet.filled;
  const choose = (way: PanelsFill['way']): void => {
    const from = panels && way === 'seams' ? { seams: { x: [...panels.seams.x], y: [...panels.seams.y] } } : {};
    const width =
      way === 'width' && fill.widthMm === null ? { widthMm: Math.max(10, sheet.material.widthMm - 2 * sheet.layUp.marginMm) } : {};
    set({ way, ...from, ...width });
  };
  return (
    <>
      <Pick label="Divided by" value={fill.way} options={PANEL_WAYS.map((value) => ({ value, text: WAYS[value] }))} onChange={choose} />
      <Sizes {...props} />
      <Laps fill={fill} unit={unit} set={set} />
      <PickRow
        label="Put up"
        value={fill.order}
        options={[
          { value: 'from-left', label: 'From the left', content: 'From the left' },
          { value: 'from-right', label: 'From the right', content: 'From the right' },
        ]}
        onChange={(order) => set({ order })}
      />
      <Switch label="Every other one turned" checked={fill.turnEveryOther} onChange={(turnEveryOther) => set({ turnEveryOther })} />
      <Switch label="Number, job and arrow beside it" checked={fill.label} onChange={(label) => set({ label })} />
      <KeptWhole {...props} />
      <PanelFigures panels={panels} unit={unit} />
      <div className="flex flex-wrap gap-1.5">
        <Button size="small" aria-pressed={isOpen} onClick={() => usePanelsView.setState({ open: !isOpen })}>
          {isOpen ? 'Hide the whole' : 'Show the whole'}
        </Button>
        <Button size="small" disabled={!panels} onClick={() => void writeFittingPlan()}>
          Fitting plan (PDF)
        </Button>
      </div>
    </>
  );
}
