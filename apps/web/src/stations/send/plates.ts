/** The plates of a sheet: fetched when they are looked at, and laid over one another as the inks would be. */
import type { SheetPlates } from '@lorvek/model';
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

export interface Plates {
  readonly widthMm: number;
  readonly heightMm: number;
  readonly list: readonly { readonly name: string; readonly cover: number; readonly pixels: ImageData }[];
}

async function pixelsOf(picture: string): Promise<ImageData> {
  // a picture within an answer is not fetched: the page may only talk with its own server
  const bytes = Uint8Array.from(atob(picture.slice(picture.indexOf(',') + 1)), (c) => c.charCodeAt(0));
  const bitmap = await createImageBitmap(new Blob([bytes], { type: 'image/png' }));
  const canvas = new OffscreenCanvas(bitmap.width, bitmap.height);
  const context = canvas.getContext('2d');
  if (!context) throw new Error('This browser cannot show the plates.');
  context.drawImage(bitmap, 0, 0);
  return context.getImageData(0, 0, bitmap.width, bitmap.height);
}

const unpacked = async ({ widthMm, heightMm, plates }: SheetPlates): Promise<Plates> => ({
  widthMm,
  heightMm,
  list: await Promise.all(plates.map(async ({ name, cover, picture }) => ({ name, cover, pixels: await pixelsOf(picture) }))),
});

/** The plates of a sheet as the server has it; asked for when wanted, and again after each saved change. */
export function usePlates(
  sheet: SheetPlan | undefined,
  wanted: boolean,
): { plates: Plates | undefined; problem: string | undefined; isBusy: boolean } {
  const { job, revision, save } = useDocument();
  const [state, setState] = useState<{ key: string; plates?: Plates; problem?: string }>({ key: '' });
  const key = sheet?.print && job && save === 'saved' ? `${job.id} ${sheet.id} ${revision}` : '';
  const [jobId, layer, number] = [job?.id ?? '', sheet?.layer.id ?? '', sheet?.number ?? 0];
  useEffect(() => {
    if (!wanted || key === '') return undefined;
    let current = true;
    setState({ key });
    api
      .plates(jobId, layer, number)
      .then(unpacked)
      .then((plates) => current && setState({ key, plates }))
      .catch((error: unknown) => current && setState({ key, problem: sentenceOf(error) }));
    return () => {
      current = false;
    };
  }, [wanted, key, jobId, layer, number]);
  const own = state.key === key;
  return {
    plates: own ? state.plates : undefined,
    problem: own ? state.problem : undefined,
    isBusy: wanted && key !== '' && !(own && (state.plates ?? state.problem)),
  };
}

const bytesOf = (hex: string): [number, number, number] =>
  [1, 3, 5].map((i) => Number.parseInt(hex.slice(i, i + 2), 16)) as [number, number, number];

/** One plate alone is shown in black; several as inks on the medium, white under the others. */
export function composed({ list }: Plates, shown: ReadonlySet<string>, mediumHex: string): ImageData | undefined {
  const own = list.filter(({ name }) => shown.has(name));
  const [first] = own;
  if (!first) return undefined;
  const { width, height } = first.pixels;
  const out = new ImageData(width, height);
  const single = own.length === 1;
  const medium = bytesOf(single ? '#ffffff' : mediumHex);
  const white = own.find(({ name }) => name === 'White');
  const colours = own.filter((plate) => single || plate !== white);
  for (let i = 0; i < width * height; i++) {
    const w = !single && white ? (white.pixels.data[4 * i] ?? 0) / 255 : 0;
    for (let c = 0; c < 3; c++) {
      let v = (medium[c] ?? 255) * (1 - w) + 255 * w;
      for (const { name, pixels } of colours) {
        const ink = single ? 20 : ((INKS[name] ?? SPOT)[c] ?? 0);
        const share = (pixels.data[4 * i] ?? 0) / 255;
        v *= 1 - share + (share * ink) / 255;
      }
      out.data[4 * i + c] = v;
    }
    out.data[4 * i + 3] = 255;
  }
  return out;
}
