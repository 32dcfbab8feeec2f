/** Files of other programs to items: pure, for the worker. Strokes get their real outline, colours the nearest film. */
import { bounds, formatPath, mapOutline, strokeToShape, translation, type Outline } from '@lorvek/core/geometry';
import { readSvg, type ArtworkItem, type ImportedArtwork, type Remark } from '@lorvek/core/format';
import { setLettering, type Font } from '@lorvek/core/lettering';
import type { ShapeItem } from '@lorvek/model';

export interface ImportFilm {
  readonly id: string;
  readonly hex: string;
}

export interface Imported {
  readonly shapes: readonly Omit<ShapeItem, 'id'>[];
  /** The file's colour of each shape, in the same order. */
  readonly hexes: readonly string[];
  readonly pictures: ImportedArtwork['pictures'];
  readonly widthMm: number;
  readonly heightMm: number;
  readonly hasSize: boolean;
  readonly report: readonly Remark[];
  /** Colours of the file, the film each goes to, and how far off that is (CIE 1976 ΔE). */
  readonly colours: readonly { readonly hex: string; readonly film: string | null; readonly difference: number; readonly count: number }[];
}

/** CIE L*a*b* of an sRGB colour, D65 (IEC 61966-2-1, CIE 15). */
function labOf(hex: string): [number, number, number] {
  const n = Number.parseInt(hex.slice(1), 16);
  const [r, g, b] = [(n >> 16) & 255, (n >> 8) & 255, n & 255].map((v) => {
    const c = v / 255;
    return c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4;
  }) as [number, number, number];
  const f = (t: number): number => (t > 0.008856 ? Math.cbrt(t) : 7.787 * t + 16 / 116);
  const x = f((0.4124 * r + 0.3576 * g + 0.1805 * b) / 0.95047);
  const y = f(0.2126 * r + 0.7152 * g + 0.0722 * b);
  const z = f((0.0193 * r + 0.1192 * g + 0.9505 * b) / 1.08883);
  return [116 * y - 16, 500 * (x - y), 200 * (y - z)];
}

export const colourDifference = (a: string, b: string): number => {
  const [p, q] = [labOf(a), labOf(b)];
  return Math.hypot(p[0] - q[0], p[1] - q[1], p[2] - q[2]);
};

/** Beyond this a film is not the colour that was meant. */
const FARTHEST = 35;

function nearestFilm(hex: string, films: readonly ImportFilm[]): { film: string | null; difference: number } {
  let best = { film: null as string | null, difference: Infinity };
  for (const film of films) {
    const difference = colourDifference(hex, film.hex);
    if (difference < best.difference) best = { film: film.id, difference };
  }
  return best.difference <= FARTHEST ? best : { film: null, difference: best.difference };
}

function outlineOf({ outline, stroke }: ArtworkItem): Outline {
  if (!stroke) return outline;
  return strokeToShape(outline, {
    width: stroke.widthMm,
    cap: stroke.cap ?? 'butt',
    join: stroke.join ?? 'mitre',
    mitreLimit: stroke.mitreLimit ?? 4,
    ...(stroke.dashMm ? { dash: [...stroke.dashMm], dashOffset: stroke.dashOffsetMm ?? 0 } : {}),
  });
}

const tidy = (n: number): number => Math.round(n * 1e4) / 1e4;

/** Fonts of the shop by what a file calls them; undefined when the shop has none of that name. */
export type FontByFamily = (family: string) => Promise<Font | undefined>;

/** First name of a CSS font list, without quotes. */
const familyName = (list: string): string => (list.split(',')[0] ?? '').trim().replace(/^["']|["']$/g, '');

/** Reads the file; when it has text, once more with the fonts that it names. */
async function readWithFonts(bytes: Uint8Array, fontOf: FontByFamily): Promise<ImportedArtwork> {
  const families = new Set<string>();
  const plain = await readSvg(bytes, {
    textOutline: ({ family }) => {
      families.add(familyName(family));
      return undefined;
    },
  });
  const fonts = new Map<string, Font>();
  for (const family of families) {
    const font = await fontOf(family);
    if (font) fonts.set(family, font);
  }
  if (fonts.size === 0) return plain;
  return readSvg(bytes, {
    textOutline: ({ family, text, sizePx }) => {
      const font = fonts.get(familyName(family));
      if (!font) return undefined;
      const set = setLettering({ text, font, capHeightMm: Math.max(0.5, sizePx * font.capHeightEm) });
      const [line] = set.lines;
      // the ink begins at zero there; in the file the pen does
      const pen = line?.carets[0] ?? 0;
      return { outline: mapOutline(translation(-pen, 0), set.outline), advancePx: (line?.carets.at(-1) ?? 0) - pen };
    },
  });
}

/** @throws AppError `input.svg`, `limit.svg` */
export async function importSvg(bytes: Uint8Array, films: readonly ImportFilm[], fontOf: FontByFamily): Promise<Imported> {
  const art = await readWithFonts(bytes, fontOf);
  const matches = new Map<string, { film: string | null; difference: number; count: number }>();
  const shapes: Omit<ShapeItem, 'id'>[] = [];
  const hexes: string[] = [];
  let strokes = 0;
  art.items.forEach((item, i) => {
    const outline = outlineOf(item);
    if (outline.contours.length === 0) return;
    const hex = item.fill ?? item.stroke?.hex ?? '#000000';
    const match = matches.get(hex) ?? { ...nearestFilm(hex, films), count: 0 };
    matches.set(hex, { ...match, count: match.count + 1 });
    if (item.stroke) strokes++;
    hexes.push(hex);
    const { minX, minY } = bounds(outline);
    const [x, y] = [tidy(minX), tidy(minY)];
    shapes.push({
      type: 'item',
      kind: 'shape',
      name: (item.name ?? item.layer ?? `Part ${i + 1}`).slice(0, 120),
      film: match.film,
      matrix: [1, 0, 0, 1, x, y],
      path: formatPath(mapOutline(translation(-x, -y), outline), 5),
    });
  });
  const remark: Remark[] =
    strokes > 0 ? [{ code: 'strokes', text: 'Strokes were turned into shapes that a blade can follow.', count: strokes }] : [];
  return {
    shapes,
    hexes,
    pictures: art.pictures,
    widthMm: art.widthMm,
    heightMm: art.heightMm,
    hasSize: art.hasSize,
    report: [...remark, ...art.report],
    colours: [...matches].map(([hex, match]) => ({ hex, ...match })),
  };
}
