/**
 * How a page will look when it is printed, and which of its colours the inks do not reach. The page is laid down twice on
 * the same raster: in inks, which the profile says the look of, and as its colours are asked for; where the two differ by
 * more than `REACH_DELTA` (CIEDE2000) the colour is out of reach. Spots are shown by the colour that stands for them.
 */
import type { Control } from '../types/index.ts';
import { labDifference, labOf, rgbOf, type Rgb } from '../colour/index.ts';
import { makePlates, PROCESS_INKS, type Plate } from './make-plates.ts';
import type { PictureSource, PrintColour, PrintItem, PrintPage } from './page.ts';
import type { ProcessColours } from './process-colours.ts';
import { WHITE_INK } from './white.ts';

/** A difference that is seen without looking for it. */
export const REACH_DELTA = 5;

/** A page as it will look when it is printed. */
export interface SoftView {
  readonly width: number;
  readonly height: number;
  /** Three bytes a pixel, sRGB, top row first. */
  readonly rgb: Uint8Array;
  /** 255 where the colour is out of reach, else 0. */
  readonly beyond: Uint8Array;
  /** Share of what is printed that is out of reach, 0 to 1. */
  readonly beyondShare: number;
}

/** What it is looked at with. */
export interface SoftViewOptions {
  readonly dpi: number;
  readonly profile: ProcessColours;
  readonly pictures?: PictureSource | undefined;
}

/** Colours as they are asked for, on the plates: what each channel lacks to white. */
const ASKED = {
  profile: new Uint8Array(0),
  name: 'asked',
  toInks: (rgb: Uint8Array): Uint8Array => {
    const out = new Uint8Array((rgb.length / 3) * 4);
    for (let i = 0; i < rgb.length / 3; i++) for (let c = 0; c < 3; c++) out[4 * i + c] = 255 - (rgb[3 * i + c] as number);
    return out;
  },
  toScreen: (): Uint8Array => new Uint8Array(0),
} satisfies ProcessColours;

/** What is not asked for by the screen has black in it. */
const NOT_ASKED = [0, 0, 0, 1] as const;

/** Colours as they are asked for. Process values that came with the art are not: they are what is printed. */
function askedOf(page: PrintPage): PrintPage {
  const own = <T extends PrintColour>(colour: T): T => (colour.cmyk ? { ...colour, cmyk: NOT_ASKED } : colour);
  const asked = (item: PrintItem): PrintItem => {
    if (item.kind === 'picture') return item.ink ? { ...item, ink: own(item.ink) } : item;
    const { fill, stroke } = item;
    return { ...item, fill: fill && own(fill), ...(stroke ? { stroke: own(stroke) } : {}) };
  };
  return { ...page, forms: page.forms.map((form) => ({ ...form, items: form.items.map(asked) })) };
}

function channelsOf(plates: readonly Plate[]): Uint8Array {
  const four = PROCESS_INKS.map((name) => plates.find((plate) => plate.name === name)?.data);
  const n = plates[0]?.data.length ?? 0;
  const out = new Uint8Array(4 * n);
  for (let i = 0; i < n; i++) for (let c = 0; c < 4; c++) out[4 * i + c] = four[c]?.[i] ?? 0;
  return out;
}

/** Colours that stand for spots. */
function spotColours(page: PrintPage): Map<string, Rgb> {
  const out = new Map<string, Rgb>();
  for (const { items } of page.forms)
    for (const item of items)
      for (const colour of item.kind === 'shape' ? [item.fill, item.stroke] : [item.ink])
        if (colour?.spot !== undefined) out.set(colour.spot, rgbOf(colour.hex));
  return out;
}

/** @throws as `makePlates` */
export async function softView(page: PrintPage, { dpi, profile, pictures }: SoftViewOptions, control: Control = {}): Promise<SoftView> {
  const art = { ...page, white: undefined };
  const inks = await makePlates(art, { dpi, profile, pictures }, control);
  const asked = await makePlates(askedOf(art), { dpi, profile: ASKED, pictures }, control);
  const [{ width, height, data }] = inks as [Plate];
  const n = data.length;
  const printed = profile.toScreen(channelsOf(inks));
  const wanted = channelsOf(asked);
  const rgb = Uint8Array.from(printed);
  const beyond = new Uint8Array(n);
  const known = new Map<number, boolean>();
  const isBeyond = (a: number, b: number): boolean => {
    const key = a * 0x1000000 + b;
    let found = known.get(key);
    if (found === undefined) {
      const parts = (v: number): [number, number, number] => [v >> 16, (v >> 8) & 255, v & 255];
      found = labDifference(labOf(parts(a)), labOf(parts(b))) > REACH_DELTA;
      if (known.size < 200_000) known.set(key, found);
    }
    return found;
  };
  // the paper as this profile shows it is the white that colours are compared on
  let [count, out] = [0, 0];
  for (let i = 0; i < n; i++) {
    const [r, g, b, k] = [0, 1, 2, 3].map((c) => wanted[4 * i + c] as number) as [number, number, number, number];
    if (r + g + b === 0 || k > 0) continue;
    count++;
    const ask = ((255 - r) << 16) | ((255 - g) << 8) | (255 - b);
    const got = ((printed[3 * i] as number) << 16) | ((printed[3 * i + 1] as number) << 8) | (printed[3 * i + 2] as number);
    if (!isBeyond(ask, got)) continue;
    beyond[i] = 255;
    out++;
  }
  const spots = spotColours(page);
  for (const { name, data: share } of inks) {
    const own = name === WHITE_INK ? undefined : spots.get(name);
    if (own)
      for (let i = 0; i < n; i++)
        for (let c = 0; c < 3; c++)
          rgb[3 * i + c] =
            (rgb[3 * i + c] as number) * (1 - (share[i] as number) / 255) + ((own[c] as number) * (share[i] as number)) / 255;
  }
  return { width, height, rgb, beyond, beyondShare: count > 0 ? out / count : 0 };
}
