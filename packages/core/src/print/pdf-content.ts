/**
 * What the pages of a print file are made of, as the language of PDF writes it (ISO 32000-2, 7.3, 8.5 and 8.6): numbers, names,
 * paths, colours, courses, and the content of one item. mm; nothing is written to the file here.
 */
import { strToU8 } from 'fflate';
import type { Outline } from '../types/index.ts';
import { rgbOf } from '../colour/index.ts';
import { InputError } from '../errors/index.ts';
import { bounds, isEmptyBox } from '../geometry/outline.ts';
import { unrolled, type Gradient, type GradientStop } from '../colour/gradient.ts';
import { stopBetween } from './course.ts';
import type { PrintColour, PrintItem } from './page.ts';
import type { ProcessColours } from './process-colours.ts';

/** Stops of a course between two given ones, so that it runs through process inks as it does through RGB. */
const COURSE_STEPS = 8;

export const number = (n: number): string => {
  if (!Number.isFinite(n)) throw new InputError('number', 'The page holds a number that is none.');
  const text = (Math.round(n * 1e5) / 1e5 + 0).toFixed(5);
  return text.replace(/\.?0+$/, '');
};
export const numbers = (list: Iterable<number>): string => Array.from(list, number).join(' ');
/** A name as the language writes it (7.3.5). */
export const nameOf = (text: string): string =>
  `/${Array.from(strToU8(text), (b) => (/[A-Za-z0-9_.-]/.test(String.fromCharCode(b)) ? String.fromCharCode(b) : `#${b.toString(16).padStart(2, '0')}`)).join('')}`;
/** Text that is shown, UTF-16 (7.9.2.2). */
export const textOf = (text: string): string =>
  `<feff${Array.from({ length: text.length }, (_, i) => text.charCodeAt(i).toString(16).padStart(4, '0')).join('')}>`;

export function pathOf({ contours }: Outline): string {
  return contours
    .flatMap(({ closed, spans }) => {
      const [first] = spans;
      if (!first) return [];
      const parts = spans.map((span, i) =>
        closed && i === spans.length - 1 && span.length === 4 ? '' : `${numbers(span.slice(2))} ${span.length === 4 ? 'l' : 'c'}`,
      );
      return [`${number(first[0] as number)} ${number(first[1] as number)} m`, ...parts.filter(Boolean), ...(closed ? ['h'] : [])];
    })
    .join('\n');
}

export type PictureItem = Extract<PrintItem, { kind: 'picture' }>;

/** A picture as the file's resources call it: of one that is in a single ink there may be several. */
export const pictureKey = ({ picture, ink }: PictureItem): string =>
  ink ? `${picture}-${[ink.hex.slice(1), ink.spot === undefined ? '' : 's', ...(ink.cmyk ?? [])].join('-')}` : picture;

/** What forms name and the page's resources hold: inks, courses, pictures. */
export class Resources {
  readonly spaces = new Map<string, number>();
  readonly courses: string[] = [];
  readonly pictures = new Map<string, number>();
  /** Masks of pictures that are plates of a spot. */
  readonly masks = new Map<string, number>();
  private readonly inks: ProcessColours | undefined;

  constructor(inks: ProcessColours | undefined) {
    this.inks = inks;
  }

  get space(): string {
    return this.inks ? '/DeviceCMYK' : '/DeviceRGB';
  }

  values(colour: PrintColour): number[] {
    const rgb = rgbOf(colour.hex);
    if (!this.inks) return rgb.map((v) => v / 255);
    return colour.cmyk ? [...colour.cmyk] : Array.from(this.inks.toInks(Uint8Array.from(rgb)), (v) => v / 255);
  }

  /** The operator that sets a colour, for filling or for lines. */
  setting(colour: PrintColour, isStroke: boolean): string {
    if (colour.spot !== undefined) return `${nameOf(colour.spot)} ${isStroke ? 'CS 1 SCN' : 'cs 1 scn'}`;
    const operator = this.inks ? (isStroke ? 'K' : 'k') : isStroke ? 'RG' : 'rg';
    return `${numbers(this.values(colour))} ${operator}`;
  }

  course(gradient: Gradient): string {
    const { kind, stops, inner } = gradient;
    const coords = kind === 'linear' ? [0, 0, 1, 0] : [inner?.x ?? 0, inner?.y ?? 0, inner?.r ?? 0, 0, 0, 1];
    const name = `/C${this.courses.length}`;
    this.courses.push(
      `${name} << /ShadingType ${kind === 'linear' ? 2 : 3} /ColorSpace ${this.space} /Coords [${numbers(coords)}] /Extend [true true] /Function ${this.courseFunction(stops)} >>`,
    );
    return name;
  }

  /** Pieces between stops, stitched together (7.10.3, 7.10.4). */
  private courseFunction(given: readonly GradientStop[]): string {
    const [first, last] = [given[0] as GradientStop, given.at(-1) as GradientStop];
    const stops = [...(first.offset > 0 ? [{ ...first, offset: 0 }] : []), ...given, ...(last.offset < 1 ? [{ ...last, offset: 1 }] : [])];
    const pieces: { from: GradientStop; to: GradientStop }[] = [];
    for (let i = 1; i < stops.length; i++) {
      const [a, b] = [stops[i - 1] as GradientStop, stops[i] as GradientStop];
      if (b.offset - a.offset < 1e-6) continue;
      const steps = this.inks ? COURSE_STEPS : 1;
      for (let k = 0; k < steps; k++) pieces.push({ from: stopBetween(a, b, k / steps), to: stopBetween(a, b, (k + 1) / steps) });
    }
    const piece = ({ from, to }: { from: GradientStop; to: GradientStop }): string =>
      `<< /FunctionType 2 /Domain [0 1] /C0 [${numbers(this.values(from))}] /C1 [${numbers(this.values(to))}] /N 1 >>`;
    const joints = pieces.slice(1).map(({ from }) => from.offset);
    return `<< /FunctionType 3 /Domain [0 1] /Functions [${pieces.map(piece).join(' ')}] /Bounds [${numbers(joints)}] /Encode [${pieces.map(() => '0 1').join(' ')}] >>`;
  }
}

/** The operators that paint an item; what it needs is kept among the resources. */
export function itemContent(item: PrintItem, resources: Resources): string {
  if (item.kind === 'picture') {
    const clip = item.clip ? `${pathOf(item.clip)}\nW n\n` : '';
    // the ink everywhere under a mask, over what is there: the form that leaves the other plates as they are
    if (item.ink?.spot !== undefined)
      return `q\n${clip}${numbers(item.matrix)} cm /Over gs ${resources.setting(item.ink, false)} /M${pictureKey(item)} gs\n0 0 1 1 re\nf\nQ`;
    return `q\n${clip}${numbers(item.matrix)} cm /P${pictureKey(item)} Do\nQ`;
  }
  const path = pathOf(item.outline);
  if (path === '') return '';
  const box = bounds(item.outline);
  const parts: string[] = [];
  if (item.gradient && !isEmptyBox(box)) {
    const course = unrolled(item.gradient, box);
    parts.push(`q\n${path}\nW n ${course.matrix.map((n) => n.toFixed(8)).join(' ')} cm ${resources.course(course)} sh\nQ`);
  } else if (item.fill) parts.push(`${resources.setting(item.fill, false)}\n${path}\nf`);
  if (item.stroke) parts.push(`${resources.setting(item.stroke, true)} ${number(item.stroke.widthMm)} w 0 J 0 j 10 M\n${path}\nS`);
  return parts.join('\n');
}

/** Paints over what is there without taking its inks away. */
export const OVER = '/Over << /OP true /op true /OPM 1 >>';

/** The colour space of an ink of its own, and what it looks like in the given one (8.6.6.4). */
export const separation = (name: string, look: readonly number[], space: string): string =>
  `[/Separation ${nameOf(name)} ${space} << /FunctionType 2 /Domain [0 1] /C0 [${look.map((_, i) => (space === '/DeviceRGB' ? 1 : 0) * Number(i >= 0)).join(' ')}] /C1 [${numbers(look)}] /N 1 >>]`;
