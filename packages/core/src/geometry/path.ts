/**
 * Path strings: SVG path syntax (W3C SVG 2, chapter 9) restricted to absolute `M L C Z`, mm, y up.
 * Closing adds a straight span back to the start when there is a way to go; writing leaves it out again.
 * Law: parsePath(formatPath(o)) equals o, bit for bit, when no decimals are asked for.
 */
import type { Contour, Outline, Span } from '../types/index.ts';
import { InputError, LimitError } from '../errors/index.ts';
import { at, endX, endY, isLine, startX, startY } from './span.ts';

const TOKEN = /[MLCZ]|[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?/g;
const BETWEEN = /^[\s,]*$/;
/** Coordinates beyond this (mm) are taken as damage: 100 km of sign. */
const FARTHEST = 1e8;
const LONGEST = 64 * 1024 * 1024;

const POINTS: Record<string, number> = { M: 1, L: 1, C: 3, Z: 0 };

function tokens(path: string): string[] {
  if (path.length > LONGEST) throw new LimitError('path', `The path has ${path.length} characters; the most is ${LONGEST}.`);
  const out: string[] = [];
  let last = 0;
  for (const match of path.matchAll(TOKEN)) {
    if (!BETWEEN.test(path.slice(last, match.index))) break;
    out.push(match[0]);
    last = match.index + match[0].length;
  }
  if (!BETWEEN.test(path.slice(last))) {
    throw new InputError('path', `The path is not understood at character ${last}: only absolute M, L, C and Z are read.`, { at: last });
  }
  return out;
}

class PathReader {
  private readonly contours: Contour[] = [];
  private spans: Span[] | undefined;
  private x = 0;
  private y = 0;
  private fromX = 0;
  private fromY = 0;

  move(x: number, y: number): void {
    this.finish(false);
    this.x = this.fromX = x;
    this.y = this.fromY = y;
    this.spans = [];
  }

  draw(controls: readonly number[]): void {
    if (!this.spans) this.move(this.x, this.y);
    this.spans?.push([this.x, this.y, ...controls]);
    this.x = at(controls, controls.length - 2);
    this.y = at(controls, controls.length - 1);
  }

  close(): void {
    if (!this.spans) return;
    if (this.spans.length > 0 && (this.x !== this.fromX || this.y !== this.fromY)) this.draw([this.fromX, this.fromY]);
    this.finish(true);
    this.x = this.fromX;
    this.y = this.fromY;
  }

  finish(closed: boolean): Contour[] {
    if (this.spans && this.spans.length > 0) this.contours.push({ closed, spans: this.spans });
    this.spans = undefined;
    return this.contours;
  }
}

/**
 * Reads a path string.
 * @throws InputError `input.path` for anything but finite absolute M, L, C, Z.
 * @param path commands and numbers with blanks or commas, mm; a command may be followed by several sets of numbers
 * @returns an empty outline for an empty string
 */
export function parsePath(path: string): Outline {
  const parts = tokens(path);
  const reader = new PathReader();
  let command = '';
  for (let i = 0; i < parts.length;) {
    const part = parts[i] as string;
    if (part in POINTS) {
      command = part;
      i++;
      if (command === 'Z') {
        reader.close();
        continue;
      }
    }
    const want = 2 * (POINTS[command] ?? 0);
    const numbers = parts.slice(i, i + want).map(Number);
    if (want === 0 || numbers.length < want || numbers.some((n) => !Number.isFinite(n) || Math.abs(n) > FARTHEST)) {
      throw new InputError('path', `The path breaks off or holds an impossible number after "${command || part}".`, { token: i });
    }
    i += want;
    if (command === 'M') {
      reader.move(at(numbers, 0), at(numbers, 1));
      command = 'L';
    } else reader.draw(numbers);
  }
  return { contours: reader.finish(false) };
}

/**
 * Writes an outline; `decimals` limits the digits (4 keeps 0.1 µm), none keeps every bit.
 * @returns a string that `parsePath` reads back, to the digits that were asked for
 */
export function formatPath(outline: Outline, decimals?: number): string {
  const scale = decimals === undefined ? 0 : 10 ** decimals;
  const text = (n: number): string => String(scale ? Math.round(n * scale) / scale + 0 : n + 0);
  let out = '';
  for (const contour of outline.contours) {
    const first = contour.spans[0];
    if (!first) continue;
    out += `M${text(startX(first))} ${text(startY(first))}`;
    contour.spans.forEach((span, index) => {
      const closing = contour.closed && index === contour.spans.length - 1 && index > 0;
      if (closing && isLine(span) && endX(span) === startX(first) && endY(span) === startY(first)) return;
      out += isLine(span) ? 'L' : 'C';
      out += Array.from(span.slice(2), text).join(' ');
    });
    if (contour.closed) out += 'Z';
  }
  return out;
}
