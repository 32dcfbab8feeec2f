/** How the work lies: as drawn, in a grid, nested; turned, mirrored, weeded. */
import { buildOf, isPrint, mirrorOf, type Fill, type LayUp } from '@lorvek/model';
import { describeLength, type LengthUnit } from '@lorvek/core/units';
import { clearOf } from '@lorvek/model/lay-places';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { FlipHorizontal2 } from 'lucide-react';
import { useDocument } from '../../document/store.ts';
import { Button } from '../../ui/button.tsx';
import { Card, Figure, Notice } from '../../ui/card.tsx';
import { PickRow, Switch } from '../../ui/choices.tsx';
import { Pick } from '../../ui/pick.tsx';
import { LengthField, NumberField } from '../../ui/fields.tsx';
import { change } from './change.ts';
import { alignPieces, lockPieces, putBack, turnPieces, useLaying } from './laying.ts';
import { chosenPieces, piecesOn } from './pieces.ts';
import { PanelsFields } from './panels-card.tsx';
import { NestFields } from './nest-card.tsx';
import { fillsBefore } from './fills-before.ts';

interface Props {
  readonly sheet: SheetPlan;
  readonly record: LayUp;
  readonly unit: LengthUnit;
}

const KINDS = [
  { value: 'as-drawn', label: 'As drawn', content: 'As drawn' },
  { value: 'grid', label: 'Grid', content: 'Grid' },
  { value: 'nest', label: 'Nest', content: 'Nest' },
  { value: 'panels', label: 'Panels', content: 'Panels' },
] as const;

function AsDrawnFields({ sheet, unit, fill }: Props & { fill: Extract<Fill, { kind: 'as-drawn' }> }) {
  const set = (fields: Partial<typeof fill>): boolean => change(sheet.layer.id, { fill: { ...fill, ...fields } });
  return (
    <>
      <div className="grid grid-cols-2 gap-2">
        <NumberField
          label="Copies"
          value={fill.copies}
          decimals={0}
          min={1}
          max={2000}
          onChange={(copies) => set({ copies: Math.round(copies) })}
        />
        <LengthField label="Gap between copies" short="Gap" mm={fill.gapMm} unit={unit} minMm={0} onChange={(gapMm) => set({ gapMm })} />
        <LengthField
          label="Along the roll"
          short="Along"
          mm={fill.alongMm}
          unit={unit}
          minMm={0}
          hint="From the margin"
          onChange={(alongMm) => set({ alongMm })}
        />
        <LengthField
          label="Across the roll"
          short="Across"
          mm={fill.acrossMm}
          unit={unit}
          minMm={0}
          hint="From the margin"
          onChange={(acrossMm) => set({ acrossMm })}
        />
      </div>
      {fill.copies > 1 ? <Figure name="Side by side">{Math.min(sheet.filled.across ?? 1, fill.copies)}</Figure> : null}
    </>
  );
}

const MOST_COPIES = 2000;

const ROWS = [
  { value: 'straight', text: 'Straight rows' },
  { value: 'half', text: 'Every other row shifted by half' },
  { value: 'head-to-tail', text: 'Every other row head to tail' },
] as const;

function GridFields({ sheet, unit, fill }: Props & { fill: Extract<Fill, { kind: 'grid' }> }) {
  const set = (fields: Partial<typeof fill>): boolean => change(sheet.layer.id, { fill: { ...fill, ...fields } });
  const { grid } = sheet.filled;
  const say = (mm: number): string => describeLength(Math.round(mm * 10) / 10, unit);
  return (
    <>
      <Pick
        label="Rows"
        value={fill.rows}
        options={ROWS.map(({ value, text }) => ({ value, text }))}
        onChange={(rows) => set({ rows: rows as typeof fill.rows })}
      />
      <Switch
        label="Fill to the end of the sheet"
        checked={fill.copies === null}
        onChange={(on) => set({ copies: on ? null : Math.max(1, sheet.filled.grid?.perSheet ?? 1) })}
      />
      <div className="grid grid-cols-2 gap-2">
        {fill.copies === null ? null : (
          <NumberField
            label="Copies"
            value={fill.copies}
            decimals={0}
            min={1}
            max={2000}
            onChange={(copies) => set({ copies: Math.round(copies) })}
          />
        )}
        <LengthField label="Gap between copies" short="Gap" mm={fill.gapMm} unit={unit} minMm={0} onChange={(gapMm) => set({ gapMm })} />
      </div>
      {grid && grid.perSheet >= MOST_COPIES ? <Notice level="note">A grid takes {MOST_COPIES} copies at most.</Notice> : null}
      {grid && grid.perSheet > 0 && grid.perSheet < MOST_COPIES && (sheet.roll.roll ?? sheet.layUp.reported) ? (
        <>
          <Figure name={sheet.layUp.sheetLengthMm ? 'Fit on a sheet' : 'Fit on what is left of the roll'} strong>
            {grid.perSheet}
          </Figure>
          <Figure name="Left over along, across">
            {say(grid.leftAlongMm)}, {say(grid.leftAcrossMm)}
          </Figure>
          <Figure name="Longer for one more row">{say(grid.moreForRowMm)}</Figure>
        </>
      ) : null}
      {grid?.perSheet === 0 ? <Notice level="stop">Not one copy fits on this material.</Notice> : null}
    </>
  );
}

/** What is done with the pieces that are chosen on the material. */
function ChosenPieces({ sheet }: Props) {
  const chosen = useLaying((state) => state.chosen);
  const picked = chosenPieces([sheet], chosen);
  const all = piecesOn(sheet);
  const pieces = picked.length > 0 ? picked : all;
  if (all.length === 0) return null;
  const clear = clearOf(sheet.ground);
  const isLocked = picked.length > 0 && picked.every(({ placement }) => placement.locked);
  const hasMoved = pieces.some(({ placement }) => placement.moved) && sheet.layUp.fill.kind !== 'nest';
  return (
    <div className="flex flex-col gap-1">
      <span className="rule-label">
        {picked.length > 0 ? `${picked.length} ${picked.length === 1 ? 'piece' : 'pieces'} chosen` : 'All pieces'}
      </span>
      <div className="grid grid-cols-2 gap-1.5">
        <Button size="small" onClick={() => alignPieces(pieces, 'origin', clear)}>
          To the origin
        </Button>
        <Button size="small" onClick={() => alignPieces(pieces, 'centre', clear)}>
          Middle across
        </Button>
        <Button size="small" disabled={picked.length === 0} onClick={() => turnPieces(picked, 90)}>
          Turn by 90°
        </Button>
        <Button size="small" disabled={picked.length === 0} onClick={() => lockPieces(picked, !isLocked)}>
          {isLocked ? 'Unlock' : 'Lock in place'}
        </Button>
      </div>
      {hasMoved ? (
        <Button size="small" onClick={() => putBack(pieces)}>
          Put back as laid
        </Button>
      ) : null}
    </div>
  );
}

/** Pieces of a series lie in cells, as many as there are rows: copies and places of their own have no say here. */
function SeriesFields({ sheet, unit, fill }: Props & { fill: Extract<Fill, { kind: 'as-drawn' | 'grid' }> }) {
  const rows = fill.kind === 'grid' && fill.rows === 'half' ? 'half' : 'straight';
  return (
    <>
      <Pick
        label="Rows"
        value={rows}
        options={ROWS.filter(({ value }) => value !== 'head-to-tail').map(({ value, text }) => ({ value, text }))}
        onChange={(next) =>
          change(sheet.layer.id, { fill: { kind: 'grid', copies: null, gapMm: fill.gapMm, rows: next as 'straight' | 'half' } })
        }
      />
      <LengthField
        wide
        label="Gap between pieces"
        mm={fill.gapMm}
        unit={unit}
        minMm={0}
        onChange={(gapMm) => change(sheet.layer.id, { fill: { ...fill, gapMm } })}
      />
    </>
  );
}

function TurnFields({ sheet: { layer }, record: layUp }: Props) {
  return (
    <>
      <PickRow
        label="Turn"
        value={String(layUp.turnDeg)}
        options={(['0', '90', '180', '270'] as const).map((deg) => ({
          value: deg as string,
          label: `${deg} degrees`,
          content: `${deg}°`,
        }))}
        onChange={(deg) => change(layer.id, { turnDeg: Number(deg) })}
      />
      <NumberField
        label="Free turn"
        value={layUp.turnDeg}
        suffix="°"
        min={-360}
        max={360}
        onChange={(deg) => change(layer.id, { turnDeg: ((deg % 360) + 360) % 360 })}
      />
    </>
  );
}

/** What is pressed on is cut reversed. */
function TransferNotice({ sheet: { layer }, record: layUp }: Props) {
  if (layer.type !== 'film' || !layer.transfer) return null;
  const { mirror, suggested } = mirrorOf(layUp, layer);
  return (
    <Notice level={mirror ? 'note' : 'warning'}>
      <FlipHorizontal2 size={14} className="mr-1 inline" aria-hidden />
      {mirror
        ? `${suggested ? 'Mirrored, as suggested: t' : 'T'}ransfer film is cut reversed, liner side down, and reads right once pressed.`
        : 'This is transfer film: it is cut reversed, or it reads backwards once pressed.'}
      {mirror ? null : (
        <button type="button" className="ml-1 text-teal underline" onClick={() => change(layer.id, { mirror: null })}>
          Mirror it
        </button>
      )}
    </Notice>
  );
}

/** What its way of lying asks for. */
function OwnFields({ keeps, ...props }: Props & { keeps: boolean }) {
  const { fill } = props.record;
  const isSeries = props.sheet.filled.series !== undefined;
  switch (fill.kind) {
    case 'as-drawn':
      return isSeries ? <SeriesFields {...props} fill={fill} /> : <AsDrawnFields {...props} fill={fill} />;
    case 'grid':
      return isSeries ? <SeriesFields {...props} fill={fill} /> : <GridFields {...props} fill={fill} />;
    case 'nest':
      return <NestFields {...props} fill={fill} isKept={keeps} />;
    case 'panels':
      return <PanelsFields sheet={props.sheet} unit={props.unit} fill={fill} />;
  }
}

export function FillCard(props: Props) {
  const { sheet, record: layUp } = props;
  const { layer } = sheet;
  const { fill } = layUp;
  const { mirror } = mirrorOf(layUp, layer);
  const place = buildOf(useDocument((state) => state.drawing)).place;
  const job = useDocument((state) => state.job?.id ?? '');
  return (
    <Card title="How it lies">
      {layer.type === 'film' ? <Figure name="From Build">{place === 'keep' ? 'keeps its place' : 'packed to the start'}</Figure> : null}
      <PickRow
        label="How it lies"
        value={fill.kind}
        options={[...KINDS]}
        onChange={(next) => {
          const hasEnd = Boolean(layUp.sheetLengthMm) || sheet.roll.roll?.isOffcut === true;
          change(layer.id, { fill: fillsBefore.changed(`${job} ${layer.id}`, fill, next, hasEnd) });
        }}
      />
      <OwnFields {...props} keeps={layer.type === 'film' && place === 'keep'} />
      {fill.kind === 'nest' || fill.kind === 'panels' ? null : <TurnFields {...props} />}
      <Switch label="Mirror" checked={mirror} onChange={(on) => change(layer.id, { mirror: on })} />
      <TransferNotice {...props} />
      <ChosenPieces {...props} />
    </Card>
  );
}

const PER = [
  { value: 'whole', label: 'Round the whole', content: 'Whole' },
  { value: 'copy', label: 'Round each copy or group', content: 'Copy' },
  { value: 'part', label: 'Round each part', content: 'Part' },
] as const;

export function WeedCard({ sheet, record: layUp, unit }: Props) {
  if (isPrint(sheet.layer)) return null;
  const { weedBoxMm, weedLines } = layUp;
  const set = (fields: Partial<LayUp>): boolean => change(sheet.layer.id, fields);
  return (
    <Card title="Weeding">
      <Switch label="Weed box" checked={weedBoxMm !== null} onChange={(on) => set({ weedBoxMm: on ? 5 : null })} />
      {weedBoxMm !== null ? (
        <>
          <PickRow label="Weed box round" value={layUp.weedPer ?? 'copy'} options={[...PER]} onChange={(weedPer) => set({ weedPer })} />
          <LengthField wide label="Weed box distance" mm={weedBoxMm} unit={unit} minMm={0} onChange={(mm) => set({ weedBoxMm: mm })} />
        </>
      ) : null}
      <Switch
        label="Weed lines"
        checked={Boolean(weedLines)}
        onChange={(on) => set({ weedLines: on ? { kind: 'straight', spacingMm: 150, clearMm: 3 } : null })}
      />
      {weedLines ? (
        <>
          <PickRow
            label="Weed lines run"
            value={weedLines.kind}
            options={[
              { value: 'straight', label: 'Straight across', content: 'Straight' },
              { value: 'gaps', label: 'Following the gaps', content: 'In the gaps' },
            ]}
            onChange={(kind) => set({ weedLines: { ...weedLines, kind } })}
          />
          <div className="grid grid-cols-2 gap-2">
            <LengthField
              label="Spacing of weed lines"
              short="Every"
              mm={weedLines.spacingMm}
              unit={unit}
              minMm={5}
              onChange={(spacingMm) => set({ weedLines: { ...weedLines, spacingMm } })}
            />
            <LengthField
              label="Distance of weed lines from parts"
              short="Clear"
              mm={weedLines.clearMm}
              unit={unit}
              minMm={0}
              onChange={(clearMm) => set({ weedLines: { ...weedLines, clearMm } })}
            />
          </div>
        </>
      ) : null}
    </Card>
  );
}
