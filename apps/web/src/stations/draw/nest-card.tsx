/** Nest: what is selected, packed by its real outlines onto the width of a roll; seen on the drawing before anything moves. */
import {
  compose,
  EMPTY_OUTLINE,
  formatPath,
  joinOutlines,
  mapOutline,
  translation,
  type Box,
  type Matrix,
  type Outline,
} from '@lorvek/core/geometry';
import { describeLength } from '@lorvek/core/units';
import {
  addItems,
  ANY_ROLL,
  copyItems,
  defaultLayUp,
  isOutOfReach,
  leavesOf,
  mapItem,
  pageOf,
  layUpOf,
  transformEach,
  type Drawing,
  type Item,
  type LeafItem,
} from '@lorvek/model';
import { useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';
import { sentenceOf } from '../../api/client.ts';
import { useSheets } from '../../document/sheets.ts';
import { asOne, dispatch, newId, select, useDocument } from '../../document/store.ts';
import { boxOf } from '../../drawing/selection.ts';
import { fitBox } from '../../drawing/view.ts';
import { Button } from '../../ui/button.tsx';
import { Card, Figure, Notice } from '../../ui/card.tsx';
import { PickRow, Switch } from '../../ui/choices.tsx';
import { LengthField, NumberField } from '../../ui/fields.tsx';
import { ProgressBar } from '../../ui/progress-bar.tsx';
import { askNest, stopNest } from '../../worker/compute.ts';
import { outlineOf, piecesOf } from '../../worker/derived.ts';
import type { NestAnswer, NestAsked, NestRoot } from '../../worker/nest-ops.ts';
import { usePlacingPreview } from './overlay.tsx';

/** The search goes on for so long when nobody stops it. */
const BUDGET_MS = 20_000;

type Turns = '0' | '180' | '90' | '15';

interface Asked {
  gapMm: number;
  turns: Turns;
  copies: number;
  intoHoles: boolean;
  keepTogether: boolean;
}

/** A result belongs to the drawing and the selection that it was worked out for. */
interface Found {
  readonly drawing: Drawing;
  readonly answer: NestAnswer;
  /** Where the strip begins on the drawing. */
  readonly at: Matrix;
  readonly widthMm: number;
}

/** Where a leaf lies and what room it takes, on the drawing. A picture takes that of its clipping outline. */
function roomOf(leaf: LeafItem): { lies: Outline; takes: Outline } {
  const onPage = (outline: Outline): Outline => mapOutline(leaf.matrix, outline);
  if (leaf.kind === 'dimension') return { lies: EMPTY_OUTLINE, takes: EMPTY_OUTLINE };
  if (leaf.kind === 'picture') {
    const lies = onPage(outlineOf(leaf) ?? EMPTY_OUTLINE);
    return { lies, takes: leaf.hidden ? EMPTY_OUTLINE : lies };
  }
  const cut = piecesOf(leaf).map((piece) => piece.outline);
  const all = onPage(joinOutlines([outlineOf(leaf) ?? EMPTY_OUTLINE, ...cut]));
  return { lies: all, takes: all };
}

function rootsOf(drawing: Drawing, ids: readonly string[]): NestRoot[] {
  return ids
    .filter((id) => leavesOf(drawing, [id]).some((leaf) => !isOutOfReach(drawing, leaf.id)))
    .map((id) => {
      const rooms = leavesOf(drawing, [id]).map(roomOf);
      return { id, lies: joinOutlines(rooms.map(({ lies }) => lies)), takes: joinOutlines(rooms.map(({ takes }) => takes)) };
    });
}

/** Moves the first copy of each set, and makes the others. */
function place({ drawing, answer: { sets, result }, at }: Found): void {
  if (useDocument.getState().drawing !== drawing) {
    toast.warning('The drawing has changed meanwhile. Nest once more.');
    return;
  }
  const step = newId('nest');
  const laid = result.placed.map((placed) => ({ ...placed, ids: sets[Number(placed.id)]?.ids ?? [], map: compose(at, placed.map) }));
  const first = laid.filter(({ copy }) => copy === 0);
  const items: Item[] = [];
  const roots: string[] = [];
  for (const { ids, map, copy } of laid) {
    if (copy === 0) continue;
    const made = copyItems(drawing, ids, () => newId('item'));
    items.push(...made.items.map((item) => (item.kind === 'group' ? item : mapItem(item, map))));
    roots.push(...made.roots);
  }
  const manner = { origin: 'item.nest', group: step };
  const taken = asOne(manner, () => {
    dispatch(transformEach, { moves: first }, manner);
    if (items.length > 0) dispatch(addItems, { items, roots }, manner);
  });
  if (!taken) return;
  select([...first.flatMap(({ ids }) => ids), ...roots]);
  toast.success(`${laid.length} ${laid.length === 1 ? 'part lies' : 'parts lie'} nested.`);
}

/** The strip as far as it is used, on the drawing. */
function stripOf({ answer: { result }, at: [, , , , x, y], widthMm }: Found): Box {
  return { minX: x, minY: y, maxX: x + result.usedLengthMm, maxY: y + widthMm };
}

function showOnDrawing(found: Found): void {
  const { sets, result } = found.answer;
  const { at } = found;
  const paths = sets.map(({ takes }) => formatPath(takes, 2));
  usePlacingPreview.setState({
    shown: {
      boxes: [stripOf(found)],
      arrows: [],
      outlines: result.placed.map(({ id, map }) => ({ path: paths[Number(id)] ?? '', map: compose(at, map) })),
    },
  });
}

const hide = (): void => usePlacingPreview.setState({ shown: undefined });

/** One search at a time, its best result so far, and how far its time has gone. */
function useNesting(ids: readonly string[]) {
  const drawing = useDocument((state) => state.drawing);
  const [found, setFound] = useState<Found>();
  const [share, setShare] = useState<number>();
  const [problem, setProblem] = useState<string>();
  const search = useRef(0);
  const drop = (): void => {
    search.current++;
    stopNest();
    setShare(undefined);
    setFound(undefined);
    setProblem(undefined);
    hide();
  };
  // what was found is good only for what was selected, as it lay
  useEffect(() => drop, [drawing, ids]);
  const start = async (asked: Omit<NestAsked, 'roots' | 'budgetMs'>): Promise<void> => {
    drop();
    const mine = ++search.current;
    const box = boxOf(drawing, ids);
    if (!box) return;
    const at = translation(box.minX, box.minY);
    let isFirst = true;
    const take = (answer: NestAnswer): void => {
      if (mine !== search.current) return;
      const next = { drawing, answer, at, widthMm: asked.widthMm };
      setFound(next);
      showOnDrawing(next);
      // later results are shorter, so the view does not have to move again
      if (isFirst) fitBox('drawing', stripOf(next));
      isFirst = false;
    };
    setShare(0);
    try {
      take(
        await askNest('nest', { ...asked, roots: rootsOf(drawing, ids), budgetMs: BUDGET_MS }, (done, soFar) => {
          if (mine !== search.current) return;
          if (soFar) take(soFar);
          else setShare(done);
        }),
      );
    } catch (error) {
      if (mine === search.current) setProblem(sentenceOf(error));
    }
    if (mine === search.current) setShare(undefined);
  };
  /** Ends the search; the best so far stays. */
  const stop = (): void => {
    search.current++;
    stopNest();
    setShare(undefined);
  };
  return { found, share, problem, start, stop, drop };
}

/** The clear width of the roll that the selection's first film lies on. */
function useRollWidth(ids: readonly string[]): number {
  const drawing = useDocument((state) => state.drawing);
  const sheets = useSheets((state) => state.sheets);
  const film = leavesOf(drawing, ids).find((leaf) => leaf.layer !== null)?.layer ?? pageOf(drawing).layers[0];
  const { widthMm } = sheets.find((sheet) => sheet.layer.id === film)?.material ?? ANY_ROLL;
  return widthMm - 2 * (film === undefined ? defaultLayUp('') : layUpOf(drawing, film)).marginMm;
}

function Result({ found: { answer, widthMm } }: { found: Found }) {
  const { unit } = pageOf(useDocument((state) => state.drawing));
  const { result, boxesLengthMm } = answer;
  const say = (mm: number): string => describeLength(Math.round(mm * 10) / 10, unit);
  const saved = boxesLengthMm - result.usedLengthMm;
  return (
    <>
      <Figure name="Used length" strong>
        {say(result.usedLengthMm)}
      </Figure>
      <Figure name="As boxes, not turned">{say(boxesLengthMm)}</Figure>
      <Figure name="Saved">{saved > 0 ? `${say(saved)} · ${((saved * widthMm) / 1e6).toFixed(3)} m²` : 'nothing'}</Figure>
      <Figure name="Covered">{((100 * result.partsAreaMm2) / Math.max(1, result.usedLengthMm * widthMm)).toFixed(0)} %</Figure>
      {result.leftOut.length > 0 ? (
        <Notice level="warning">
          {result.leftOut.length} {result.leftOut.length === 1 ? 'part is' : 'parts are'} wider than the material and stay where they are.
          Allow turns, or take a wider roll.
        </Notice>
      ) : null}
    </>
  );
}

export function NestCard({ ids }: { ids: readonly string[] }) {
  const { unit } = pageOf(useDocument((state) => state.drawing));
  const rollWidth = useRollWidth(ids);
  const [width, setWidth] = useState<number>();
  const [asked, setAsked] = useState<Asked>({ gapMm: 3, turns: '90', copies: 1, intoHoles: false, keepTogether: true });
  const { found, share, problem, start, stop, drop } = useNesting(ids);
  const set = (fields: Partial<Asked>): void => {
    drop();
    setAsked((now) => ({ ...now, ...fields }));
  };
  const widthMm = width ?? rollWidth;
  const begin = (): void => {
    const { turns, ...rest } = asked;
    void start({ ...rest, turnStepDeg: Number(turns), widthMm });
  };
  return (
    <Card title="Nest" startsOpen={false}>
      <LengthField
        wide
        label="Clear width of the material"
        short="Width"
        mm={widthMm}
        unit={unit}
        minMm={1}
        onChange={(mm) => (drop(), setWidth(mm))}
      />
      <div className="grid grid-cols-2 gap-2">
        <LengthField label="Gap between parts" short="Gap" mm={asked.gapMm} unit={unit} minMm={0} onChange={(gapMm) => set({ gapMm })} />
        <NumberField
          label="Copies of each"
          short="Copies"
          value={asked.copies}
          decimals={0}
          min={1}
          max={500}
          onChange={(copies) => set({ copies: Math.round(copies) })}
        />
      </div>
      <PickRow<Turns>
        label="Turns"
        value={asked.turns}
        options={[
          { value: '0', label: 'Not turned: for films with a grain', content: 'As it is' },
          { value: '180', label: 'Half turns', content: '180°' },
          { value: '90', label: 'Quarter turns', content: '90°' },
          { value: '15', label: 'Steps of 15 degrees', content: '15°' },
        ]}
        onChange={(turns) => set({ turns })}
      />
      <Switch
        label="Keep together what lies on one another"
        checked={asked.keepTogether}
        onChange={(keepTogether) => set({ keepTogether })}
      />
      <Switch label="Small parts into the holes of big ones" checked={asked.intoHoles} onChange={(intoHoles) => set({ intoHoles })} />
      {found ? <Result found={found} /> : null}
      {problem ? <Notice level="stop">{problem}</Notice> : null}
      {share === undefined ? null : (
        <div className="flex items-center gap-2">
          <ProgressBar label="Time of the search" share={share} />
          <Button size="small" onClick={stop}>
            Stop
          </Button>
        </div>
      )}
      <div className="flex gap-1.5">
        <Button size="small" className="flex-1" disabled={share !== undefined} onClick={begin}>
          {found ? 'Nest once more' : 'Nest'}
        </Button>
        {found ? (
          <Button size="small" look="main" className="flex-1" onClick={() => (stop(), hide(), place(found))}>
            Place them so
          </Button>
        ) : null}
      </div>
    </Card>
  );
}
