/** True rulers along the upper and the left edge, in the job's unit. */
import { unitMm, type LengthUnit } from '@lorvek/core/units';
import type { Size, View } from './view.ts';

export const RULER_PX = 22;

const INK = '#4a5565';
const PAPER = '#f6f2e9';
const LINE = '#cbc3b1';

/** Steps a ruler may have, in its unit: decimal, or halving below an inch. */
function stepOf(unit: LengthUnit, pxPerUnit: number): { major: number; minor: number } {
  const want = 62 / pxPerUnit;
  if (unit === 'in-fraction' && want < 1) {
    let step = 1;
    while (step / 2 >= want && step > 1 / 64) step /= 2;
    return { major: step, minor: step / 4 };
  }
  const power = 10 ** Math.floor(Math.log10(want));
  const major = [1, 2, 5, 10].map((k) => k * power).find((s) => s >= want) ?? 10 * power;
  return { major, minor: major / (String(major / power).startsWith('2') ? 4 : 5) };
}

/** Sixty-fourths of an inch as they are said: 1 3/8. */
function fractionOf(value: number): string {
  const parts = Math.round(Math.abs(value) * 64);
  const [whole, rest] = [Math.floor(parts / 64), parts % 64];
  let [top, bottom] = [rest, 64];
  while (top > 0 && top % 2 === 0) [top, bottom] = [top / 2, bottom / 2];
  const said = [whole > 0 || rest === 0 ? String(whole) : '', rest > 0 ? `${top}/${bottom}` : ''].filter((part) => part !== '').join(' ');
  return value < 0 && parts > 0 ? `−${said}` : said;
}

const labelOf = (value: number, major: number, unit: LengthUnit): string => {
  if (unit === 'in-fraction' && major < 1) return fractionOf(value);
  const decimals = Math.max(0, Math.ceil(-Math.log10(major) - 1e-9));
  return value.toFixed(Math.min(4, decimals)).replace('-', '−');
};

interface Scale {
  readonly unit: LengthUnit;
  /** Between labels, and between the small ticks, in the unit. */
  readonly major: number;
  readonly minor: number;
}

/** The ticks of a ruler from one value to another. */
function paintTicks(
  context: CanvasRenderingContext2D,
  [from, to]: readonly [number, number],
  { unit, major, minor }: Scale,
  tick: (value: number, length: number, label?: string) => void,
): void {
  const first = Math.floor(from / minor);
  const last = Math.ceil(to / minor);
  if (last - first > 3000) return;
  const each = Math.round(major / minor);
  context.beginPath();
  for (let k = first; k <= last; k++) {
    const isMajor = k % each === 0;
    tick(k * minor, isMajor ? RULER_PX : 5, isMajor ? labelOf(k * minor, major, unit) : undefined);
  }
  context.stroke();
}

export function paintRuler(context: CanvasRenderingContext2D, view: View, size: Size, unit: LengthUnit): void {
  const mm = unitMm(unit);
  const px = view.scale * mm;
  const scale = { unit, ...stepOf(unit, px) };
  context.save();
  context.fillStyle = PAPER;
  context.fillRect(0, 0, size.width, RULER_PX);
  context.fillRect(0, 0, RULER_PX, size.height);
  context.strokeStyle = LINE;
  context.lineWidth = 1;
  context.beginPath();
  context.moveTo(0, RULER_PX - 0.5);
  context.lineTo(size.width, RULER_PX - 0.5);
  context.moveTo(RULER_PX - 0.5, 0);
  context.lineTo(RULER_PX - 0.5, size.height);
  context.stroke();
  context.font = '10px "Spline Sans Mono", monospace';
  context.fillStyle = INK;
  paintTicks(context, [(RULER_PX - view.x) / px, (size.width - view.x) / px], scale, (value, length, label) => {
    const x = Math.round(view.x + value * px) + 0.5;
    if (x < RULER_PX) return;
    context.moveTo(x, RULER_PX - length);
    context.lineTo(x, RULER_PX);
    if (label) context.fillText(label, x + 3, 9);
  });
  paintTicks(context, [(view.y - size.height) / px, (view.y - RULER_PX) / px], scale, (value, length, label) => {
    const y = Math.round(view.y - value * px) + 0.5;
    if (y < RULER_PX) return;
    context.moveTo(RULER_PX - length, y);
    context.lineTo(RULER_PX, y);
    if (!label) return;
    context.save();
    context.translate(9, y - 3);
    context.rotate(-Math.PI / 2);
    context.fillText(label, 0, 0);
    context.restore();
  });
  context.restore();
}
