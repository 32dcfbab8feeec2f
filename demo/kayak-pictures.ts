/** The stickers of the kayak hire: a kayak on a wave, cut out of its ground, and a sunset with its ground, as PNG. */
import { writePng } from '@lorvek/core/format';

export const KAYAK_PICTURE = { widthPx: 600, heightPx: 420 };
export const SUNSET_PICTURE = { widthPx: 480, heightPx: 480 };

type Colour = readonly [number, number, number];

const WAVE: Colour = [24, 110, 158];
const FOAM: Colour = [214, 236, 240];
const HULL: Colour = [226, 97, 28];
const DECK: Colour = [247, 186, 58];
const PADDLE: Colour = [58, 44, 40];

/** Colour of the kayak's picture at a place of 600 by 420, y down; undefined: nothing is there. */
function kayakAt(x: number, y: number): Colour | undefined {
  const [u, v] = [x - 300, y - 210];
  const crest = 62 + 16 * Math.sin(u / 38);
  const isIn = (u / 285) ** 2 + (v / 195) ** 2 < 1;
  const hull = Math.abs(u) < 225 && Math.abs(v - 30) < 34 * Math.sqrt(Math.max(0, 1 - (u / 225) ** 2));
  const paddle = Math.abs(v + 40 - u * 0.42) < 5 && Math.abs(u) < 190;
  const blade = (s: number): boolean => ((u - s * 196) / 34) ** 2 + ((v + 40 - s * 82) / 15) ** 2 < 1;
  if (blade(1) || blade(-1)) return PADDLE;
  if (paddle) return PADDLE;
  if (hull) return v < 22 ? DECK : HULL;
  if (v > crest && isIn) return v < crest + 9 ? FOAM : WAVE;
  const head = Math.hypot(u, v + 62) < 34;
  return head ? [232, 178, 134] : Math.abs(u) < 30 && v > -40 && v < 12 ? [30, 66, 92] : undefined;
}

/** Light behind a hill over water, to the picture's very edge. */
function sunsetAt(x: number, y: number): Colour {
  const sun = Math.hypot(x - 300, y - 200);
  if (sun < 70) return [255, 226, 150];
  const hill = 250 + 46 * Math.sin(x / 70) - 20 * Math.cos(x / 31);
  if (y > 320) return [18 + (y - 320) / 8, 62, 96 + Math.round(20 * Math.sin((x + 2 * y) / 26))];
  if (y > hill) return [44, 58, 66];
  const glow = Math.max(0, 1 - sun / 420);
  return [Math.round(150 + 100 * glow), Math.round(84 + 90 * glow), Math.round(96 - 20 * glow)];
}

/** Each pixel from 3 by 3 places, so that edges are soft. */
function painted(width: number, height: number, colourAt: (x: number, y: number) => Colour | undefined): Uint8Array {
  const out = new Uint8Array(4 * width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const sum = [0, 0, 0];
      let there = 0;
      for (let k = 0; k < 9; k++) {
        const colour = colourAt(x + ((k % 3) + 0.5) / 3, y + (Math.floor(k / 3) + 0.5) / 3);
        if (!colour) continue;
        there++;
        colour.forEach((c, i) => (sum[i] = (sum[i] as number) + c));
      }
      const at = 4 * (y * width + x);
      sum.forEach((c, i) => (out[at + i] = there > 0 ? Math.round(c / there) : 255));
      out[at + 3] = Math.round((255 * there) / 9);
    }
  return out;
}

const pictureOf = ({ widthPx, heightPx }: typeof KAYAK_PICTURE, colourAt: (x: number, y: number) => Colour | undefined) => ({
  width: widthPx,
  height: heightPx,
  data: painted(widthPx, heightPx, colourAt),
  pixelsPerMm: 300 / 25.4,
});

export const kayakPixels = () => pictureOf(KAYAK_PICTURE, kayakAt);
export const kayakPicture = (): Buffer => Buffer.from(writePng(kayakPixels()));
export const sunsetPicture = (): Buffer => Buffer.from(writePng(pictureOf(SUNSET_PICTURE, sunsetAt)));
