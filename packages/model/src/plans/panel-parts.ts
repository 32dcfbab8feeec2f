/**
 * A layer's work in panels: each is a part of its own on a sheet of its own, its cut lines closed at the seams, its art shown
 * within it. Numbered in the order in which they are put up, from the lower row on. Below its trim each bears its number,
 * the job and an arrow up: printed in black, or cut as a weed line from film.
 */
import { InputError } from '@lorvek/core';
import {
  bounds,
  outlineOfBox,
  compose,
  EMPTY_BOX,
  growBox,
  isEmptyBox,
  joinBoxes,
  mapBox,
  mapOutline,
  rotation,
  translation,
  type Box,
  type Matrix,
  type Outline,
} from '@lorvek/core/geometry';
import type { Finding } from '@lorvek/core/check';
import { evenSeams, lettersLength, plainStrokes, seamsByWidth, splitPanels, type Panel } from '@lorvek/core/sheet';
import type { PanelsFill } from '../records/lay-up.ts';
import { clearOf, mirrored, PANEL_BOX, type Ground, type LaidPanels, type LayPart, type Placement } from './lay-places.ts';

const LABEL_MM = 4;
/** From the trim to the label, and below it. */
const LABEL_GAP_MM = 3;

/** The part of a panel, by its number. */
export const panelId = (number: number): string => `panel-${number}`;

/** The work in panels, where they lie, and what was found. */
export interface Panels {
  readonly parts: readonly LayPart[];
  readonly placements: readonly Placement[];
  readonly laid: LaidPanels | undefined;
  readonly findings: readonly Finding[];
}

interface Seams {
  readonly x: readonly number[];
  readonly y: readonly number[];
}

/** Seams as the fill says; undefined: they are looked for. */
function wantedSeams(fill: PanelsFill, box: Box): Seams | undefined {
  const { way, overlapMm, overlapUpMm } = fill;
  const inside = (from: number, to: number, list: readonly number[]): number[] => list.filter((v) => v > from + 1e-6 && v < to - 1e-6);
  if (way === 'count')
    return { x: evenSeams(box.minX, box.maxX, fill.columns, overlapMm), y: evenSeams(box.minY, box.maxY, fill.rows, overlapUpMm) };
  if (way === 'width')
    return {
      x: fill.widthMm === null ? [] : seamsByWidth(box.minX, box.maxX, fill.widthMm, overlapMm),
      y: fill.heightMm === null ? [] : seamsByWidth(box.minY, box.maxY, fill.heightMm, overlapUpMm),
    };
  if (way === 'seams') return { x: inside(box.minX, box.maxX, fill.seams.x), y: inside(box.minY, box.maxY, fill.seams.y) };
  return undefined;
}

/** Places of seams from the panels that came of them. */
function seamsOf(panels: readonly Panel[], { overlapMm, overlapUpMm }: PanelsFill): Seams {
  const places = (ends: readonly number[], overlap: number): number[] =>
    [...new Set(ends.map((v) => Math.round((v - overlap / 2) * 1e4) / 1e4))].sort((a, b) => a - b).slice(0, -1);
  return {
    x: places(
      panels.map(({ box }) => box.maxX),
      overlapMm,
    ),
    y: places(
      panels.map(({ box }) => box.maxY),
      overlapUpMm,
    ),
  };
}

/** In the order of putting up: the lower row first, each from the one side to the other. */
const ordered = (panels: readonly Panel[], { order }: PanelsFill): Panel[] =>
  [...panels].sort((a, b) => a.box.minY - b.box.minY || (order === 'from-left' ? a.box.minX - b.box.minX : b.box.minX - a.box.minX));

/** Panels at the edge of the whole reach beyond it by the bleed. */
const withBleed = ({ minX, minY, maxX, maxY }: Box, whole: Box, mm: number): Box => ({
  minX: minX - (minX <= whole.minX + 1e-6 ? mm : 0),
  minY: minY - (minY <= whole.minY + 1e-6 ? mm : 0),
  maxX: maxX + (maxX >= whole.maxX - 1e-6 ? mm : 0),
  maxY: maxY + (maxY >= whole.maxY - 1e-6 ? mm : 0),
});

/** Number, job and arrow below the lower edge, cut short to the panel's width. */
function labelOf(text: string, { minX, minY, maxX }: Box): Outline {
  let own = text;
  while (own.length > 3 && lettersLength(own, LABEL_MM) > maxX - minX) own = own.slice(0, -1);
  return mapOutline(translation(minX, minY - LABEL_GAP_MM - LABEL_MM), plainStrokes(own, LABEL_MM));
}

function partOf(
  panel: Panel,
  number: number,
  whole: LayPart,
  { fill, box, jobName }: { fill: PanelsFill; box: Box; jobName: string },
): LayPart {
  const clip = withBleed(panel.box, box, fill.bleedMm);
  const label = fill.label ? labelOf(`${number} ↑ ${jobName}`, clip) : undefined;
  const room = label ? joinBoxes(clip, growBox(bounds(label), 0.5)) : clip;
  const lines = panel.pieces.flatMap(({ id, outline }) => {
    const source = whole.sources[Number(id)];
    return source?.line ? [{ ...source, outline }] : [];
  });
  return {
    id: panelId(number),
    name: `Panel ${number}`,
    sources: [...lines, { id: PANEL_BOX, name: `Panel ${number}`, outline: outlineOfBox(room), line: undefined }],
    art: whole.art,
    clip,
    ...(label ? { label } : {}),
  };
}

/** From the drawing to where a panel lies at the start of its sheet. */
function mapOf(part: LayPart, { turned }: Panel, number: number, ground: Ground): Matrix {
  const { fill, turnDeg } = ground.record;
  const isHalf = fill.kind === 'panels' && fill.turnEveryOther && number % 2 === 0;
  const around = compose(rotation(turnDeg + (turned ? 90 : 0) + (isHalf ? 180 : 0)), mirrored(ground.mirror));
  const { minX, minY } = mapBox(around, bounds(part.sources.at(-1)?.outline ?? { contours: [] }));
  const clear = clearOf(ground);
  return compose(translation(clear.x - minX, clear.y - minY), around);
}

/** The nearest place at which a seam with its overlap touches none of the spans; undefined when there is none within. */
export function nearestFree(
  at: number,
  half: number,
  spans: readonly (readonly [number, number])[],
  from: number,
  to: number,
): number | undefined {
  const blocked = (v: number): boolean => spans.some(([a, b]) => v + half > a + 1e-9 && v - half < b - 1e-9);
  const places = [at, ...spans.flatMap(([a, b]) => [a - half, b + half])];
  return places.filter((v) => v > from && v < to && !blocked(v)).sort((a, b) => Math.abs(a - at) - Math.abs(b - at))[0];
}

/** Seams through items that are to stay whole, each with the nearest place that is free. */
function findCrossed(whole: LayPart, fill: PanelsFill, box: Box, seams: Seams): Finding[] {
  const boxes = new Map<string, { name: string; box: Box }>();
  for (const { id, name, outline } of whole.sources)
    if (fill.whole.includes(id)) boxes.set(id, { name, box: joinBoxes(boxes.get(id)?.box ?? EMPTY_BOX, bounds(outline)) });
  const along = (places: readonly number[], overlap: number, axis: 'X' | 'Y'): Finding[] => {
    const [low, high] = axis === 'X' ? (['minX', 'maxX'] as const) : (['minY', 'maxY'] as const);
    const spans = [...boxes.values()].map((one) => [one.box[low], one.box[high]] as const);
    return places.flatMap((place): Finding[] => {
      const hit = [...boxes].find(([, one]) => place + overlap / 2 > one.box[low] + 1e-6 && place - overlap / 2 < one.box[high] - 1e-6);
      if (!hit) return [];
      const free = nearestFree(place, overlap / 2, spans, box[low], box[high]);
      return [
        {
          code: 'seam-crosses',
          level: 'warning',
          text: `The seam at ${place.toFixed(1)} mm goes through “${hit[1].name}”. ${free === undefined ? 'No place beside it is free.' : `The nearest place that is free is ${free.toFixed(1)} mm.`}`,
          parts: [hit[0]],
          ...(free === undefined ? {} : { seam: { axis: axis === 'X' ? ('x' as const) : ('y' as const), from: place, to: free } }),
        },
      ];
    });
  };
  return [...along(seams.x, fill.overlapMm, 'X'), ...along(seams.y, fill.overlapUpMm, 'Y')];
}

const stopped = (text: string, whole: LayPart): Panels => ({
  parts: [whole],
  placements: [],
  laid: undefined,
  findings: [{ code: 'panels', level: 'stop', text, parts: [...new Set(whole.sources.map(({ id }) => id))].slice(0, 50) }],
});

/** Rows of a series would be left out without a word. */
export const noPanelsOfSeries = (whole: LayPart): Panels =>
  stopped('A series is not divided into panels. Lay it up in a grid or a nest, or switch “A piece for each row” off.', whole);

/** The work of a layer in panels on its material. @param jobName is printed beside them */
export function panelsOf(whole: LayPart, ground: Ground, fill: PanelsFill, jobName: string): Panels {
  const sources = whole.sources.filter(({ outline }) => outline.contours.length > 0);
  const box = sources.map(({ outline }) => bounds(outline)).reduce(joinBoxes, EMPTY_BOX);
  if (isEmptyBox(box)) return { parts: [whole], placements: [], laid: undefined, findings: [] };
  const clear = clearOf(ground);
  const label = fill.label ? LABEL_MM + LABEL_GAP_MM + 0.5 : 0;
  const room = 2 * fill.bleedMm + label;
  try {
    const seams = wantedSeams(fill, box);
    const panels = ordered(
      splitPanels({
        widthMm: clear.widthMm - room,
        maxLengthMm: clear.lengthMm - room,
        marginMm: 0,
        overlapMm: fill.overlapMm,
        overlapUpMm: fill.overlapUpMm,
        leastPanelMm: seams ? 0 : fill.leastMm,
        turnPanels: true,
        ...(seams ? { seams } : {}),
        artwork: whole.sources.map(({ outline }, i) => ({ id: String(i), outline })),
      }),
      fill,
    );
    const parts = panels.map((panel, i) => partOf(panel, i + 1, whole, { fill, box, jobName }));
    const placements = panels.map((panel, i): Placement => ({
      part: panelId(i + 1),
      copy: 0,
      sheet: i,
      map: mapOf(parts[i] as LayPart, panel, i + 1, ground),
      locked: false,
      moved: false,
    }));
    const places = seamsOf(panels, fill);
    return {
      parts,
      placements,
      laid: { box, seams: places, panels: panels.map((panel, i) => ({ number: i + 1, box: panel.box, turned: panel.turned })) },
      findings: findCrossed(whole, fill, box, seams ?? places),
    };
  } catch (error) {
    if (error instanceof InputError) return stopped(error.message, whole);
    throw error;
  }
}
