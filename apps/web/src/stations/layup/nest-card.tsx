/** Nesting on the ticket: the rules, the list of parts, the search with its curve, and what it saves. */
import { isPrint, TOGETHER, topOf, type LayUp, type Together } from '@lorvek/model';
import { triedStep } from '@lorvek/core/sheet';
import { describeLength, formatLength, type LengthUnit } from '@lorvek/core/units';
import { bounds } from '@lorvek/core/geometry';
import { clearOf, copiesOfPart, homeOf, outlineOfPart, type LayPart } from '@lorvek/model/lay-places';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { Group, Ungroup } from 'lucide-react';
import { useVirtualizer } from '@tanstack/react-virtual';
import { lazy, Suspense, useEffect, useRef, useState } from 'react';
import { useSheets } from '../../document/sheets.ts';
import { useDocument } from '../../document/store.ts';
import { inItem, pathOf } from '../../drawing/paint.ts';
import { contrast } from '../../drawing/paint-sheet.ts';
import { paintPage } from '../../drawing/print-page.ts';
import { Button, IconButton } from '../../ui/button.tsx';
import { Figure, Notice } from '../../ui/card.tsx';
import { PickRow, Switch } from '../../ui/choices.tsx';
import { Pick } from '../../ui/pick.tsx';
import { LengthField, NumberField } from '../../ui/fields.tsx';
import { ProgressBar } from '../../ui/progress-bar.tsx';
import { useDerivedVersion } from '../../worker/derived.ts';
import { change } from './change.ts';
import { applySearch, behindMm, dropSearch, startSearch, stopSearch, useNestSearch, type NestFill } from './nest-search.ts';

// the chart is not loaded before there is something to draw
const NestCurve = lazy(async () => ({ default: (await import('./nest-curve.tsx')).NestCurve }));

interface Props {
  readonly sheet: SheetPlan;
  readonly record: LayUp;
  readonly unit: LengthUnit;
  readonly fill: NestFill;
  /** Build keeps all films in their place: the whole moves as one. */
  readonly isKept: boolean;
}

const WORDS: Record<Together, string> = {
  outline: 'Every outline by itself',
  word: 'Words of lettering by themselves',
  item: 'Items by themselves',
  group: 'What is grouped together',
  stack: 'What lies on one another together',
};

const TURNS = [
  { value: '0', label: 'Not turned', content: 'None' },
  { value: '180', label: 'Half turns', content: '180°' },
  { value: '90', label: 'Quarter turns', content: '90°' },
  { value: '45', label: 'Steps of 45 degrees', content: '45°' },
] as const;

const TIMES = [
  { value: '20000', text: 'Search for 20 seconds' },
  { value: '60000', text: 'Search for a minute' },
  { value: '300000', text: 'Search for five minutes' },
  { value: '86400000', text: 'Keep improving until stopped' },
];

const PICTURE_PX = 40;

function PartPicture({ part, sheet }: { part: LayPart; sheet: SheetPlan }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const version = useDerivedVersion((state) => state.version);
  useEffect(() => {
    const element = canvas.current;
    const context = element?.getContext('2d');
    if (!element || !context) return;
    const ratio = window.devicePixelRatio || 1;
    [element.width, element.height] = [PICTURE_PX * ratio, PICTURE_PX * ratio];
    const outline = outlineOfPart(part);
    const box = bounds(outline);
    const [width, height] = [box.maxX - box.minX, box.maxY - box.minY];
    const scale = ((PICTURE_PX - 4) / Math.max(width, height, 0.1)) * ratio;
    context.setTransform(scale, 0, 0, -scale, (element.width - width * scale) / 2, (element.height + height * scale) / 2);
    const home = homeOf(outline, false);
    if (sheet.print)
      paintPage(context, {
        ...sheet.print,
        forms: [{ id: part.id, items: part.art }],
        placements: [{ form: part.id, map: home }],
        marks: { contours: [] },
        lines: [],
      });
    else
      inItem(context, home, () => {
        context.fillStyle = contrast('#fdfbf6', 0.85);
        for (const source of part.sources) context.fill(pathOf(source.outline), 'nonzero');
      });
  }, [part, sheet, version]);
  return <canvas ref={canvas} className="size-10 shrink-0 border bg-sheet" aria-hidden />;
}

function PartRow({ part, sheet, fill, unit }: { part: LayPart; sheet: SheetPlan; fill: NestFill; unit: LengthUnit }) {
  const copies = copiesOfPart(fill, part.id);
  const box = bounds(outlineOfPart(part));
  const [widthMm, heightMm] = [box.maxX - box.minX, box.maxY - box.minY];
  // there is little room: tenths only of what is small
  const digits = Math.max(widthMm, heightMm) < 100 ? 10 : 1;
  const rounded = (mm: number): number => Math.round(mm * digits) / digits;
  const set = (fields: NonNullable<NestFill['parts']>[string]): boolean =>
    change(sheet.layer.id, { fill: { ...fill, parts: { ...fill.parts, [part.id]: { ...fill.parts?.[part.id], ...fields } } } });
  return (
    <div className={`flex items-center gap-2 border-b py-1 ${copies === 0 ? 'opacity-60' : ''}`}>
      <input
        type="checkbox"
        className="size-4 accent-teal"
        aria-label={`Nest ${part.name}`}
        checked={copies > 0}
        onChange={(event) => set({ copies: event.target.checked ? 1 : 0 })}
      />
      <PartPicture part={part} sheet={sheet} />
      <div className="min-w-0 flex-1">
        <p className="truncate" title={part.name}>
          {part.name}
        </p>
        <p className="numerals truncate text-xs text-ink-soft">
          {formatLength(rounded(widthMm), unit)} × {describeLength(rounded(heightMm), unit)}
        </p>
      </div>
      <TakeApart part={part} sheet={sheet} fill={fill} />
      <div className="w-14">
        <NumberField
          label={`Copies of ${part.name}`}
          short="×"
          value={copies}
          decimals={0}
          min={0}
          max={2000}
          onChange={(next) => set({ copies: Math.round(next) })}
        />
      </div>
    </div>
  );
}

/** Splits a part one step further (a group into its items, an item into words or outlines), or puts it together again. */
function TakeApart({ part, sheet, fill }: { part: LayPart; sheet: SheetPlan; fill: NestFill }) {
  const drawing = useDocument((state) => state.drawing);
  if (isPrint(sheet.layer)) return null;
  const set = (id: string, apart: boolean): boolean =>
    change(sheet.layer.id, { fill: { ...fill, parts: { ...fill.parts, [id]: { ...fill.parts?.[id], apart } } } });
  const from = [part.id.split('~')[0] ?? part.id, topOf(drawing, part.id.split('~')[0] ?? part.id)].find(
    (id) => fill.parts?.[id]?.apart === true,
  );
  if (from !== undefined)
    return (
      <IconButton label={`Put ${part.name} together again`} onClick={() => set(from, false)}>
        <Group size={14} />
      </IconButton>
    );
  const isOne = part.sources.length === 1 && (part.sources[0]?.outline.contours.length ?? 0) < 2;
  return isOne || fill.together === 'outline' ? null : (
    <IconButton label={`Take ${part.name} apart`} onClick={() => set(part.id, true)}>
      <Ungroup size={14} />
    </IconButton>
  );
}

const ROW_PX = 51;

/** The parts, as many as there are; only those in view are drawn. */
function PartList({ sheet, fill, unit }: Pick<Props, 'sheet' | 'fill' | 'unit'>) {
  const host = useRef<HTMLDivElement>(null);
  const { parts } = sheet;
  const rows = useVirtualizer({ count: parts.length, getScrollElement: () => host.current, estimateSize: () => ROW_PX, overscan: 4 });
  return (
    <div ref={host} role="list" aria-label="Parts" className="max-h-56 overflow-y-auto border-t">
      <div className="relative" style={{ height: rows.getTotalSize() }}>
        {rows.getVirtualItems().map(({ index, start }) => {
          const part = parts[index];
          return part ? (
            <div key={part.id} role="listitem" className="absolute right-0 left-0 pr-1" style={{ top: start }}>
              <PartRow part={part} sheet={sheet} fill={fill} unit={unit} />
            </div>
          ) : null;
        })}
      </div>
    </div>
  );
}

function Found({ sheet, unit }: { sheet: SheetPlan; unit: LengthUnit }) {
  const { answer, beforeMm, beforePieces, boxes, curve } = useNestSearch();
  if (!answer) return null;
  const say = (mm: number): string => describeLength(Math.round(mm * 10) / 10, unit);
  const { widthMm } = sheet.material;
  const sheets = new Set(answer.placed.map((place) => place.sheet)).size;
  // what is before and behind the work on each sheet is used too: all lengths are told as they will be when it is laid
  const edgeMm = clearOf(sheet.ground).x + behindMm(sheet);
  const edgesMm = edgeMm * Math.max(1, sheets);
  const lengthMm = answer.usedLengthMm + edgesMm;
  const saved = beforeMm - lengthMm;
  const left = answer.leftOut.reduce((sum, { copies }) => sum + copies, 0);
  return (
    <>
      <Figure name={sheets > 1 ? `Length, ${sheets} sheets` : 'Length'} strong>
        {say(lengthMm)}
      </Figure>
      <Figure name="Share of it used">{((100 * answer.partsAreaMm2) / Math.max(1, lengthMm * widthMm)).toFixed(0)} %</Figure>
      {beforePieces === answer.placed.length ? (
        <Figure name="Against the layout before">
          {saved > 0.5
            ? `${say(saved)} and ${((saved * widthMm) / 1e6).toFixed(3)} m² less`
            : saved < -0.5
              ? `${say(-saved)} more`
              : 'the same'}
        </Figure>
      ) : (
        <Figure name={`Layout before, ${beforePieces} ${beforePieces === 1 ? 'piece' : 'pieces'}`}>{say(beforeMm)}</Figure>
      )}
      {boxes ? <Figure name="As boxes, not turned">{say(boxes.usedLengthMm + edgeMm * boxes.sheets)}</Figure> : null}
      <Figure name="Pieces">{answer.placed.length}</Figure>
      {left > 0 ? (
        <Notice level="warning">
          {left} {left === 1 ? 'piece finds' : 'pieces find'} no room:{' '}
          {answer.leftOut
            .slice(0, 3)
            .map(({ id }) => sheet.parts.find((part) => part.id === id)?.name ?? id)
            .join(', ')}
          . Allow turns, take a wider roll, or lay them on sheets of a length of their own.
        </Notice>
      ) : null}
      {curve.length > 1 ? (
        <Suspense fallback={null}>
          <NestCurve curve={curve} edgesMm={edgesMm} />
        </Suspense>
      ) : null}
    </>
  );
}

/** What was found is laid, or the layout before is put back. */
function Take({ busy }: { busy: boolean }) {
  return (
    <>
      <Button size="small" look="main" className="flex-1" disabled={busy} onClick={applySearch}>
        Lay them so
      </Button>
      <Button size="small" className="flex-1" onClick={dropSearch}>
        Put back
      </Button>
    </>
  );
}

/** How far the search is, and its end; before it, how long it may take. */
function SearchTime({ share, budget, onBudget }: { share: number | undefined; budget: string; onBudget(ms: string): void }) {
  return share === undefined ? (
    <Pick label="Time of the search" value={budget} options={TIMES} onChange={onBudget} />
  ) : (
    <div className="flex items-center gap-2">
      <ProgressBar label="Time of the search" share={share} />
      <Button size="small" onClick={stopSearch}>
        Stop
      </Button>
    </div>
  );
}

/** The search: begin, stop, apply, put back. */
function Search({ sheet, unit, wanted }: { sheet: SheetPlan; unit: LengthUnit; wanted: number }) {
  const { layer, answer, share, problem } = useNestSearch();
  const busy = useSheets((state) => state.busy);
  const [budget, setBudget] = useState('20000');
  const isMine = layer === sheet.layer.id;
  const running = isMine ? share : undefined;
  const { nest } = sheet.filled;
  return (
    <>
      {nest?.isOld && !isMine ? (
        <Notice level="warning">
          This nest was found for other parts, another material or other rules. Renew it: the search goes on from it.
        </Notice>
      ) : null}
      {isMine ? <Found sheet={sheet} unit={unit} /> : null}
      {isMine && problem ? <Notice level="stop">{problem}</Notice> : null}
      <SearchTime share={running} budget={budget} onBudget={setBudget} />
      <div className="flex gap-1.5">
        {isMine && answer ? <Take busy={busy} /> : null}
        {running !== undefined ? null : (
          <Button
            size="small"
            className="flex-1"
            disabled={wanted === 0 || busy}
            onClick={() => void startSearch(sheet.layer.id, Number(budget))}
          >
            {isMine ? 'Go on' : nest?.isFound ? 'Renew' : 'Nest'}
          </Button>
        )}
      </div>
    </>
  );
}

interface OwnProps {
  readonly fill: NestFill;
  readonly unit: LengthUnit;
  set(fields: Partial<NestFill>): void;
}

/** How far parts may turn, and how near one another they may lie. */
function TurnAndGap({ fill, unit, set }: OwnProps) {
  const isFree = !TURNS.some(({ value }) => Number(value) === fill.turnStepDeg);
  return (
    <>
      <PickRow
        label="Turns"
        value={isFree ? '' : String(fill.turnStepDeg)}
        options={TURNS.map(({ value, ...rest }) => ({ value: value as string, ...rest }))}
        onChange={(deg) => set({ turnStepDeg: Number(deg) })}
      />
      <div className="grid grid-cols-2 gap-2">
        <LengthField label="Gap between parts" short="Gap" mm={fill.gapMm} unit={unit} minMm={0} onChange={(gapMm) => set({ gapMm })} />
        <NumberField
          label="Step of turns"
          short="Step"
          suffix="°"
          value={fill.turnStepDeg}
          min={0}
          max={180}
          onChange={(deg) => set({ turnStepDeg: deg === 0 ? 0 : Math.max(1, Math.round(deg)) })}
        />
      </div>
    </>
  );
}

/** Of very many different parts in fine steps not all turns are tried. */
function TurnsNotice({ parts, fill }: { parts: SheetPlan['parts']; fill: NestFill }) {
  const kinds = parts.filter(({ id }) => copiesOfPart(fill, id) > 0).length;
  const step = triedStep(fill.turnStepDeg, kinds);
  return step > fill.turnStepDeg ? (
    <Notice level="note">
      {kinds} parts are turned in quarters and in steps of {step}° instead of {fill.turnStepDeg}°: all turns of so many take too much
      memory.
    </Notice>
  ) : null;
}

/** How many parts there are; all of them once, or none to begin with. */
function PartCounts({ parts, wanted, set }: { parts: SheetPlan['parts']; wanted: number; set: OwnProps['set'] }) {
  return (
    <div className="flex items-baseline justify-between">
      <span className="rule-label">
        {parts.length} {parts.length === 1 ? 'part' : 'parts'}, {wanted} to lay
      </span>
      <span className="flex gap-2 text-[13px]">
        <button type="button" className="text-teal underline" onClick={() => set({ parts: {} })}>
          All once
        </button>
        <button
          type="button"
          className="text-teal underline"
          onClick={() => set({ parts: Object.fromEntries(parts.map(({ id }) => [id, { copies: 0 }])) })}
        >
          None
        </button>
      </span>
    </div>
  );
}

export function NestFields({ sheet, unit, fill, record, isKept }: Props) {
  const set = (fields: Partial<NestFill>): void => void change(sheet.layer.id, { fill: { ...fill, ...fields } });
  const wanted = sheet.parts.reduce((sum, { id }) => sum + copiesOfPart(fill, id), 0);
  if (isKept)
    return (
      <Notice level="note">
        Build keeps all films in their place, so this one moves as a whole. Choose “packed” on Build to nest its parts by themselves.
      </Notice>
    );
  return (
    <>
      <Pick
        label="What moves as one"
        value={fill.together ?? 'group'}
        options={TOGETHER.map((value) => ({ value: value as string, text: WORDS[value] }))}
        onChange={(together) => set({ together: together as Together })}
      />
      <TurnAndGap fill={fill} unit={unit} set={set} />
      {record.grain ? <Notice level="note">The grain allows {record.grain === 'half' ? 'half turns' : 'no turns'} only.</Notice> : null}
      <Switch label="Small parts into the holes of big ones" checked={fill.intoHoles} onChange={(intoHoles) => set({ intoHoles })} />
      <Switch label="As many as one sheet takes" checked={fill.fillSheet === true} onChange={(fillSheet) => set({ fillSheet })} />
      <PartCounts parts={sheet.parts} wanted={wanted} set={set} />
      {record.grain ? null : <TurnsNotice parts={sheet.parts} fill={fill} />}
      <PartList sheet={sheet} fill={fill} unit={unit} />
      <Search sheet={sheet} unit={unit} wanted={wanted} />
    </>
  );
}
