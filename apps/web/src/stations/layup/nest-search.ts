/**
 * The search for a nest: one at a time, its best result so far shown on the material, its time and its curve. It goes on while
 * other stations are looked at, is kept over a reload, and ends with a word when what it is for has changed.
 */
import { compose, invert, mapOutline, translation } from '@lorvek/core/geometry';
import { layUpOf, mirrorOf, setLayUp, type Fill, type LayUp } from '@lorvek/model';
import { clearOf, copiesOfPart, homeOf, outlineOfPart, placedOf, type LayPart, type Placement } from '@lorvek/model/lay-places';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { toast } from 'sonner';
import { create } from 'zustand';
import { sentenceOf } from '../../api/client.ts';
import { useSheets } from '../../document/sheets.ts';
import { dispatch, useDocument } from '../../document/store.ts';
import { askAside, askNests, stopNests } from '../../worker/compute.ts';
import { betterNest } from './better-nest.ts';
import { forgetNest, keepNest, keptNest } from './kept-nest.ts';
import type { BoxesLength, NestAnswer, NestAsked } from '@lorvek/computations';

export type NestFill = Extract<Fill, { kind: 'nest' }>;

export interface NestSearch {
  readonly job: string | undefined;
  /** The layer that is nested; undefined: none is, or was since the last change. */
  readonly layer: string | undefined;
  readonly answer: NestAnswer | undefined;
  /** Key of what the answer is for. */
  readonly key: string;
  readonly share: number | undefined;
  readonly curve: readonly { readonly seconds: number; readonly lengthMm: number }[];
  /** Used length before, of so many pieces, and as boxes, mm. */
  readonly beforeMm: number;
  readonly beforePieces: number;
  readonly boxes: BoxesLength | undefined;
  readonly problem: string | undefined;
}

const NONE: NestSearch = {
  job: undefined,
  layer: undefined,
  answer: undefined,
  key: '',
  share: undefined,
  curve: [],
  beforeMm: 0,
  beforePieces: 0,
  boxes: undefined,
  problem: undefined,
};
export const useNestSearch = create<NestSearch>(() => NONE);

class Turn {
  private count = 0;
  next(): number {
    return ++this.count;
  }
  isMine(mine: number): boolean {
    return mine === this.count;
  }
}
const turn = new Turn();

/** Ends the search; the best so far stays to be looked at. */
export function stopSearch(): void {
  turn.next();
  stopNests();
  useNestSearch.setState({ share: undefined });
}

function endSearch(): void {
  turn.next();
  stopNests();
  useNestSearch.setState(NONE);
}

/** Ends the search and forgets what it found. */
export function dropSearch(): void {
  endSearch();
  forgetNest();
}

/** What was found and is not laid yet outlives the page. */
function keep(): void {
  const { share: _share, problem: _problem, ...found } = useNestSearch.getState();
  keepNest(found);
}

/** What is nested, with what is locked: another key as soon as what was found would no longer lie as it was found. */
function keyOf(sheets: readonly SheetPlan[]): string {
  const locked = sheets.flatMap(({ placements }) => placements.filter((placement) => placement.locked));
  return [sheets[0]?.filled.nest?.key ?? '', ...locked.map(({ part, copy, sheet, map }) => [part, copy, sheet, ...map].join(' '))].join(
    '|',
  );
}

const sheetsOfLayer = (sheets: readonly SheetPlan[], layer: string): SheetPlan[] => sheets.filter((sheet) => sheet.layer.id === layer);

/** Takes up what was found before the page was loaded anew. */
function takeUp(sheets: readonly SheetPlan[]): void {
  const job = useDocument.getState().job?.id;
  const kept = job === undefined ? undefined : keptNest(job);
  if (kept && keyOf(sheetsOfLayer(sheets, kept.layer)) === kept.key) useNestSearch.setState({ ...NONE, ...kept });
}

/** A search is for parts, material and rules as they were: when those change it ends. */
function follow({ sheets, busy, unknown }: ReturnType<typeof useSheets.getState>): void {
  const { job, layer, key } = useNestSearch.getState();
  const isOther = job !== useDocument.getState().job?.id;
  if (layer !== undefined && isOther) {
    // whoever comes back to the job finds it again
    keep();
    return endSearch();
  }
  if (busy || unknown) return;
  if (layer === undefined) return takeUp(sheets);
  if (keyOf(sheetsOfLayer(sheets, layer)) === key) return;
  toast.warning('What is nested has changed: what was found for it does not fit any more. Nest once more.');
  dropSearch();
}
useSheets.subscribe(follow);
// the sheets may be known before this station is opened for the first time
follow(useSheets.getState());
window.addEventListener('pagehide', keep);

const MOST_COPIES = 2000;
const GRAINS = { none: 0, half: 180 } as const;

/** The turns that rules and grain allow together. */
export const stepOf = (fill: NestFill, { grain }: LayUp): number =>
  grain === 'none' ? GRAINS.none : grain === 'half' ? (fill.turnStepDeg === 0 ? 0 : GRAINS.half) : fill.turnStepDeg;

type Before = NestAsked['before'];

/** Along the strip, sheet by sheet. */
const inOrder = <P extends Pick<Placement, 'sheet' | 'map'>>(places: readonly P[]): P[] =>
  [...places].sort((a, b) => a.sheet - b.sheet || a.map[4] - b.map[4] || a.map[5] - b.map[5]);

/** Copies as a search found them; their places only where they are on one sheet. */
function asFound({ placed }: NestAnswer): Before {
  const isOne = placed.every(({ sheet }) => sheet === 0);
  return inOrder(placed).map(({ id, copy, map }) => ({ id, copy, ...(isOne ? { map } : {}) }));
}

/** Copies as they lie. */
function asLying(all: readonly Placement[], partOf: ReadonlyMap<string, LayPart>, ground: SheetPlan['ground']): Before {
  const clear = clearOf(ground);
  const isOne = all.every(({ sheet }) => sheet === 0);
  return inOrder(all).map(({ part, copy, map }) => {
    const own = partOf.get(part);
    const home = own && invert(homeOf(outlineOfPart(own), ground.mirror));
    const place = home && compose(translation(-clear.x, -clear.y), compose(map, home));
    return { id: part, copy, ...(place && isOne ? { map: place } : {}) };
  });
}

/** @param found what the search goes on from; absent: from what lies on the sheets */
function askedOf(
  sheets: readonly SheetPlan[],
  record: LayUp,
  fill: NestFill,
  { found, ...rules }: { budgetMs: number; seed: number; found: NestAnswer | undefined },
): NestAsked | undefined {
  const [first] = sheets;
  if (!first) return undefined;
  const ground = first.ground;
  const clear = clearOf(ground);
  const all = sheets.flatMap(({ placements }) => placements);
  const locked = all.filter((placement) => placement.locked);
  const isLocked = new Set(locked.map(({ part, copy }) => `${copy} ${part}`));
  const partOf = new Map(first.parts.map((part) => [part.id, part]));
  return {
    parts: first.parts.flatMap((part) => {
      const wanted = copiesOfPart(fill, part.id);
      // a sheet that is filled takes as many as go: numbers enough, without those that are locked
      const most = fill.fillSheet && wanted > 0 ? MOST_COPIES : wanted;
      const copies = Array.from({ length: most }, (_, copy) => copy).filter((copy) => !isLocked.has(`${copy} ${part.id}`));
      const outline = outlineOfPart(part);
      return copies.length > 0 && outline.contours.length > 0
        ? [{ id: part.id, outline: mapOutline(homeOf(outline, ground.mirror), outline), copies }]
        : [];
    }),
    fixed: sheets.map(({ number }) =>
      locked
        .filter(({ sheet }) => sheet === number)
        .flatMap(({ part, map }) => {
          const own = partOf.get(part);
          return own ? [mapOutline(compose(translation(-clear.x, -clear.y), map), outlineOfPart(own))] : [];
        }),
    ),
    widthMm: clear.widthMm,
    lengthMm: clear.lengthMm,
    sheets: record.sheetLengthMm !== null && record.sheetLengthMm !== undefined,
    fill: fill.fillSheet === true,
    gapMm: fill.gapMm,
    turnStepDeg: stepOf(fill, record),
    intoHoles: fill.intoHoles,
    before: found ? asFound(found) : fill.found ? asLying(all, partOf, ground) : [],
    ...rules,
  };
}

const lengthOf = (sheets: readonly SheetPlan[]): number => sheets.reduce((sum, { usedLengthMm }) => sum + usedLengthMm, 0);

/** The page and what it shows want cores of their own; a second search beside them helps only where there are more. */
const searchesFor = (cores: number): number => (cores >= 4 ? 2 : 1);

/** Looks for a nest of one layer's parts: from two starts where the computer has room for that, the better one wins. */
export async function startSearch(layer: string, budgetMs: number): Promise<void> {
  const sheets = sheetsOfLayer(useSheets.getState().sheets, layer);
  const { drawing, job } = useDocument.getState();
  const record = layUpOf(drawing, layer);
  const { fill } = record;
  if (fill.kind !== 'nest') return;
  const key = keyOf(sheets);
  const last = useNestSearch.getState();
  const found = last.layer === layer && last.key === key ? last.answer : undefined;
  dropSearch();
  const mine = turn.next();
  // every search looks elsewhere: the seed is the time
  const asked = askedOf(sheets, record, fill, { budgetMs, seed: Date.now() % 1_000_000, found });
  if (!asked) return;
  useNestSearch.setState({
    job: job?.id,
    layer,
    share: 0,
    key,
    answer: found,
    curve: found ? [{ seconds: 0, lengthMm: Math.round(found.usedLengthMm) }] : [],
    beforeMm: lengthOf(sheets),
    beforePieces: sheets.reduce((sum, { placements }) => sum + placements.filter((placement) => !placement.locked).length, 0),
  });
  const take = (answer: NestAnswer): void => {
    if (!turn.isMine(mine) || !betterNest(answer, useNestSearch.getState().answer)) return;
    const lengthMm = Math.round(answer.usedLengthMm);
    useNestSearch.setState(({ curve }) => ({
      answer,
      curve:
        curve.at(-1)?.lengthMm === lengthMm
          ? curve
          : [...curve, { seconds: Math.round(answer.elapsedMs / 100) / 10, lengthMm }].slice(-200),
    }));
  };
  void askAside('boxes-length', asked)
    .then((boxes) => turn.isMine(mine) && useNestSearch.setState({ boxes }))
    // only compared with
    .catch(() => undefined);
  const starts = askNests.slice(0, searchesFor(navigator.hardwareConcurrency));
  const shares = starts.map(() => 0);
  const search = async (askNest: (typeof askNests)[number], i: number): Promise<void> => {
    const onShare = (share: number, soFar: NestAnswer | undefined): void => {
      if (!turn.isMine(mine)) return;
      shares[i] = share;
      // it is over when the slower one is
      useNestSearch.setState({ share: Math.min(...shares) });
      if (soFar) take(soFar);
    };
    take(await askNest('nest', { ...asked, seed: asked.seed + i }, onShare).finally(() => (shares[i] = 1)));
  };
  const ended = await Promise.allSettled(starts.map(search));
  // what one search could not do the other may have done
  const failures = ended.flatMap((one) => (one.status === 'rejected' ? [one.reason as unknown] : []));
  if (turn.isMine(mine) && failures.length === ended.length) useNestSearch.setState({ problem: sentenceOf(failures[0]) });
  if (turn.isMine(mine)) useNestSearch.setState({ share: undefined });
}

/** The places of an answer on the sheets, as full maps; locked copies stay. */
function placementsOf(sheets: readonly SheetPlan[], record: LayUp, answer: NestAnswer): Placement[] {
  const [first] = sheets;
  if (!first) return [];
  const ground = first.ground;
  const clear = clearOf(ground);
  const homes = new Map(first.parts.map((part) => [part.id, homeOf(outlineOfPart(part), ground.mirror)]));
  const locked = sheets.flatMap(({ placements }) => placements.filter((placement) => placement.locked));
  return [
    ...locked,
    ...answer.placed.flatMap(({ id, copy, sheet, map }): Placement[] => {
      const home = homes.get(id);
      return home
        ? [{ part: id, copy, sheet, map: compose(translation(clear.x, clear.y), compose(map, home)), locked: false, moved: true }]
        : [];
    }),
  ];
}

/** Sheets as they are shown: those of the layer that is nested as the best result so far has them. */
export function shownSheets(sheets: readonly SheetPlan[], { layer, answer }: NestSearch): SheetPlan[] {
  const own = sheets.filter((sheet) => sheet.layer.id === layer);
  const [first] = own;
  if (!first || !answer) return [...sheets];
  const placements = placementsOf(own, layUpOf(useDocument.getState().drawing, first.layer.id), answer);
  const count = 1 + Math.max(0, ...placements.map(({ sheet }) => sheet));
  const shown = Array.from({ length: count }, (_, number) => previewOf(own[number] ?? first, number, count, placements));
  return sheets.flatMap((sheet) => (sheet === first ? shown : sheet.layer.id === layer ? [] : [sheet]));
}

/** What is used behind the work on a sheet, mm: for weeding, for marks, and the margin. */
export const behindMm = ({ layUp, ground }: SheetPlan): number => (ground.weedBoxMm ?? 0) + ground.bandMm + layUp.marginMm;

function previewOf(like: SheetPlan, number: number, of: number, all: readonly Placement[]): SheetPlan {
  const placements = all.filter(({ sheet }) => sheet === number);
  const used = (part: LayPart): boolean => placements.some((one) => one.part === part.id);
  const parts = new Map(like.parts.map((part) => [part.id, part]));
  const end = placements.reduce((most, { part, map }) => {
    const own = parts.get(part);
    if (!own) return most;
    return Math.max(most, ...own.sources.map(({ outline }) => endOf(outline, map)));
  }, 0);
  const { code: _code, print, ...rest } = like;
  return {
    ...rest,
    id: `${like.layUp.id}/${number + 1}`,
    number,
    of,
    placements,
    usedLengthMm: end + behindMm(like),
    lines: [],
    marks: [],
    findings: [],
    frame: { ...like.frame, weedBoxes: [], overWidthMm: 0, overLengthMm: 0 },
    ...(print
      ? {
          print: {
            ...print,
            forms: like.parts.filter(used).map(({ id, art }) => ({ id, items: art })),
            placements: placements.map(({ part, map }) => ({ form: part, map })),
            marks: { contours: [] },
            lines: [],
          },
        }
      : {}),
  };
}

/** How far along the material an outline reaches under a map, by its nodes. */
function endOf({ contours }: ReturnType<typeof outlineOfPart>, [a, , c, , e]: Placement['map']): number {
  let most = -Infinity;
  for (const { spans } of contours)
    for (const span of spans)
      for (let i = 0; i < span.length; i += 2) most = Math.max(most, a * (span[i] ?? 0) + c * (span[i + 1] ?? 0) + e);
  return most;
}

/** Lays the parts as they were found. */
export function applySearch(): void {
  const { layer, answer, key } = useNestSearch.getState();
  if (layer === undefined || !answer) return;
  const { sheets, busy } = useSheets.getState();
  if (busy) return;
  stopSearch();
  const own = sheetsOfLayer(sheets, layer);
  const record = layUpOf(useDocument.getState().drawing, layer);
  const [first] = own;
  if (!first || record.fill.kind !== 'nest' || keyOf(own) !== key) {
    toast.warning('The drawing or the material has changed meanwhile. Nest once more.');
    return dropSearch();
  }
  const mirror = mirrorOf(record, first.layer).mirror;
  const placed = placementsOf(own, record, answer).flatMap((placement) => {
    const part = first.parts.find(({ id }) => id === placement.part);
    return part ? [placedOf(part, mirror, placement)] : [];
  });
  const found = { key: first.filled.nest?.key ?? '', placed };
  // a job that can only be looked at refuses: what was found stays to be looked at, too
  if (!dispatch(setLayUp, { film: layer, fields: { fill: { ...record.fill, found } } }, { origin: 'sheet.nest' })) return;
  dropSearch();
  toast.success(`${placed.length} ${placed.length === 1 ? 'piece lies' : 'pieces lie'} nested. Undo puts them back.`);
}
