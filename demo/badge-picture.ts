/** The old tea-room badge: a small, noisy bitmap of a made-up badge with a cup, on paper that has yellowed unevenly, as PNG. */
import { writePng } from './hull-picture.ts';

export const BADGE_PICTURE = { widthPx: 360, heightPx: 360 };

type Colour = readonly [number, number, number];

const PAPER: Colour = [246, 240, 226];
const GREEN: Colour = [38, 92, 74];
const CREAM: Colour = [243, 229, 196];
const BROWN: Colour = [120, 66, 38];
const RED: Colour = [176, 48, 44];

const FINE = 3;
const MIDDLE = 180;

/** Is a place on the cup, its saucer or its handle? */
function onCup(x: number, y: number): boolean {
  const [u, v] = [x - MIDDLE, y - 176];
  const bowl = Math.abs(u) < 56 - Math.max(0, v) * 0.42 && v > -14 && v < 58;
  const handle = Math.hypot((u - 58) / 1.05, v - 10);
  const saucer = (u / 84) ** 2 + ((v - 70) / 11) ** 2 < 1;
  return bowl || saucer || (handle < 25 && handle > 14 && u > 40);
}

/** Three wisps of steam. */
const onSteam = (x: number, y: number): boolean =>
  [-28, 0, 28].some((shift) => y > 98 && y < 150 && Math.abs(x - MIDDLE - shift - 6 * Math.sin((y - 98) / 9)) < 3.4);

function colourAt(x: number, y: number): Colour {
  const r = Math.hypot(x - MIDDLE, y - MIDDLE);
  if (r > 158) return PAPER;
  if (r > 138) return GREEN;
  if (r > 131) return CREAM;
  if (r > 126) return RED;
  const angle = Math.atan2(y - MIDDLE, x - MIDDLE);
  if (Math.abs(r - 112) < 5 && Math.cos(angle * 24) > 0.35) return GREEN;
  if (onCup(x, y)) return BROWN;
  return onSteam(x, y) ? RED : CREAM;
}

/** Noise that is the same every time (a small hash of the place). */
function grain(x: number, y: number, c: number): number {
  const n = Math.sin(x * 12.9898 + y * 78.233 + c * 37.719) * 43758.5453;
  return n - Math.floor(n) - 0.5;
}

/** The badge as an old scan has it: soft, unevenly lit, with grain. */
export const badgePicture = (): Buffer =>
  writePng(BADGE_PICTURE.widthPx, BADGE_PICTURE.heightPx, (x, y) => {
    const sum = [0, 0, 0];
    let n = 0;
    for (let v = -FINE; v <= FINE; v++)
      for (let u = -FINE; u <= FINE; u++) {
        colourAt(x + 0.5 + u * 0.3, y + 0.5 + v * 0.3).forEach((value, c) => (sum[c] = (sum[c] as number) + value));
        n++;
      }
    const light = 1 - 0.12 * (x / 360) - 0.07 * (y / 360) ** 2;
    return sum.map((value, c) => Math.min(255, Math.max(0, (value / n) * light + 16 * grain(x, y, c)))) as unknown as [
      number,
      number,
      number,
    ];
  });
