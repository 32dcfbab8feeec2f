/** Values in SVG and CSS: lengths, colours, transforms, viewBox. Sources: SVG 2 (W3C 2018), CSS Values 4, CSS Color 4. */
import type { Box, Matrix } from '../../types/index.ts';
import { compose, IDENTITY, rotation, scaling, translation } from '../../geometry/transform.ts';
import { NAMED_COLOURS } from './colours.ts';

/** What percentages and font units are of. */
export interface LengthContext {
  readonly width: number;
  readonly height: number;
  readonly fontSize: number;
}

const UNIT_PX: Record<string, number> = {
  '': 1,
  px: 1,
  mm: 96 / 25.4,
  cm: 96 / 2.54,
  in: 96,
  pt: 96 / 72,
  pc: 16,
  q: 96 / 101.6,
};

const NUMBER = /^\s*([+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?)\s*([a-z%]*)\s*$/i;

/**
 * A length in user units (px); undefined when it is none. Percentages are of the width, height or diagonal.
 * @param of which side a percentage is taken
 */
export function length(text: string | undefined, context: LengthContext, of: 'x' | 'y' | 'diagonal'): number | undefined {
  const found = text === undefined ? undefined : NUMBER.exec(text);
  if (!found) return undefined;
  const value = Number(found[1]);
  const unit = (found[2] ?? '').toLowerCase();
  if (!Number.isFinite(value)) return undefined;
  if (unit === '%') {
    const whole = of === 'x' ? context.width : of === 'y' ? context.height : Math.sqrt((context.width ** 2 + context.height ** 2) / 2);
    return (value / 100) * whole;
  }
  if (unit === 'em') return value * context.fontSize;
  if (unit === 'rem') return value * 16;
  if (unit === 'ex' || unit === 'ch') return (value * context.fontSize) / 2;
  const px = UNIT_PX[unit];
  return px === undefined ? undefined : value * px;
}

/** Numbers in a list with commas or blanks. */
export const numbers = (text: string): number[] =>
  [...text.matchAll(/[+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?/gi)].map(([n]) => Number(n)).filter(Number.isFinite);

const angle = (text: string): number => {
  const n = Number.parseFloat(text);
  if (/grad$/i.test(text)) return n * 0.9;
  if (/rad$/i.test(text)) return (n * 180) / Math.PI;
  return /turn$/i.test(text) ? n * 360 : n;
};

const skew = (xDeg: number, yDeg: number): Matrix => [1, Math.tan((yDeg * Math.PI) / 180), Math.tan((xDeg * Math.PI) / 180), 1, 0, 0];

/** `n` the arguments as lengths, `deg` the first two as angles. */
const TRANSFORMS: Record<string, (n: readonly number[], deg: readonly [number, number]) => Matrix | undefined> = {
  matrix: (n) => (n.length === 6 ? (n as unknown as Matrix) : undefined),
  translate: ([x = 0, y = 0]) => translation(x, y),
  translatex: ([x = 0]) => translation(x, 0),
  translatey: ([y = 0]) => translation(0, y),
  scale: ([x = 1, y = x]) => scaling(x, y),
  scalex: ([x = 1]) => scaling(x, 1),
  scaley: ([y = 1]) => scaling(1, y),
  rotate: ([, x = 0, y = 0], [turn]) => compose(translation(x, y), compose(rotation(turn), translation(-x, -y))),
  skewx: (_, [x]) => skew(x, 0),
  skewy: (_, [y]) => skew(0, y),
  skew: (_, [x, y]) => skew(x, y),
};

function oneTransform(name: string, args: readonly string[], context: LengthContext): Matrix | undefined {
  const n = args.map((arg, i) => length(arg, context, i % 2 === 0 ? 'x' : 'y') ?? angle(arg));
  if (n.some((value) => !Number.isFinite(value))) return undefined;
  return TRANSFORMS[name.toLowerCase()]?.(n, [angle(args[0] ?? '0'), angle(args[1] ?? '0')]);
}

/** A transform list, as attribute or CSS; a list with an error in it is none at all. */
export function transform(text: string | undefined, context: LengthContext): Matrix {
  if (!text || text.trim() === '' || text.trim() === 'none') return IDENTITY;
  let out: Matrix = IDENTITY;
  for (const [, name = '', args = ''] of text.matchAll(/([a-z]+)\s*\(([^)]*)\)/gi)) {
    const one = oneTransform(
      name,
      args.split(/[\s,]+/).filter((arg) => arg !== ''),
      context,
    );
    if (!one) return IDENTITY;
    out = compose(out, one);
  }
  return out;
}

/** The part of the plane that is shown. */
export interface ViewBox {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

/** Four numbers as a view box; undefined when they are none. */
export function viewBox(text: string | undefined): ViewBox | undefined {
  const [x, y, width, height] = numbers(text ?? '');
  if (x === undefined || y === undefined || width === undefined || height === undefined || width <= 0 || height <= 0) return undefined;
  return { x, y, width, height };
}

/**
 * From a viewBox to its viewport, by preserveAspectRatio.
 * @param width,height of the viewport, user units
 */
export function fitViewBox(box: ViewBox, width: number, height: number, preserve: string | undefined): Matrix {
  const [align = 'xMidYMid', meet = 'meet'] = (preserve ?? '')
    .trim()
    .replace(/^defer\s+/, '')
    .split(/\s+/)
    .filter((word) => word !== '');
  let [kx, ky] = [width / box.width, height / box.height];
  if (align !== 'none') kx = ky = meet === 'slice' ? Math.max(kx, ky) : Math.min(kx, ky);
  const share = (word: string): number => (word === 'Min' ? 0 : word === 'Max' ? 1 : 0.5);
  const found = /^x(Min|Mid|Max)Y(Min|Mid|Max)$/.exec(align);
  const dx = align === 'none' ? 0 : (width - box.width * kx) * share(found?.[1] ?? 'Mid');
  const dy = align === 'none' ? 0 : (height - box.height * ky) * share(found?.[2] ?? 'Mid');
  return [kx, 0, 0, ky, dx - box.x * kx, dy - box.y * ky];
}

/** A colour and its opacity. */
export interface Colour {
  readonly hex: string;
  readonly alpha: number;
}

const hex2 = (n: number): string =>
  Math.round(Math.min(255, Math.max(0, n)))
    .toString(16)
    .padStart(2, '0');
const rgb = (r: number, g: number, b: number, alpha = 1): Colour => ({
  hex: `#${hex2(r)}${hex2(g)}${hex2(b)}`,
  alpha: Math.min(1, Math.max(0, alpha)),
});

function hsl(h: number, s: number, l: number, alpha: number): Colour {
  const f = (n: number): number => {
    const k = (n + h / 30) % 12;
    return 255 * (l - s * Math.min(l, 1 - l) * Math.max(-1, Math.min(k - 3, 9 - k, 1)));
  };
  return rgb(f(0), f(8), f(4), alpha);
}

/**
 * A CSS colour; undefined when it is none (`none`, a paint server, a mistake).
 * @param text a name, hex, rgb or hsl, with or without alpha
 */
export function colour(text: string): Colour | undefined {
  const t = text.trim().toLowerCase();
  if (t === 'transparent') return { hex: '#000000', alpha: 0 };
  const named = NAMED_COLOURS[t];
  if (named) return { hex: named, alpha: 1 };
  return hexColour(t) ?? calledColour(t);
}

/** `#rgb`, `#rgba`, `#rrggbb`, `#rrggbbaa`. */
function hexColour(t: string): Colour | undefined {
  const short = /^#([0-9a-f]{3,4})$/.exec(t)?.[1];
  const long = short ? [...short].map((c) => c + c).join('') : /^#([0-9a-f]{6}(?:[0-9a-f]{2})?)$/.exec(t)?.[1];
  return long === undefined
    ? undefined
    : { hex: `#${long.slice(0, 6)}`, alpha: long.length === 8 ? Number.parseInt(long.slice(6), 16) / 255 : 1 };
}

/** `rgb()` and `hsl()`, with or without alpha. */
function calledColour(t: string): Colour | undefined {
  const call = /^(rgb|hsl)a?\(([^)]*)\)$/.exec(t);
  if (!call) return undefined;
  const parts = (call[2] ?? '').split(/[\s,/]+/).filter((part) => part !== '');
  const value = (part: string | undefined, whole: number): number =>
    part?.endsWith('%') ? (Number.parseFloat(part) / 100) * whole : Number.parseFloat(part ?? '');
  const alpha = parts[3] === undefined ? 1 : value(parts[3], 1);
  const n =
    call[1] === 'rgb'
      ? [value(parts[0], 255), value(parts[1], 255), value(parts[2], 255)]
      : [((angle(parts[0] ?? '') % 360) + 360) % 360, value(parts[1], 1), value(parts[2], 1)];
  if (![...n, alpha].every(Number.isFinite)) return undefined;
  const [a = 0, b = 0, c = 0] = n;
  return call[1] === 'rgb' ? rgb(a, b, c, alpha) : hsl(a, b, c, alpha);
}

/**
 * Relative luminance of a colour as a mask sees it, 0 to 1 (linearRGB weights of SVG 1.1 on sRGB values).
 * @param hex `#rrggbb`
 */
export function luminance(hex: string): number {
  const n = Number.parseInt(hex.slice(1), 16);
  return (0.2125 * ((n >> 16) & 255) + 0.7154 * ((n >> 8) & 255) + 0.0721 * (n & 255)) / 255;
}

/** The map of the unit square onto a box. */
export const unitBox = (box: Box): Matrix => [box.maxX - box.minX, 0, 0, box.maxY - box.minY, box.minX, box.minY];
