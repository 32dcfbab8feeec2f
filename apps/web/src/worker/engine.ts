/** What the page's worker computes: shaping, outlines, sheets, checks. Fonts are fetched from the server when first needed. */
import { orderCuts } from '@lorvek/core/cut';
import { thinOut } from '@lorvek/core/geometry';
import { readList } from '@lorvek/core/series';
import { joinFonts, loadFont, missingCharacters, type Font } from '@lorvek/core/lettering';
import {
  causeKey,
  fontsOf,
  laidSeries,
  leavesOf,
  type Drawing,
  type FontEntry,
  type Known,
  type KnownOf,
  type LeafItem,
} from '@lorvek/model';
import { deriveItem, type Derived } from '@lorvek/model/derive';
import { orderLines } from '@lorvek/model/cut-file';
import { lineRound } from '@lorvek/model/edge-cuts';
import { knownIn, whyOf } from '@lorvek/model/know';
import { AppError } from '@lorvek/core';
import { checkJob, twiceOn } from '@lorvek/model/check-job';
import { bleedsOf } from '@lorvek/model/bleeds';
import { LRUCache } from 'lru-cache';
import { silhouetteOf, traceAsset } from './trace-ops.ts';
import { liftGround, silhouetteOfClear, silhouetteOfGround } from './picture-ops.ts';
import { buildView } from './build-ops.ts';
import { splitParts, stackParts } from './stack-ops.ts';
import { chooseFont, type FontChosen, type FontWanted } from './font-choice.ts';
import { boxesLength, nestParts } from './nest-ops.ts';
import { writeOut } from './write-ops.ts';
import { cleanShapes } from './clean-ops.ts';
import { importDrawing, pageLook, tiffToPng } from './import-ops.ts';
import { weldOperands } from './weld-ops.ts';
import type { Asked, Op, Requests } from './wire.ts';

const shelf = new Map<string, Promise<Font | undefined>>();
const ready = new Map<string, Font>();
/** A help for the next question; never what an answer stands on. */
const results = new LRUCache<string, Derived>({ max: 100_000 });
let catalogue: Promise<FontEntry[]> | undefined;

/** @throws AppError when the server does not give it */
async function fetched(path: string): Promise<Response> {
  const response = await fetch(path).catch(() => undefined);
  if (!response?.ok) throw new AppError('offline', 'A font could not be fetched from the server. It is asked for again.');
  return response;
}

/** The list of fonts; a failure is not kept, so that the next question asks again. */
function entries(): Promise<FontEntry[]> {
  catalogue ??= fetched('/api/fonts')
    .then((response) => response.json() as Promise<FontEntry[]>)
    .catch((error: unknown) => {
      catalogue = undefined;
      throw error;
    });
  return catalogue;
}

/** A font's entry; the list is asked for again when the font is not in it, for it may have been brought since. */
async function entryOf(id: string): Promise<FontEntry | undefined> {
  const known = (await entries()).find((font) => font.id === id);
  if (known) return known;
  catalogue = undefined;
  return (await entries()).find((font) => font.id === id);
}

async function fetchFont(id: string): Promise<Font | undefined> {
  const entry = await entryOf(id);
  if (!entry) {
    shelf.delete(id);
    return undefined;
  }
  const files = await Promise.all(
    entry.files.map(
      async (_, index) => new Uint8Array(await (await fetched(`/api/fonts/${encodeURIComponent(id)}/files/${index}`)).arrayBuffer()),
    ),
  );
  const font = joinFonts(files.map(loadFont) as [Font, ...Font[]]);
  ready.set(id, font);
  return font;
}

function fontById(id: string): Promise<Font | undefined> {
  let font = shelf.get(id);
  if (!font) {
    font = fetchFont(id).catch((error: unknown) => {
      shelf.delete(id);
      throw error;
    });
    shelf.set(id, font);
  }
  return font;
}

async function derive(item: LeafItem, sliverMm: number): Promise<Derived> {
  const key = causeKey(item, sliverMm);
  const known = results.get(key);
  if (known) return known;
  await Promise.all(fontsOf(item).map(fontById));
  const result = deriveItem(item, (id) => ready.get(id), sliverMm);
  results.set(key, result);
  return result;
}

/** Items are worked out so many at a time, with the share told in between. */
const BATCH = 200;

/** What is known of every item of the drawing: the pieces, or why there are none. Fonts are fetched first. */
async function knowing(drawing: Drawing, onShare: (share: number) => void = () => undefined): Promise<KnownOf> {
  const leaves = leavesOf(drawing);
  const failed = new Map<string, Known>();
  await Promise.all(
    [...new Set(leaves.flatMap(fontsOf))].map((id) => fontById(id).catch((error: unknown) => failed.set(id, whyOf(error)))),
  );
  const known = knownIn(drawing, (id) => ready.get(id), results);
  // a font that could not be fetched is no font that the shop has not
  const knownOf = (item: LeafItem): Known => {
    const why = fontsOf(item).flatMap((id) => failed.get(id) ?? [])[0];
    return why ?? known(item);
  };
  for (let i = 0; i < leaves.length; i += BATCH) {
    for (const leaf of leaves.slice(i, i + BATCH)) knownOf(leaf);
    onShare(Math.min(1, (i + BATCH) / leaves.length));
    // letters that wait for an answer come in between
    await new Promise((resolve) => setTimeout(resolve));
  }
  return Object.assign(knownOf, known.on ? { on: known.on } : {});
}

/** The font of the shop for one that a file names: the nearest that has all characters of the text, if one has. */
async function fontFor(wanted: FontWanted, text: string): Promise<{ font: Font; chosen: FontChosen } | undefined> {
  const all = await entries();
  const chosen = chooseFont(wanted, all);
  const font = chosen && (await fontById(chosen.id));
  if (!chosen || !font) return undefined;
  if (chosen.instead === undefined || missingCharacters(font, text).length === 0) return { font, chosen };
  for (const id of await covering(text)) {
    const other = await fontById(id);
    if (other) return { font: other, chosen: { id, instead: all.find((entry) => entry.id === id)?.name ?? id } };
  }
  return { font, chosen };
}

async function covering(text: string): Promise<string[]> {
  const fonts = await entries();
  const missing = await Promise.all(
    fonts.map(async ({ id }) => {
      // a font that cannot be fetched now is not offered
      const font = await fontById(id).catch(() => undefined);
      return font ? missingCharacters(font, text).length : Infinity;
    }),
  );
  return fonts.flatMap(({ id }, i) => (missing[i] === 0 ? [id] : []));
}

function cutOf({ lines, cutting, withWays = false }: Requests['cut']['input']): Requests['cut']['output'] {
  const { estimate, plan } = orderLines(lines, cutting);
  return { ...estimate, sections: withWays ? plan.sections : [] };
}

/** Told from time to time how much is done, 0 to 1, and the best answer so far where answers are bettered. */
type OnShare = (share: number, soFar?: unknown) => void;

/** Told at each hundredth alone: every message is read by the page. */
function inSteps(onShare: (share: number) => void): (share: number) => void {
  let told = 0;
  return (share) => {
    if (share - told < 0.01) return;
    told = share;
    onShare(share);
  };
}

/** Everything that the page's worker works out, by name. */
const OPERATIONS: {
  readonly [K in Op]: (input: Requests[K]['input'], onShare: OnShare) => Requests[K]['output'] | Promise<Requests[K]['output']>;
} = {
  derive: ({ item, sliverMm }) => derive(item, sliverMm),
  sheets: async ({ drawing, stock, jobId, jobName }, onShare) => {
    // of a series the rows take longest, else what is drawn
    const known = laidSeries(drawing) ? 0.1 : 0.6;
    const knownOf = await knowing(drawing, (share) => onShare(known * share));
    return {
      ...checkJob(drawing, stock, knownOf, jobId, { jobName, onShare: inSteps((share) => onShare(known + (1 - known) * share)) }),
      twiceMm2: twiceOn(drawing, knownOf),
      bleeds: bleedsOf(drawing, knownOf),
    };
  },
  build: async (input, onShare) => buildView(input, await knowing(input.drawing, (share) => onShare(0.5 * share))),
  'write-out': async (input) => writeOut(input, await knowing(input.drawing)),
  clean: cleanShapes,
  thin: ({ outline, tolMm }) => thinOut(outline, tolMm),
  cut: cutOf,
  'edge-cut': ({ item, outlines }) => lineRound(item, outlines),
  order: ({ contours }) => orderCuts(contours.map((contour) => ({ contours: [contour] }))),
  weld: ({ kind, operands }, onShare) => weldOperands(kind, operands, onShare),
  split: ({ parts }) => splitParts(parts),
  stack: stackParts,
  import: (input, onShare) => importDrawing(input, fontFor, onShare),
  'page-look': pageLook,
  tiff: ({ bytes }) => tiffToPng(bytes),
  trace: traceAsset,
  silhouette: silhouetteOf,
  'silhouette-of-clear': ({ asset }) => silhouetteOfClear(asset),
  'silhouette-of-ground': ({ asset }) => silhouetteOfGround(asset),
  'lift-ground': ({ asset }) => liftGround(asset),
  nest: nestParts,
  'boxes-length': boxesLength,
  list: ({ bytes, fileName, as }) => readList(bytes, fileName, as),
  covering: ({ text }) => covering(text),
};

/** @throws whatever the computation fails with */
export async function answer({ op, input }: Asked, onShare: OnShare): Promise<Requests[Op]['output']> {
  const operation = OPERATIONS[op] as (given: typeof input, share: OnShare) => Requests[Op]['output'] | Promise<Requests[Op]['output']>;
  return operation(input, onShare);
}
