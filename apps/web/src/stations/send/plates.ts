/** The plates of a sheet: fetched when they are looked at, and laid over one another as the inks would be. */
import type { SheetPlates, SoftLook } from '@lorvek/model';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { useEffect, useState } from 'react';
import { api, sentenceOf } from '../../api/client.ts';
import { useDocument } from '../../document/store.ts';

/** How process inks look on white paper. */
const INKS: Readonly<Record<string, readonly [number, number, number]>> = {
  Cyan: [0, 158, 214],
  Magenta: [214, 0, 112],
  Yellow: [255, 226, 0],
  Black: [26, 24, 22],
};
const SPOT: readonly [number, number, number] = [120, 70, 160];

export interface PlateShown {
  /** Of the pass and the ink: unlike any other. */
  readonly key: string;
  readonly name: string;
  readonly pass: string;
  readonly cover: number;
  readonly pixels: ImageData;
}

export interface Plates {
  readonly widthMm: number;
  readonly heightMm: number;
  /** Passes in the order of printing, each with its plates. */
  readonly passes: readonly { readonly name: string; readonly kind: 'colour' | 'white'; readonly list: readonly PlateShown[] }[];
}

export const platesOf = ({ passes }: Plates): PlateShown[] => passes.flatMap(({ list }) => list);

/** A picture within an answer is not fetched: the page may only talk with its own server. */
function bitmapOf(picture: string): Promise<ImageBitmap> {
  const bytes = Uint8Array.from(atob(picture.slice(picture.indexOf(',') + 1)), (c) => c.charCodeAt(0));
  return createImageBitmap(new Blob([bytes], { type: 'image/png' }));
}

async function pixelsOf(picture: string): Promise<ImageData> {
  const bitmap = await bitmapOf(picture);
  const canvas = new OffscreenCanvas(bitmap.width, bitmap.height);
  const context = canvas.getContext('2d');
  if (!context) throw new Error('This browser cannot show the plates.');
  context.drawImage(bitmap, 0, 0);
  return context.getImageData(0, 0, bitmap.width, bitmap.height);
}

const unpacked = async ({ widthMm, heightMm, passes }: SheetPlates): Promise<Plates> => ({
  widthMm,
  heightMm,
  passes: await Promise.all(
    passes.map(async ({ name: pass, kind, plates }) => ({
      name: pass,
      kind,
      list: await Promise.all(
        plates.map(async ({ name, cover, picture }) => ({ key: `${pass}/${name}`, name, pass, cover, pixels: await pixelsOf(picture) })),
      ),
    })),
  ),
});

export interface Fetched<T> {
  readonly found: T | undefined;
  readonly problem: string | undefined;
  readonly isBusy: boolean;
}

/** Something of a printed sheet as the server has it; asked for when wanted, and again after each saved change. */
function useOfSheet<T>(
  sheet: SheetPlan,
  printer: string | undefined,
  wanted: boolean,
  fetch: (jobId: string, layer: string, sheet: number, printer: string | undefined) => Promise<T>,
): Fetched<T> {
  const { job, revision, save } = useDocument();
  const [state, setState] = useState<{ key: string; found?: T; problem?: string }>({ key: '' });
  const key = sheet.print && job && save === 'saved' ? `${job.id} ${sheet.id} ${revision} ${printer ?? ''}` : '';
  const [jobId, layer, number] = [job?.id ?? '', sheet.layer.id, sheet.number];
  useEffect(() => {
    if (!wanted || key === '') return undefined;
    let current = true;
    setState({ key });
    fetch(jobId, layer, number, printer)
      .then((found) => current && setState({ key, found }))
      .catch((error: unknown) => current && setState({ key, problem: sentenceOf(error) }));
    return () => {
      current = false;
    };
  }, [wanted, key, jobId, layer, number, printer, fetch]);
  const own = state.key === key;
  return {
    found: own ? state.found : undefined,
    problem: own ? state.problem : undefined,
    isBusy: wanted && key !== '' && !(own && (state.found ?? state.problem)),
  };
}

const fetchPlates = async (...of: Parameters<typeof api.plates>): Promise<Plates> => unpacked(await api.plates(...of));
export const usePlates = (sheet: SheetPlan, printer: string | undefined, wanted: boolean): Fetched<Plates> =>
  useOfSheet(sheet, printer, wanted, fetchPlates);

/** How the sheet will look when it is printed. */
export interface Soft extends Omit<SoftLook, 'picture' | 'beyond'> {
  readonly picture: ImageBitmap;
  readonly beyond: ImageBitmap;
}

const fetchSoft = async (...of: Parameters<typeof api.soft>): Promise<Soft> => {
  const { picture, beyond, ...rest } = await api.soft(...of);
  return { ...rest, picture: await bitmapOf(picture), beyond: await bitmapOf(beyond) };
};
export const useSoft = (sheet: SheetPlan, printer: string | undefined, wanted: boolean): Fetched<Soft> =>
  useOfSheet(sheet, printer, wanted, fetchSoft);

const BLACK = [20, 20, 20];

const bytesOf = (hex: string): [number, number, number] =>
  [1, 3, 5].map((i) => Number.parseInt(hex.slice(i, i + 2), 16)) as [number, number, number];

/** From which side a print is looked at: from the printed one, or through what it is printed on. */
export type Side = 'front' | 'back';

/** What lies nearer the medium comes first. @param whiteFirst of a print at once: white is laid down before the colour */
function inOrder({ passes }: Plates, side: Side, whiteFirst: boolean): PlateShown[][] {
  const layers = passes.flatMap(({ list }) => {
    const white = list.filter(({ name }) => name === 'White');
    const colours = list.filter(({ name }) => name !== 'White');
    const both = whiteFirst ? [white, colours] : [colours, white];
    return both.filter((some) => some.length > 0);
  });
  return side === 'front' ? layers : layers.reverse();
}

export interface Looked {
  readonly shown: ReadonlySet<string>;
  readonly mediumHex: string;
  /** How inks of their own names look. */
  readonly looks: Readonly<Record<string, string>>;
  readonly side: Side;
  readonly whiteFirst: boolean;
}

/** A plate at work: its pixels, and how its ink looks; white covers what lies under it. */
interface Inked {
  readonly data: Uint8ClampedArray;
  readonly colour: readonly number[];
  readonly covers: boolean;
}

/** What is seen of a channel through the inks laid one over another. @param i of the pixel @param c of the channel */
function through(medium: number, inks: readonly Inked[], i: number, c: number): number {
  let v = medium;
  for (const { data, colour, covers } of inks) {
    const share = (data[4 * i] ?? 0) / 255;
    v = covers ? v * (1 - share) + 255 * share : v * (1 - share + (share * (colour[c] ?? 0)) / 255);
  }
  return v;
}

/** The inks of the plates that are shown, what lies nearer the medium first; one alone is black. */
function inksOf(plates: Plates, { shown, looks, side, whiteFirst }: Looked): Inked[] {
  const layers = inOrder(plates, side, whiteFirst).flat();
  const own = layers.filter(({ key }) => shown.has(key));
  const isSingle = own.length === 1;
  const lookOf = (name: string): readonly number[] => INKS[name] ?? (looks[name] === undefined ? SPOT : bytesOf(looks[name]));
  return own.map(({ name, pixels }) => ({
    data: pixels.data,
    colour: isSingle ? BLACK : lookOf(name),
    covers: !isSingle && name === 'White',
  }));
}

/**
 * One plate alone is shown in black; several as inks on the medium, each pass over those before it: white covers what lies
 * under it. From the back it is mirrored.
 */
export function composed(plates: Plates, looked: Looked): ImageData | undefined {
  const first = platesOf(plates).find(({ key }) => looked.shown.has(key));
  if (!first) return undefined;
  const { width, height } = first.pixels;
  const out = new ImageData(width, height);
  const inks = inksOf(plates, looked);
  const medium = bytesOf(inks.length === 1 ? '#ffffff' : looked.mediumHex);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      const to = 4 * (y * width + (looked.side === 'back' ? width - 1 - x : x));
      for (let c = 0; c < 3; c++) out.data[to + c] = through(medium[c] ?? 255, inks, i, c);
      out.data[to + 3] = 255;
    }
  return out;
}
