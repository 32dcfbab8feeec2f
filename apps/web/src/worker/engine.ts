/** What the page's worker computes: shaping, outlines, sheets, checks. Fonts are fetched from the server when first needed. */
import { orderCuts } from '@lorvek/core/cut';
import { thinOut } from '@lorvek/core/geometry';
import { joinFonts, loadFont, missingCharacters, type Font } from '@lorvek/core/lettering';
import { causeKey, fontsOf, leavesOf, sliverOf, type Drawing, type FontEntry, type LeafItem } from '@lorvek/model';
import { deriveItem, piecesOf, type Derived } from '@lorvek/model/derive';
import { orderSheet, prepareSheet, type PiecesOf } from '@lorvek/model/prepare';
import type { Finding } from '@lorvek/core/check';
import { checkDrawing } from '@lorvek/model/check-drawing';
import { silhouetteOf, traceAsset } from './trace-ops.ts';
import { nestRoots } from './nest-ops.ts';
import { writeOut } from './write-ops.ts';
import { cleanShapes } from './clean-ops.ts';
import { importDrawing, tiffToPng } from './import-ops.ts';
import { weldOperands } from './weld-ops.ts';
import type { Asked, Requests } from './wire.ts';

const shelf = new Map<string, Promise<Font | undefined>>();
const ready = new Map<string, Font>();
const results = new Map<string, Derived>();
const MOST_RESULTS = 4000;
let catalogue: Promise<FontEntry[]> | undefined;

/** The list of fonts; a failure is not kept, so that the next question asks again. */
function entries(): Promise<FontEntry[]> {
  catalogue ??= fetch('/api/fonts')
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
      async (_, index) => new Uint8Array(await (await fetch(`/api/fonts/${encodeURIComponent(id)}/files/${index}`)).arrayBuffer()),
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
  if (results.size > MOST_RESULTS) results.clear();
  results.set(key, result);
  return result;
}

/** What is cut of everything on the drawing; what cannot be had is left out. */
async function pieces(drawing: Drawing): Promise<PiecesOf> {
  const sliverMm = sliverOf(drawing);
  await Promise.all(leavesOf(drawing).map((leaf) => derive(leaf, sliverMm).catch(() => undefined)));
  return (item) => {
    const derived = results.get(causeKey(item, sliverMm));
    return derived && piecesOf(item, derived);
  };
}

async function checkWhole(drawing: Drawing): Promise<Finding[]> {
  await pieces(drawing);
  const sliverMm = sliverOf(drawing);
  return checkDrawing(drawing, (item) => {
    const derived = results.get(causeKey(item, sliverMm));
    return derived && { derived, pieces: piecesOf(item, derived) };
  });
}

/** A font of the shop by the name that a file calls it. */
async function fontByFamily(family: string): Promise<Font | undefined> {
  const wanted = family.toLowerCase().replace(/\s+/g, ' ');
  const entry = (await entries()).find((font) => font.name.toLowerCase() === wanted || font.id === wanted.replace(/ /g, '-'));
  return entry && fontById(entry.id);
}

async function covering(text: string): Promise<string[]> {
  const fonts = await entries();
  const missing = await Promise.all(
    fonts.map(async ({ id }) => {
      const font = await fontById(id).catch(() => undefined);
      return font ? missingCharacters(font, text).length : Infinity;
    }),
  );
  return fonts.flatMap(({ id }, i) => (missing[i] === 0 ? [id] : []));
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
      const { drawing, films } = asked.input;
      const known = await pieces(drawing);
      return {
        whole: await checkWhole(drawing),
        sheets: films.map(({ film, material, limits }) => prepareSheet(drawing, film, material, known, limits)),
      };
    }
    case 'write-out':
      return writeOut(asked.input, await pieces(asked.input.drawing));
    case 'clean':
      return cleanShapes(asked.input);
    case 'thin':
      return thinOut(asked.input.outline, asked.input.tolMm);
    case 'estimate': {
      const { drawing, film, material, setup } = asked.input;
      return orderSheet(prepareSheet(drawing, film, material, await pieces(drawing)), setup).estimate;
    }
    case 'order':
      return orderCuts(asked.input.contours.map((contour) => ({ contours: [contour] })));
    case 'weld':
      return weldOperands(asked.input.kind, asked.input.operands);
    case 'import':
      return importDrawing(asked.input, fontByFamily, onShare);
    case 'tiff':
      return tiffToPng(asked.input.bytes);
    case 'trace':
      return traceAsset(asked.input, onShare);
    case 'silhouette':
      return silhouetteOf(asked.input);
    case 'nest':
      return nestRoots(asked.input, onShare);
    case 'covering':
      return covering(asked.input.text);
  }
}
