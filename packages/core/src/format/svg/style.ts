/** Properties of SVG elements as computed values: what is inherited, what is not, in user units. */
import { numbers, colour, length, type Colour, type LengthContext } from './values.ts';

/** What an element is drawn with, inherited as SVG says. */
export interface Style {
  readonly fill: string;
  readonly stroke: string;
  readonly color: string;
  readonly fillRule: string;
  readonly clipRule: string;
  readonly fillAlpha: number;
  readonly strokeAlpha: number;
  readonly strokeWidth: string;
  readonly cap: 'butt' | 'round' | 'square';
  readonly join: 'mitre' | 'round' | 'bevel';
  readonly mitreLimit: number;
  readonly dash: string;
  readonly dashOffset: string;
  readonly visible: boolean;
  readonly fontSize: number;
  readonly fontFamily: string;
  readonly fontWeight: string;
  readonly italic: boolean;
  readonly anchor: string;
  readonly markers: readonly [string, string, string];
}

/** What is drawn when nothing is said. */
export const INITIAL: Style = {
  fill: 'black',
  stroke: 'none',
  color: 'black',
  fillRule: 'nonzero',
  clipRule: 'nonzero',
  fillAlpha: 1,
  strokeAlpha: 1,
  strokeWidth: '1',
  cap: 'butt',
  join: 'mitre',
  mitreLimit: 4,
  dash: 'none',
  dashOffset: '0',
  visible: true,
  fontSize: 16,
  fontFamily: '',
  fontWeight: '400',
  italic: false,
  anchor: 'start',
  markers: ['none', 'none', 'none'],
};

type Values = ReadonlyMap<string, string>;

const share = (text: string | undefined, parent: number): number => {
  if (text === undefined || text === 'inherit') return parent;
  const n = Number.parseFloat(text) / (text.trim().endsWith('%') ? 100 : 1);
  return Number.isFinite(n) ? Math.min(1, Math.max(0, n)) : parent;
};

const SIZES: Record<string, number> = { 'xx-small': 9, 'x-small': 10, small: 13, medium: 16, large: 18, 'x-large': 24, 'xx-large': 32 };

/**
 * The style of an element within its parent's.
 * @param values what is said of the element itself; the rest is its parent's
 */
export function inherit(parent: Style, values: Values, context: LengthContext): Style {
  const text = (name: string, own: string): string => {
    const value = values.get(name)?.trim();
    return value === undefined || value === 'inherit' ? own : value;
  };
  const cap = text('stroke-linecap', parent.cap);
  const join = text('stroke-linejoin', parent.join === 'mitre' ? 'miter' : parent.join);
  const limit = Number(text('stroke-miterlimit', String(parent.mitreLimit)));
  const marker = values.get('marker');
  const markers = (['marker-start', 'marker-mid', 'marker-end'] as const).map((name, i) =>
    text(name, marker ?? (parent.markers[i] as string)),
  );
  const size = values.get('font-size')?.trim().toLowerCase();
  const fontContext = { ...context, fontSize: parent.fontSize, width: parent.fontSize, height: parent.fontSize };
  const ownColor = text('color', parent.color);
  const color = colour(ownColor) ? ownColor : parent.color;
  const resolved = (paint: string): string => (/^currentcolor$/i.test(paint) ? color : paint);
  return {
    fill: resolved(text('fill', parent.fill)),
    stroke: resolved(text('stroke', parent.stroke)),
    color,
    fillRule: text('fill-rule', parent.fillRule),
    clipRule: text('clip-rule', parent.clipRule),
    fillAlpha: share(values.get('fill-opacity'), parent.fillAlpha),
    strokeAlpha: share(values.get('stroke-opacity'), parent.strokeAlpha),
    strokeWidth: text('stroke-width', parent.strokeWidth),
    cap: cap === 'round' || cap === 'square' ? cap : 'butt',
    join: join === 'round' || join === 'bevel' ? join : 'mitre',
    mitreLimit: Number.isFinite(limit) && limit >= 1 ? limit : parent.mitreLimit,
    dash: text('stroke-dasharray', parent.dash),
    dashOffset: text('stroke-dashoffset', parent.dashOffset),
    visible: text('visibility', parent.visible ? 'visible' : 'hidden') === 'visible',
    fontSize: size === undefined ? parent.fontSize : (SIZES[size] ?? length(size, fontContext, 'x') ?? parent.fontSize),
    fontFamily: text('font-family', parent.fontFamily),
    fontWeight: text('font-weight', parent.fontWeight),
    italic: /italic|oblique/.test(text('font-style', parent.italic ? 'italic' : 'normal')),
    anchor: text('text-anchor', parent.anchor),
    markers: markers as [string, string, string],
  };
}

/**
 * Dashes in user units; undefined for none. An odd list counts twice.
 * @returns undefined also for lengths below zero, and where all are zero
 */
export function dashesOf(style: Style, context: LengthContext): number[] | undefined {
  if (style.dash === 'none' || style.dash === '') return undefined;
  const list = style.dash.split(/[\s,]+/).map((part) => length(part, context, 'diagonal'));
  if (list.some((n) => n === undefined || n < 0)) return undefined;
  const dashes = list as number[];
  const both = dashes.length % 2 === 1 ? [...dashes, ...dashes] : dashes;
  return both.some((n) => n > 0) ? both : undefined;
}

/** What a fill or a stroke names. */
export type Paint =
  | { readonly kind: 'none' }
  | ({ readonly kind: 'colour' } & Colour)
  | { readonly kind: 'server'; readonly id: string; readonly fallback: string };

/**
 * A fill or stroke as it is written.
 * @returns `none` also for clear colours and for what cannot be read
 */
export function paintOf(text: string): Paint {
  const server = /^url\(\s*["']?#([^"')]+)["']?\s*\)\s*(.*)$/i.exec(text.trim());
  if (server) return { kind: 'server', id: server[1] ?? '', fallback: server[2] ?? '' };
  const found = colour(text);
  return found && found.alpha > 0 ? { kind: 'colour', ...found } : { kind: 'none' };
}

/**
 * Points of a polygon attribute, in pairs.
 * @returns a last number without its fellow is left out
 */
export const pairs = (text: string): [number, number][] => {
  const n = numbers(text);
  return Array.from({ length: Math.floor(n.length / 2) }, (_, i) => [n[2 * i] as number, n[2 * i + 1] as number]);
};
