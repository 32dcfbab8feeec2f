/** A made-up picture of a pilot boat's side with two fenders a known distance apart, drawn pixel by pixel, as PNG. */
import { crc32, deflateSync } from 'node:zlib';

export const HULL_PICTURE = { widthPx: 1500, heightPx: 800, fenderPx: [420, 1130] as const, fenderDistanceMm: 2400 };

type Colour = readonly [number, number, number];

const mix = (a: Colour, b: Colour, t: number): Colour => [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t, a[2] + (b[2] - a[2]) * t];
const clamp = (t: number): number => Math.min(1, Math.max(0, t));

/** Noise that is the same every time (a small hash of the place). */
function grain(x: number, y: number): number {
  const n = Math.sin(x * 12.9898 + y * 78.233) * 43758.5453;
  return n - Math.floor(n) - 0.5;
}

const SKY: Colour = [198, 214, 224];
const SEA: Colour = [52, 88, 98];
const HULL: Colour = [226, 118, 46];
const BOOT: Colour = [34, 38, 48];
const DECK: Colour = [240, 238, 230];
const FENDER: Colour = [236, 236, 232];

/** Upper edge of the hull at an x, px from above: the sheer line, rising to the bow. */
const sheer = (x: number): number => 262 - 70 * clamp((x - 300) / 1200) ** 2;
/** Lower edge: the water line with a few ripples. */
const water = (x: number): number => 610 + 5 * Math.sin(x / 46) + 3 * Math.sin(x / 17);
const bow = (y: number): number => 1440 - 0.32 * (y - 190);

function hullColour(x: number, y: number): Colour {
  const t = (y - sheer(x)) / (water(x) - sheer(x));
  if (t > 0.86) return mix(BOOT, SEA, (t - 0.86) * 2);
  if (t < 0.045) return mix(DECK, HULL, 0.15);
  const plank = Math.abs(((t * 9) % 1) - 0.5) < 0.02 ? 0.12 : 0;
  return mix(mix(HULL, [255, 190, 130], 0.35 * (1 - t)), BOOT, 0.32 * t * t + plank);
}

function fenderAt(x: number, y: number): Colour | undefined {
  for (const cx of HULL_PICTURE.fenderPx) {
    const [rx, top, bottom] = [34, 330, 520];
    const cy = Math.min(Math.max(y, top + rx), bottom - rx);
    const far = Math.hypot(x - cx, y - cy);
    if (far < rx) return mix(FENDER, [120, 124, 128], clamp((x - cx + rx) / (2 * rx)) ** 2 * 0.8);
    if (Math.abs(x - cx) < 3 && y > sheer(x) && y < top + 8) return [70, 62, 52];
  }
  return undefined;
}

function cabinAt(x: number, y: number): Colour | undefined {
  if (x < 330 || x > 820 || y < 90 || y > sheer(x)) return undefined;
  const isWindow = y > 120 && y < 180 && (x - 350) % 120 < 88 && x > 350 && x < 800;
  return isWindow ? mix([60, 84, 100], SKY, clamp((180 - y) / 90)) : mix(DECK, [206, 202, 192], (y - 90) / 180);
}

function colourAt(x: number, y: number): Colour {
  if (y > water(x)) return mix(SEA, [24, 48, 58], clamp((y - 600) / 220) + 0.08 * Math.sin(x / 23 + y / 7));
  const onHull = y >= sheer(x) && x > 60 + 0.12 * (y - 200) && x < bow(y);
  if (onHull) return fenderAt(x, y) ?? hullColour(x, y);
  return cabinAt(x, y) ?? (y > 470 ? mix(SEA, SKY, 0.25) : mix(SKY, [238, 240, 236], y / 520));
}

/** One chunk of a PNG. */
export function chunk(type: string, data: Uint8Array): Buffer {
  const body = Buffer.concat([Buffer.from(type, 'latin1'), data]);
  const [length, sum] = [Buffer.alloc(4), Buffer.alloc(4)];
  length.writeUInt32BE(data.length);
  sum.writeUInt32BE(crc32(body));
  return Buffer.concat([length, body, sum]);
}

/** RGB pixels as a PNG (ISO/IEC 15948). */
export function writePng(width: number, height: number, at: (x: number, y: number) => Colour): Buffer {
  const raw = Buffer.alloc((3 * width + 1) * height);
  for (let y = 0, i = 0; y < height; y++) {
    raw[i++] = 0;
    for (let x = 0; x < width; x++) for (const value of at(x, y)) raw[i++] = Math.max(0, Math.min(255, Math.round(value)));
  }
  const head = Buffer.alloc(13);
  head.writeUInt32BE(width, 0);
  head.writeUInt32BE(height, 4);
  head.set([8, 2, 0, 0, 0], 8);
  return Buffer.concat([
    Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]),
    chunk('IHDR', head),
    chunk('IDAT', deflateSync(raw)),
    chunk('IEND', Buffer.alloc(0)),
  ]);
}

export const hullPicture = (): Buffer =>
  writePng(HULL_PICTURE.widthPx, HULL_PICTURE.heightPx, (x, y) => {
    const [r, g, b] = colourAt(x, y);
    const noise = 7 * grain(x, y);
    return [r + noise, g + noise, b + noise];
  });
