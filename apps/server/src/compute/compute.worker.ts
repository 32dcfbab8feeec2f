/** A thread of the compute pool: the core's computations with the shop's fonts. */
import { readFileSync } from 'node:fs';
import wawoff2 from 'wawoff2';
import { errorToWire, InputError } from '@lorvek/core';
import { describeFont, joinFonts, loadFont, type Font } from '@lorvek/core/lettering';
import { deriveItem, piecesOf, type Derived } from '@lorvek/model/derive';
import { planSheet, prepareSheet, sheetToPicture, type PiecesOf } from '@lorvek/model/prepare';
import { drawThumbnail } from '@lorvek/model/thumbnail';
import { causeKey, sliverOf, type Drawing } from '@lorvek/model';
import type { FontAnswer, OpAnswers, PlanAnswer, PlanRequest, PoolTask, WorkerAnswer } from './compute-ops.ts';

const shelf = new Map<string, Font>();
const results = new Map<string, Derived>();
const MOST_RESULTS = 5000;

type FontFiles = PoolTask['fonts'];

function fontById(id: string, files: FontFiles): Font | undefined {
  const known = shelf.get(id);
  const paths = files[id] ?? [];
  if (known || paths.length === 0) return known;
  const font = joinFonts(paths.map((path) => loadFont(readFileSync(path))) as [Font, ...Font[]]);
  shelf.set(id, font);
  return font;
}

/** What is cut of an item; an item whose font is missing has nothing. */
function piecesIn(drawing: Drawing, fonts: FontFiles): PiecesOf {
  const sliverMm = sliverOf(drawing);
  return (item) => {
    const key = causeKey(item, sliverMm);
    const known = results.get(key);
    if (known) return piecesOf(item, known);
    if (results.size > MOST_RESULTS) results.clear();
    try {
      const derived = deriveItem(item, (id) => fontById(id, fonts), sliverMm);
      results.set(key, derived);
      return piecesOf(item, derived);
    } catch {
      return undefined;
    }
  };
}

function plan(request: PlanRequest & { fonts: FontFiles }): PlanAnswer {
  const sheet = prepareSheet(request.drawing, request.film, request.material, piecesIn(request.drawing, request.fonts));
  const planned = planSheet(sheet, request.setup);
  return {
    hpgl: planned.hpgl,
    svg: planned.svg,
    picture: sheetToPicture(sheet),
    findings: sheet.findings,
    lengthMm: sheet.laid.usedLengthMm,
    widthMm: request.material.widthMm,
    cutMm: planned.estimate.cutMm,
    seconds: planned.estimate.seconds,
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
      return drawThumbnail(task.drawing, piecesIn(task.drawing, task.fonts));
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
