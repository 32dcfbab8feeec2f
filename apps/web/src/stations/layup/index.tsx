/** The Lay up station: what is cut, from which roll, how it lies there. */
import {
  buildOf,
  isPrint,
  layerOf,
  layersOf,
  layUpOf,
  mirrorOf,
  pageOf,
  setLayUp,
  setScope,
  USUAL_MARKS,
  type Fill,
  type LayUp,
  type Marks,
  type Roll,
  type Scope,
} from '@lorvek/model';
import { describeLength, type LengthUnit } from '@lorvek/core/units';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { FlipHorizontal2 } from 'lucide-react';
import { useEffect, useMemo, useRef } from 'react';
import { useShop } from '../../api/shop.ts';
import { useSheets } from '../../document/sheets.ts';
import { dispatch, select, useDocument } from '../../document/store.ts';
import { fitBox, useView } from '../../drawing/view.ts';
import { Viewport } from '../../drawing/viewport.tsx';
import { FindingsChip, workingText } from '../../frame/findings.tsx';
import { StationFrame } from '../../frame/station-frame.tsx';
import { ZoomGroup } from '../../frame/tool-bench.tsx';
import { Card, Figure, Notice } from '../../ui/card.tsx';
import { Pick, PickRow, Switch } from '../../ui/choices.tsx';
import { LengthField, NumberField } from '../../ui/fields.tsx';
import { useDerivedVersion } from '../../worker/derived.ts';
import { boxOfLanes, lanesOf, paintLanes } from './lanes.ts';

export const fitLayUp = (): void => fitBox('layup', boxOfLanes(lanesOf(useSheets.getState().sheets)), 64);

const change = (film: string, fields: Partial<LayUp>): boolean => dispatch(setLayUp, { film, fields }, { origin: 'sheet.set' });

/** The film whose roll the ticket is about: the one chosen in the strip, if it is laid up, else the topmost. */
function useActive(): SheetPlan | undefined {
  const sheets = useSheets((state) => state.sheets);
  const film = useView((state) => state.film);
  return sheets.find((sheet) => sheet.layer.id === film) ?? sheets.at(-1);
}

/** In words what will be cut. */
export function describeScope(scope: Scope, sheets: readonly SheetPlan[]): string {
  const films = sheets.map((sheet) => sheet.layer.name).join(', ');
  // an item with treatments is cut from several films and still one item
  const items = new Set(sheets.flatMap((sheet) => sheet.itemIds)).size;
  if (sheets.length === 0) return 'Nothing: no item in this choice is cut from a film or printed.';
  const kinds = new Set(sheets.map(({ layer }) => layer.type));
  const noun = kinds.size > 1 ? 'layer' : kinds.has('print') ? 'print' : 'film';
  const from = `${items} ${items === 1 ? 'item' : 'items'} from ${sheets.length} ${sheets.length === 1 ? noun : `${noun}s`} (${films})`;
  if (scope.kind === 'everything') return `Everything: ${from}.`;
  return scope.kind === 'layer' ? `One film: ${from}.` : `The selection: ${from}.`;
}

function ScopeCard() {
  const drawing = useDocument((state) => state.drawing);
  const selection = useDocument((state) => state.selection);
  const { sheets, unknown, share, error } = useSheets();
  const active = useActive();
  const { scope, layers: films } = pageOf(drawing);
  const film = useView((state) => state.film);
  // with one film chosen, the strip chooses which
  useEffect(() => {
    if (scope.kind === 'layer' && film !== undefined && film !== scope.layer && layerOf(drawing, film))
      dispatch(setScope, { scope: { kind: 'layer', layer: film } }, { origin: 'page.scope' });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only when another film is chosen in the strip
  }, [film]);
  const choose = (kind: Scope['kind']): void => {
    const filmId = film ?? active?.layer.id ?? films[0];
    if (kind === 'layer' && !filmId) return;
    const next: Scope =
      kind === 'everything' ? { kind } : kind === 'layer' ? { kind, layer: filmId as string } : { kind, items: [...selection] };
    dispatch(setScope, { scope: next }, { origin: 'page.scope' });
  };
  return (
    <Card title="What is cut">
      <PickRow
        label="What is cut"
        value={scope.kind}
        options={[
          { value: 'everything', label: 'Everything', content: 'Everything' },
          { value: 'layer', label: 'One film or print', content: 'One film' },
          { value: 'selection', label: 'The selection', content: 'Selection' },
        ]}
        onChange={choose}
      />
      {scope.kind === 'layer' ? (
        <Pick
          label="Film or print"
          value={scope.layer}
          options={layersOf(drawing).map((layer) => ({ value: layer.id, text: `${layer.series} ${layer.name}` }))}
          onChange={(layer) => dispatch(setScope, { scope: { kind: 'layer', layer } }, { origin: 'page.scope' })}
        />
      ) : null}
      {unknown && !error ? (
        <p role="status" className="text-ink-soft">
          {workingText(share)}
        </p>
      ) : (
        <p>{error ?? describeScope(scope, sheets)}</p>
      )}
      {scope.kind === 'selection' ? (
        <button type="button" className="self-start text-teal underline" onClick={() => select(scope.items)}>
          Show this selection on the drawing
        </button>
      ) : null}
    </Card>
  );
}

const rollText = (roll: Roll, unit: LengthUnit): string =>
  `${describeLength(roll.widthMm, unit)} wide · ${(roll.lengthLeftMm / 1000).toFixed(2)} m left${roll.isOffcut ? ' · offcut' : ''}`;

function RollCard({ sheet, record, unit }: { sheet: SheetPlan; record: LayUp; unit: LengthUnit }) {
  const stock = useShop((state) => state.stock);
  const entry = stock?.find((film) => film.id === sheet.layer.stockId);
  const { laid, material } = sheet;
  const over = (byMm: number, word: string): string[] =>
    byMm > record.marginMm ? [`${describeLength(byMm - record.marginMm, unit)} too ${word}`] : [];
  const beyond = [...over(laid.overWidthMm, 'wide'), ...over(laid.overLengthMm, 'long')];
  const intoMargin = Math.max(laid.overWidthMm, laid.overLengthMm);
  return (
    <Card title="Roll" aside={<span className="size-4 border border-line-strong" style={{ background: sheet.layer.hex }} />}>
      <Pick
        label={`${sheet.layer.series} ${sheet.layer.name}`}
        value={sheet.roll.roll?.id}
        placeholder="Choose a roll from Stock"
        options={(entry?.rolls ?? []).map((roll) => ({ value: roll.id, text: rollText(roll, unit) }))}
        onChange={(rollId) => change(sheet.layer.id, { rollId })}
      />
      {sheet.roll.how === 'only' ? <Notice level="note">The only roll of this film that will do is taken by itself.</Notice> : null}
      {sheet.roll.roll === null ? (
        <Notice level="stop">
          {sheet.roll.how === 'gone'
            ? 'The roll that was chosen is no longer in Stock.'
            : sheet.roll.how === 'none'
              ? 'There is no roll of this film in Stock.'
              : 'No roll is chosen.'}{' '}
          A roll {describeLength(material.widthMm, unit)} wide is shown; nothing is cut from it.
        </Notice>
      ) : null}
      {beyond.length > 0 ? (
        <Notice level="stop">The work is {beyond.join(' and ')} for this roll. Turn it, take fewer copies or a wider roll.</Notice>
      ) : intoMargin > 0.005 ? (
        <Notice level="warning">The work reaches {describeLength(Math.round(intoMargin * 100) / 100, unit)} into the margin.</Notice>
      ) : null}
      <LessMaterial sheet={sheet} record={record} unit={unit} />
      <LengthField
        wide
        label="Margin"
        mm={record.marginMm}
        unit={unit}
        minMm={0}
        onChange={(marginMm) => change(sheet.layer.id, { marginMm })}
      />
      <Figure name="Used length" strong>
        {describeLength(Math.round(sheet.usedLengthMm * 10) / 10, unit)}
      </Figure>
      {entry ? (
        <Figure name={isPrint(sheet.layer) ? 'Medium used' : 'Film used'}>
          {((sheet.usedLengthMm / 1000) * entry.pricePerMetre).toFixed(2)}
        </Figure>
      ) : null}
      <Figure name="Length of cut">{(sheet.cutMm / 1000).toFixed(2)} m</Figure>
    </Card>
  );
}

/** A quarter turn that takes much less of the roll is offered where its length is seen. */
function LessMaterial({ sheet, record, unit }: { sheet: SheetPlan; record: LayUp; unit: LengthUnit }) {
  const { laid, material } = sheet;
  const { copies } = record.fill.kind === 'as-drawn' ? record.fill : { copies: 0 };
  if (copies !== 1 || laid.placements.length !== 1) return null;
  const [along, across] = [laid.box.maxX - laid.box.minX, laid.box.maxY - laid.box.minY];
  const turned = sheet.usedLengthMm - along + across;
  if (along + 2 * record.marginMm > material.widthMm || turned > 0.85 * sheet.usedLengthMm) return null;
  const say = (mm: number): string => describeLength(Math.round(mm), unit);
  return (
    <Notice level="note">
      Turned a quarter it takes {say(turned)} of the roll instead of {say(sheet.usedLengthMm)}.{' '}
      <button
        type="button"
        className="text-teal underline"
        onClick={() => change(sheet.layer.id, { turnDeg: ((record.turnDeg + 90) % 360) as LayUp['turnDeg'] })}
      >
        Turn it
      </button>
    </Notice>
  );
}

function PlaceCard({ sheet, record, unit }: { sheet: SheetPlan; record: LayUp; unit: LengthUnit }) {
  const { layer: film, laid } = sheet;
  const { fill } = record;
  const setFill = (fields: Partial<Extract<Fill, { kind: 'as-drawn' }>>): void => {
    if (fill.kind === 'as-drawn') change(film.id, { fill: { ...fill, ...fields } });
  };
  const { mirror, suggested } = mirrorOf(record, film);
  const place = buildOf(useDocument((state) => state.drawing)).place;
  return (
    <Card title="How it lies">
      {film.type === 'film' ? <Figure name="From Build">{place === 'keep' ? 'keeps its place' : 'packed to the start'}</Figure> : null}
      <div className="flex flex-col gap-1">
        <span className="rule-label">Turn</span>
        <PickRow
          label="Turn"
          value={String(record.turnDeg)}
          options={(['0', '90', '180', '270'] as const).map((deg) => ({ value: deg, label: `${deg} degrees`, content: `${deg}°` }))}
          onChange={(deg) => change(film.id, { turnDeg: Number(deg) as LayUp['turnDeg'] })}
        />
      </div>
      <Switch label="Mirror" checked={mirror} onChange={(on) => change(film.id, { mirror: on })} />
      {film.type === 'film' && film.transfer ? (
        <Notice level={mirror ? 'note' : 'warning'}>
          <FlipHorizontal2 size={14} className="mr-1 inline" aria-hidden />
          {mirror
            ? `${suggested ? 'Mirrored, as suggested: t' : 'T'}ransfer film is cut reversed, liner side down, and reads right once pressed.`
            : 'This is transfer film: it is cut reversed, or it reads backwards once pressed.'}
          {mirror ? null : (
            <button type="button" className="ml-1 text-teal underline" onClick={() => change(film.id, { mirror: null })}>
              Mirror it
            </button>
          )}
        </Notice>
      ) : null}
      {fill.kind === 'as-drawn' ? (
        <div className="grid grid-cols-2 gap-2">
          <NumberField
            label="Copies"
            value={fill.copies}
            decimals={0}
            min={1}
            max={2000}
            onChange={(copies) => setFill({ copies: Math.round(copies) })}
          />
          <LengthField
            label="Gap between copies"
            short="Gap"
            mm={fill.gapMm}
            unit={unit}
            minMm={0}
            onChange={(gapMm) => setFill({ gapMm })}
          />
          <LengthField
            label="Along the roll"
            short="Along"
            mm={fill.alongMm}
            unit={unit}
            minMm={0}
            hint="From the margin"
            onChange={(alongMm) => setFill({ alongMm })}
          />
          <LengthField
            label="Across the roll"
            short="Across"
            mm={fill.acrossMm}
            unit={unit}
            minMm={0}
            hint="From the margin"
            onChange={(acrossMm) => setFill({ acrossMm })}
          />
        </div>
      ) : null}
      {fill.kind === 'as-drawn' && fill.copies > 1 ? <Figure name="Side by side">{Math.min(laid.across, fill.copies)}</Figure> : null}
      {isPrint(film) ? null : (
        <Switch label="Weed box" checked={record.weedBoxMm !== null} onChange={(on) => change(film.id, { weedBoxMm: on ? 5 : null })} />
      )}
      {record.weedBoxMm !== null && !isPrint(film) ? (
        <LengthField
          wide
          label="Weed box distance"
          mm={record.weedBoxMm}
          unit={unit}
          minMm={0}
          onChange={(weedBoxMm) => change(film.id, { weedBoxMm })}
        />
      ) : null}
    </Card>
  );
}

const MARK_KINDS: Record<Marks['kind'], string> = {
  'corners-in': 'Corners in: least material',
  'corners-out': 'Corners out',
  dots: 'Dots',
  crosses: 'Crosses',
};

/** Registration marks of a print: what a camera finds before it cuts. */
function MarksCard({ sheet, unit }: { sheet: SheetPlan; unit: LengthUnit }) {
  if (!isPrint(sheet.layer)) return null;
  const marks = sheet.markSettings?.marks ?? null;
  const set = (fields: Partial<Marks>): void => void change(sheet.layer.id, { marks: { ...(marks ?? USUAL_MARKS), ...fields } });
  return (
    <Card title="Registration marks">
      <Switch
        label="Marks for the camera"
        checked={marks !== null}
        onChange={(on) => change(sheet.layer.id, { marks: on ? USUAL_MARKS : null })}
      />
      {marks ? (
        <>
          <Pick
            label="Kind of mark"
            value={marks.kind}
            options={(Object.keys(MARK_KINDS) as Marks['kind'][]).map((kind) => ({ value: kind, text: MARK_KINDS[kind] }))}
            onChange={(kind) => set({ kind: kind as Marks['kind'] })}
          />
          <PickRow
            label="How many marks"
            value={String(marks.count)}
            options={(['2', '3', '4'] as const).map((value) => ({ value, label: `${value} marks`, content: value }))}
            onChange={(value) => set({ count: Number(value) as Marks['count'] })}
          />
          <div className="grid grid-cols-2 gap-2">
            <LengthField
              label="Distance from the work"
              short="Distance"
              mm={marks.distanceMm}
              unit={unit}
              minMm={1}
              onChange={(distanceMm) => set({ distanceMm })}
            />
            <LengthField label="Arm length" short="Arms" mm={marks.armMm} unit={unit} minMm={2} onChange={(armMm) => set({ armMm })} />
            <LengthField
              label="Line thickness"
              short="Thickness"
              mm={marks.thicknessMm}
              unit={unit}
              minMm={0.2}
              onChange={(thicknessMm) => set({ thicknessMm })}
            />
          </div>
          <Switch label="Job code beside the first mark" checked={marks.code} onChange={(code) => set({ code })} />
          {sheet.code ? <Figure name="Short name of the sheet">{sheet.code.text}</Figure> : null}
          <Figure name="Material for marks">
            {describeLength(Math.round(10 * (sheet.markSettings?.bandMm ?? 0)) / 10, unit)} on each side
          </Figure>
        </>
      ) : (
        <Notice level="note">Without marks a cutter cannot find the print: what is printed is then not cut to its line.</Notice>
      )}
    </Card>
  );
}

function LayUpSurface() {
  const drawing = useDocument((state) => state.drawing);
  const selection = useDocument((state) => state.selection);
  const sheets = useSheets((state) => state.sheets);
  const active = useActive();
  const lanes = useMemo(() => lanesOf(sheets), [sheets]);
  // the sheets come after the station: it is fitted to the first that there are
  const isFitted = useRef(false);
  useEffect(() => {
    if (isFitted.current || lanes.length === 0) return;
    isFitted.current = true;
    fitLayUp();
  }, [lanes]);
  // pictures come when they have been fetched
  const version = useDerivedVersion((state) => state.version);
  const { unit } = pageOf(drawing);
  const chosen = useMemo(() => new Set(selection), [selection]);
  return (
    <Viewport
      name="layup"
      unit={unit}
      label="Rolls with the work on them"
      deps={[lanes, active, chosen, drawing, version]}
      paint={(context, view, size) =>
        paintLanes(context, view, size, {
          lanes,
          active: active?.layer.id,
          selection: chosen,
          marginOf: (film) => layUpOf(drawing, film).marginMm,
          describe: ({ layer: film, material, usedLengthMm }) =>
            `${film.series} ${film.name}  ·  ${describeLength(material.widthMm, unit)} wide  ·  ${describeLength(Math.round(usedLengthMm), unit)} used${mirrorOf(layUpOf(drawing, film.id), film).mirror ? '  ·  mirrored' : ''}`,
        })
      }
      onFirstSize={fitLayUp}
      onDown={({ at }) => {
        const lane = lanes.find((l) => at.y >= l.y && at.y <= l.y + l.sheet.material.widthMm);
        if (lane) useView.setState({ film: lane.sheet.layer.id });
      }}
    />
  );
}

export function LayUpStation() {
  const drawing = useDocument((state) => state.drawing);
  const active = useActive();
  const { busy, unknown } = useSheets();
  const { unit } = pageOf(drawing);
  const record = active ? layUpOf(drawing, active.layer.id) : undefined;
  return (
    <StationFrame
      zoom={<ZoomGroup name="layup" onFit={fitLayUp} />}
      ticket={
        <>
          <ScopeCard />
          {active && record ? (
            <>
              <RollCard sheet={active} record={record} unit={unit} />
              <PlaceCard sheet={active} record={record} unit={unit} />
              <MarksCard sheet={active} unit={unit} />
            </>
          ) : busy || unknown ? null : (
            <Notice level="note">Nothing to lay up yet. Draw something and give it a film.</Notice>
          )}
        </>
      }
    >
      <LayUpSurface />
      <FindingsChip withRolls />
    </StationFrame>
  );
}
