/** A thread of the compute pool: the core's computations with the shop's fonts. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { workerData } from 'node:worker_threads';
import { errorToWire } from '@lorvek/core';
import { joinFonts, loadFont, type Font } from '@lorvek/core/lettering';
import type { Outline } from '@lorvek/core/geometry';
import { deriveItem } from '@lorvek/model/derive';
import { planSheet, prepareSheet, sheetToPicture } from '@lorvek/model/prepare';
import { drawThumbnail } from '@lorvek/model/thumbnail';
import { causeKey, type FontEntry, type LeafItem } from '@lorvek/model';
import type { ComputeRequest, OpAnswers, PlanAnswer, PlanRequest, WorkerAnswer } from './compute-ops.ts';

interface PoolData {
  fontsDir: string;
  fonts: readonly FontEntry[];
}

const isPoolData = (value: unknown): value is PoolData => typeof value === 'object' && value !== null && 'fontsDir' in value;
const raw: unknown = Array.isArray(workerData) ? workerData[workerData.length - 1] : workerData;
const data: PoolData = isPoolData(raw) ? raw : { fontsDir: '', fonts: [] };
const shelf = new Map<string, Font>();
const outlines = new Map<string, Outline>();
const MOST_OUTLINES = 5000;

function fontById(id: string): Font | undefined {
  const known = shelf.get(id);
  const entry = data.fonts.find((font) => font.id === id);
  if (known || !entry) return known;
  const files = entry.files.map((file) => loadFont(readFileSync(join(data.fontsDir, file))));
  const font = joinFonts(files as [Font, ...Font[]]);
  shelf.set(id, font);
  return font;
}

/** The outline of an item; an item whose font is missing has none. */
function outlineOf(item: LeafItem): Outline | undefined {
  const key = causeKey(item);
  const known = outlines.get(key);
  if (known) return known;
  if (outlines.size > MOST_OUTLINES) outlines.clear();
  try {
    const { outline } = deriveItem(item, fontById);
    outlines.set(key, outline);
    return outline;
  } catch {
    return undefined;
  }
}

function plan(request: PlanRequest): PlanAnswer {
  const sheet = prepareSheet(request.drawing, request.film, request.material, outlineOf);
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

export default function run(request: ComputeRequest): WorkerAnswer<keyof OpAnswers> {
  try {
    return { ok: true, output: request.op === 'plan' ? plan(request) : drawThumbnail(request.drawing, outlineOf) };
  } catch (error) {
    return { ok: false, error: errorToWire(error) };
  }
}
