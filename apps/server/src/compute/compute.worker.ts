/** A thread of the compute pool: the core's computations with the shop's fonts. */
import { readFileSync } from 'node:fs';
import wawoff2 from 'wawoff2';
import { errorToWire, InputError } from '@lorvek/core';
import { describeFont, joinFonts, loadFont, type Font } from '@lorvek/core/lettering';
import { deriveItem, piecesOf, type Derived } from '@lorvek/model/derive';
import { checkJob, stopsOf } from '@lorvek/model/check-job';
import { planSheet, sheetToPicture, type PreparedSheet } from '@lorvek/model/prepare';
import { drawThumbnail } from '@lorvek/model/thumbnail';
import { causeKey, sliverOf, type Drawing, type Known, type KnownOf, type LeafItem, type ToolSetup } from '@lorvek/model';
import { LRUCache } from 'lru-cache';
import type { FontAnswer, OpAnswers, PlanAnswer, PlannedSheet, PlanRequest, PoolTask, WorkerAnswer } from './compute-ops.ts';

const shelf = new Map<string, Font>();
/** A help for the next question; never what an answer stands on. */
const results = new LRUCache<string, Derived>({ max: 5000 });

type FontFiles = PoolTask['fonts'];

function fontById(id: string, files: FontFiles): Font | undefined {
  const known = shelf.get(id);
  const paths = files[id] ?? [];
  if (known || paths.length === 0) return known;
  const font = joinFonts(paths.map((path) => loadFont(readFileSync(path))) as [Font, ...Font[]]);
  shelf.set(id, font);
  return font;
}

/** What is known of the items of a drawing: their pieces, or why there are none. */
function knownIn(drawing: Drawing, fonts: FontFiles): KnownOf {
  const sliverMm = sliverOf(drawing);
  const known = new Map<string, Known>();
  const know = (item: LeafItem): Known => {
    const key = causeKey(item, sliverMm);
    try {
      const derived = results.get(key) ?? deriveItem(item, (id) => fontById(id, fonts), sliverMm);
      results.set(key, derived);
      return { derived, pieces: piecesOf(item, derived) };
    } catch (error) {
      const { message, details } = errorToWire(error);
      const fontId = details?.['fontId'];
      return { why: message, ...(typeof fontId === 'string' ? { missingFont: fontId } : {}) };
    }
  };
  return (item) => {
    const own = known.get(item.id) ?? know(item);
    known.set(item.id, own);
    return own;
  };
}

function plan({ drawing, films, stock, setup, fonts }: PlanRequest & { fonts: FontFiles }): PlanAnswer {
  const checked = checkJob(drawing, stock, knownIn(drawing, fonts), films);
  const stops = stopsOf(checked);
  return {
    stops,
    findings: [...checked.sheets.flatMap((sheet) => sheet.findings), ...checked.whole],
    // what must not go out is not worked out
    sheets: stops.length > 0 ? [] : checked.sheets.map((sheet) => plannedSheet(sheet, setup)),
  };
}

function plannedSheet(sheet: PreparedSheet, setup: ToolSetup): PlannedSheet {
  const { hpgl, svg, estimate } = planSheet(sheet, setup);
  return {
    film: sheet.film.id,
    rollId: sheet.roll.roll?.id ?? null,
    hpgl,
    svg,
    picture: sheetToPicture(sheet),
    lengthMm: sheet.laid.usedLengthMm,
    widthMm: sheet.material.widthMm,
    cutMm: estimate.cutMm,
    seconds: estimate.seconds,
  };
}

const WOFF2 = 0x774f4632;

async function readFont(bytes: Uint8Array): Promise<FontAnswer> {
  const isWoff2 = bytes.length > 4 && new DataView(bytes.buffer, bytes.byteOffset, 4).getUint32(0) === WOFF2;
  let sfnt = bytes;
  if (isWoff2) {
    try {
      sfnt = await wawoff2.decompress(bytes);
    } catch {
      throw new InputError('font', 'This WOFF2 font is damaged and cannot be unpacked.');
    }
  }
  return { description: describeFont(sfnt), sfnt };
}

function answer(task: PoolTask): OpAnswers[keyof OpAnswers] | Promise<FontAnswer> {
  switch (task.op) {
    case 'plan':
      return plan(task);
    case 'thumbnail':
      return drawThumbnail(task.drawing, knownIn(task.drawing, task.fonts));
    case 'font':
      return readFont(task.bytes);
  }
}

export default async function run(task: PoolTask): Promise<WorkerAnswer<keyof OpAnswers>> {
  try {
    return { ok: true, output: await answer(task) };
  } catch (error) {
    return { ok: false, error: errorToWire(error) };
  }
}
