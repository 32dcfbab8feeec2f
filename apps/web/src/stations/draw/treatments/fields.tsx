/** The fields of each kind of treatment, said once as tables of what is asked. */
import { translation } from '@lorvek/core/geometry';
import {
  isLineSource,
  isPrint,
  itemOf,
  layersOf,
  leavesOf,
  lineFor,
  pageOf,
  setItemFields,
  transformItems,
  type BendTreatment,
  type Layer,
  type LeafItem,
  type RingRecord,
  type ShadeRecord,
  type ToneRecord,
  type TreatmentRecord,
} from '@lorvek/model';
import type { ReactNode } from 'react';
import { toast } from 'sonner';
import { asOne, dispatch, select, useDocument } from '../../../document/store.ts';
import { Button } from '../../../ui/button.tsx';
import { PickRow, Switch } from '../../../ui/choices.tsx';
import { Pick } from '../../../ui/pick.tsx';
import { LengthField } from '../../../ui/fields.tsx';
import { ColourFields, NamedInkField } from '../colour-fields.tsx';
import { Numbers as NumberRows, type NumberAsked } from '../../../ui/numbers.tsx';

export type Change<T extends TreatmentRecord> = (fields: Partial<T>) => void;

const NO_LAYER = 'none';

interface LayerPickProps {
  readonly label: string;
  readonly layer: string | null;
  /** To choose from, bottom first. */
  readonly layers: readonly Layer[];
  readonly none: string;
  onChange(layer: Layer['id'] | null): void;
}

/** One of some films and prints, or none. */
export function LayerPick({ label, layer, layers, none, onChange }: LayerPickProps) {
  const swatch = (hex: string, text: string) => (
    <span className="flex items-center gap-2">
      <span className="size-4 shrink-0 border border-line-strong" style={{ background: hex }} />
      {text}
    </span>
  );
  const text = (one: Layer): string => `${one.name} · ${one.series}${isPrint(one) ? ' · printed' : ''}`;
  return (
    <Pick
      label={label}
      value={layer ?? NO_LAYER}
      options={[
        ...[...layers].reverse().map((one) => ({ value: one.id as string, text: swatch(one.hex, text(one)) })),
        { value: NO_LAYER, text: swatch('transparent', none) },
      ]}
      onChange={(next) => onChange(layers.find(({ id }) => id === next)?.id ?? null)}
    />
  );
}

type PieceTreatment = Exclude<TreatmentRecord, BendTreatment>;

/** The film that its piece is cut from, or the print that it is printed on, with its colour there. */
export function LayerOfTreatment({ t, change }: { t: PieceTreatment; change(fields: Partial<PieceTreatment>): void }) {
  const layers = layersOf(useDocument((state) => state.drawing));
  const layer = layers.find(({ id }) => id === t.layer);
  const colour = isPrint(layer) ? (t.ink ?? { hex: layer.hex }) : undefined;
  return (
    <>
      <LayerPick
        label={layers.some(isPrint) ? 'Cut from or printed on' : 'Cut from'}
        layer={t.layer}
        layers={layers}
        none="None: neither cut nor printed"
        onChange={(next) => change({ layer: next })}
      />
      {colour ? (
        <>
          <ColourFields label="Its colour in print" colour={colour} onChange={(ink) => change({ ink })} />
          <NamedInkField label="Its named ink" colour={colour} onChange={(ink) => change({ ink })} />
        </>
      ) : null}
    </>
  );
}

function Numbers<T extends TreatmentRecord>({ t, asked, change }: { t: T; asked: readonly NumberAsked<T>[]; change: Change<T> }) {
  const { unit } = pageOf(useDocument((state) => state.drawing));
  return <NumberRows values={t} asked={asked} unit={unit} change={change} />;
}

const words = (...list: readonly (readonly [string, string])[]) => list.map(([value, label]) => ({ value, label, content: label }));

function Row<V extends string>({
  label,
  value,
  options,
  onChange,
}: {
  label: string;
  value: V;
  options: ReturnType<typeof words>;
  onChange(value: V): void;
}): ReactNode {
  return <PickRow label={label} value={value} options={options as { value: V; label: string; content: ReactNode }[]} onChange={onChange} />;
}

export function RingFields({ t, change }: { t: RingRecord; change: Change<RingRecord> }) {
  return (
    <>
      <Row
        label="Ring is"
        value={t.fill}
        options={words(['backing', 'Backing: solid'], ['band', 'Band: ring only'])}
        onChange={(fill) => change({ fill })}
      />
      <Row
        label="Corners"
        value={t.corner}
        options={words(['round', 'Round'], ['mitre', 'Sharp'], ['bevel', 'Bevelled'])}
        onChange={(corner) => change({ corner })}
      />
      <Numbers t={t} change={change} asked={[{ field: 'distanceMm', label: 'Ring distance', short: 'Distance', as: 'length' }]} />
    </>
  );
}

const falls = (t: ShadeRecord): boolean => t.shade === 'drop' || t.shade === 'block';

export function ShadeFields({ t, change }: { t: ShadeRecord; change: Change<ShadeRecord> }) {
  return (
    <>
      <Row
        label="Kind of shade"
        value={t.shade}
        options={words(['drop', 'Drop'], ['block', 'Block'], ['converging', 'Converging'], ['cast', 'Cast'])}
        onChange={(shade) => change({ shade })}
      />
      <Numbers
        t={t}
        change={change}
        asked={[
          { field: 'depthMm', label: 'Shade depth', short: 'Depth', as: 'length', min: 0, when: falls },
          { field: 'angleDeg', label: 'Shade direction', short: 'Direction', as: 'degrees', when: falls },
          {
            field: 'pointXMm',
            label: 'Point to the right of the middle',
            short: 'Point X',
            as: 'length',
            when: (s) => s.shade === 'converging',
          },
          { field: 'pointYMm', label: 'Point above the middle', short: 'Point Y', as: 'length', when: (s) => s.shade === 'converging' },
          { field: 'leanDeg', label: 'Lean', as: 'degrees', min: -80, max: 80, when: (s) => s.shade === 'cast' },
          {
            field: 'reachPct',
            label: 'Reach of the shade',
            short: 'Reach',
            as: 'percent',
            min: 0,
            max: 1000,
            when: (s) => !falls(s),
          },
        ]}
      />
      <Row
        label="Meeting"
        value={t.meeting}
        options={words(['full', 'Full'], ['tucked', 'Tucked'], ['flush', 'Flush'], ['gapped', 'Gapped'])}
        onChange={(meeting) => change({ meeting })}
      />
      <Numbers
        t={t}
        change={change}
        asked={[
          {
            field: 'meetingMm',
            label: t.meeting === 'gapped' ? 'Gap to the letters' : 'Tucked under by',
            as: 'length',
            min: 0,
            when: (s) => s.meeting === 'gapped' || s.meeting === 'tucked',
          },
        ]}
      />
    </>
  );
}

/** The other selected shape, or the one drawn last, whose line an item can follow. */
function lineToTake(item: LeafItem): LeafItem | undefined {
  const { drawing, selection } = useDocument.getState();
  const others = leavesOf(drawing).filter((leaf) => leaf.id !== item.id && isLineSource(leaf));
  const chosen = new Set(leavesOf(drawing, selection).map(({ id }) => id));
  return others.find(({ id }) => chosen.has(id)) ?? others.filter(({ kind }) => kind === 'shape').at(-1);
}

/** What a treatment keeps of the line it follows. */
interface TakenLine {
  readonly path: string;
  readonly lineItem: string;
}

/** The line becomes a helper: it is not cut unless that is wanted. */
function takeLine(item: LeafItem, onTake: (line: TakenLine) => void): void {
  const line = lineToTake(item);
  const path = line && lineFor(line, item.matrix);
  if (!line || path === undefined) {
    toast.warning('Draw a line with the curve tool first, or select a shape together with this item.');
    return;
  }
  asOne({ origin: 'treatment.line' }, () => {
    onTake({ path, lineItem: line.id });
    dispatch(setItemFields, { id: line.id, fields: { helper: true } }, { origin: 'item.helper' });
  });
}

function TakeLine({
  item,
  lineItem,
  has,
  onTake,
}: {
  item: LeafItem;
  lineItem: string | undefined;
  has: boolean;
  onTake(line: TakenLine): void;
}) {
  const line = useDocument((state) => (lineItem === undefined ? undefined : itemOf(state.drawing, lineItem)));
  return (
    <div className="flex flex-col gap-1">
      <Button size="small" onClick={() => takeLine(item, onTake)}>
        {has ? 'Take another line' : 'Take the drawn line'}
      </Button>
      {line && line.kind !== 'group' ? (
        <>
          <p className="text-2xs text-ink-soft">
            Follows “{line.name}”.{' '}
            <button type="button" className="text-teal underline" onClick={() => select([line.id])}>
              Show it
            </button>
          </p>
          <Switch
            label="Cut the line too"
            checked={line.helper !== true}
            onChange={(cut) => dispatch(setItemFields, { id: line.id, fields: { helper: !cut } }, { origin: 'item.helper' })}
          />
        </>
      ) : (
        <p className="text-2xs text-ink-soft">
          {has ? 'The line it came from is gone: it stays as it was. ' : ''}Takes the selected shape, or the one drawn last.
        </p>
      )}
    </div>
  );
}

export function ToneFields({ t, item, change }: { t: ToneRecord; item: LeafItem; change: Change<ToneRecord> }) {
  return (
    <>
      <Row
        label="Edge"
        value={t.edge}
        options={words(['straight', 'Straight'], ['wave', 'Wave'], ['drawn', 'Drawn'])}
        onChange={(edge) => change({ edge })}
      />
      {t.edge === 'drawn' ? (
        <TakeLine item={item} lineItem={t.lineItem} has={t.path !== ''} onTake={change} />
      ) : (
        <Numbers
          t={t}
          change={change}
          asked={[
            { field: 'shiftMm', label: 'Shift of the edge', short: 'Shift', as: 'length' },
            { field: 'angleDeg', label: 'Turn of the edge', short: 'Turn', as: 'degrees' },
            { field: 'amplitudeMm', label: 'Wave height', short: 'Height', as: 'length', min: 0, when: (s) => s.edge === 'wave' },
            { field: 'waveMm', label: 'Wave length', short: 'Length', as: 'length', min: 0.1, when: (s) => s.edge === 'wave' },
            { field: 'phasePct', label: 'Begin of the wave', short: 'Begin', as: 'percent', when: (s) => s.edge === 'wave' },
          ]}
        />
      )}
    </>
  );
}

const STANDS = words(['above', 'Above'], ['centred', 'Centred'], ['below', 'Below']);

export function BendFields({ t, item, change }: { t: BendTreatment; item: LeafItem; change: Change<BendTreatment> }) {
  return (
    <>
      <Row
        label="Line"
        value={t.line}
        options={words(['arch', 'Arch'], ['circle', 'Circle'], ['path', 'Drawn line'])}
        onChange={(line) => change({ line })}
      />
      {t.line === 'arch' ? <Numbers t={t} change={change} asked={[{ field: 'riseMm', label: 'Rise', as: 'length' }]} /> : null}
      {t.line === 'path' ? (
        <>
          <TakeLine item={item} lineItem={t.lineItem} has={t.path !== ''} onTake={change} />
          <Numbers t={t} change={change} asked={[{ field: 'startMm', label: 'Shift along the line', short: 'Shift', as: 'length' }]} />
          <Switch label="Run the other way" checked={t.reverse} onChange={(reverse) => change({ reverse })} />
        </>
      ) : null}
      {t.line !== 'arch' ? <Row label="Letters stand" value={t.stand} options={STANDS} onChange={(stand) => change({ stand })} /> : null}
      {t.line === 'circle' ? <CentreFields item={item} /> : null}
      {t.line === 'circle' ? <CircleFields t={t} change={change} /> : null}
    </>
  );
}

/** The middle of the circle that lettering runs on, on the drawing; the words move with it. */
function CentreFields({ item }: { item: LeafItem }) {
  const { unit } = pageOf(useDocument((state) => state.drawing));
  const [, , , , x, y] = item.matrix;
  const move = (dx: number, dy: number): void =>
    void dispatch(transformItems, { ids: [item.id], map: translation(dx, dy) }, { origin: 'item.place' });
  return (
    <div className="grid grid-cols-2 gap-2">
      <LengthField label="Centre of the circle, X" short="Centre X" mm={x} unit={unit} onChange={(next) => move(next - x, 0)} />
      <LengthField label="Centre of the circle, Y" short="Centre Y" mm={y} unit={unit} onChange={(next) => move(0, next - y)} />
    </div>
  );
}

function CircleFields({ t, change }: { t: BendTreatment; change: Change<BendTreatment> }) {
  return (
    <>
      <Row
        label="Lines run"
        value={t.sides}
        options={words(['both', 'Both'], ['over', 'Over'], ['under', 'Under'])}
        onChange={(sides) => change({ sides })}
      />
      <Numbers
        t={t}
        change={change}
        asked={[
          { field: 'radiusMm', label: 'Radius', as: 'length', min: 0.5 },
          { field: 'middleDeg', label: 'Middle of the words', short: 'Middle', as: 'degrees' },
          {
            field: 'lowerRadiusMm',
            label: 'Lower radius',
            short: 'Lower R',
            as: 'length',
            min: 0.5,
            when: (b) => b.lowerRadiusMm !== null,
          },
          { field: 'spreadDeg', label: 'Spread', as: 'degrees', min: 1, max: 360, when: (b) => b.spreadDeg !== null },
        ]}
      />
      {t.sides === 'both' ? (
        <>
          <Switch label="Both on the same side of it" checked={t.sameSide} onChange={(sameSide) => change({ sameSide })} />
          <Switch
            label="Own circle for the lower words"
            checked={t.lowerRadiusMm !== null}
            onChange={(on) => change({ lowerRadiusMm: on ? t.radiusMm : null })}
          />
        </>
      ) : null}
      <Switch label="Spread over an angle" checked={t.spreadDeg !== null} onChange={(on) => change({ spreadDeg: on ? 120 : null })} />
    </>
  );
}
