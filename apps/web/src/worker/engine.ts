/** What the page's worker computes: shaping, outlines, sheets, checks. Fonts are fetched from the server when first needed. */
import { orderCuts } from '@lorvek/core/cut';
import { thinOut } from '@lorvek/core/geometry';
import { readList } from '@lorvek/core/series';
import { joinFonts, loadFont, missingCharacters, type Font } from '@lorvek/core/lettering';
import { causeKey, fontsOf, leavesOf, type Drawing, type FontEntry, type Known, type KnownOf, type LeafItem } from '@lorvek/model';
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
import { stackParts } from './stack-ops.ts';
import { chooseFont, type FontChosen, type FontWanted } from './font-choice.ts';
import { boxesLength, nestParts } from './nest-ops.ts';
import { writeOut } from './write-ops.ts';
import { cleanShapes } from './clean-ops.ts';
import { importDrawing, pageLook, tiffToPng } from './import-ops.ts';
import { weldOperands } from './weld-ops.ts';
import type { Asked, Requests } from './wire.ts';

const shelf = new Map<string, Promise<Font | undefined>>();
const ready = new Map<string, Font>();
/** A help for the next question; never what an answer stands on. */
const results = new LRUCache<string, Derived>({ max: 20_000 });
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

/**
 * @param onShare told from time to time how much of it is done, 0 to 1, and the best answer so far where answers are bettered
 * @throws whatever the computation fails with
 */
export async function answer(asked: Asked, onShare: (share: number, soFar?: unknown) => void): Promise<Requests[keyof Requests]['output']> {
  switch (asked.op) {
    case 'derive':
      return derive(asked.input.item, asked.input.sliverMm);
    case 'sheets': {
      const { drawing, stock, jobId, jobName } = asked.input;
      const knownOf = await knowing(drawing, (share) => onShare(0.6 * share));
      return {
        ...checkJob(drawing, stock, knownOf, jobId, undefined, jobName),
        twiceMm2: twiceOn(drawing, knownOf),
        bleeds: bleedsOf(drawing, knownOf),
      };
    }
    case 'build':
      return buildView(asked.input, await knowing(asked.input.drawing, (share) => onShare(0.5 * share)));
    case 'write-out':
      return writeOut(asked.input, await knowing(asked.input.drawing));
    case 'clean':
      return cleanShapes(asked.input);
    case 'thin':
      return thinOut(asked.input.outline, asked.input.tolMm);
    case 'cut':
      return cutOf(asked.input);
    case 'edge-cut':
      return lineRound(asked.input.item, asked.input.outlines);
    case 'order':
      return orderCuts(asked.input.contours.map((contour) => ({ contours: [contour] })));
    case 'weld':
      return weldOperands(asked.input.kind, asked.input.operands, onShare);
    case 'stack':
      return stackParts(asked.input, onShare);
    case 'import':
      return importDrawing(asked.input, fontFor, onShare);
    case 'page-look':
      return pageLook(asked.input);
    case 'tiff':
      return tiffToPng(asked.input.bytes);
    case 'trace':
      return traceAsset(asked.input, onShare);
    case 'silhouette':
      return silhouetteOf(asked.input);
    case 'silhouette-of-clear':
      return silhouetteOfClear(asked.input.asset);
    case 'silhouette-of-ground':
      return silhouetteOfGround(asked.input.asset);
    case 'lift-ground':
      return liftGround(asked.input.asset);
    case 'nest':
      return nestParts(asked.input, onShare);
    case 'boxes-length':
      return boxesLength(asked.input);
    case 'list':
      return readList(asked.input.bytes, asked.input.fileName, asked.input.as);
    case 'covering':
      return covering(asked.input.text);
  }
}
