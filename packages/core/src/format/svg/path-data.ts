/**
 * SVG path data (SVG 2, 9.3) to contours: all commands, packed numbers and flags; drawn up to the first error.
 * Arcs become cubics of at most a quarter turn (SVG 2, appendix B.2). Space of the file, y down.
 */
import type { Contour, Span } from '../../types/index.ts';
import { quadraticSpan } from '../../geometry/span.ts';

const NUMBER = /[\s,]*([+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?)/iy;
const FLAG = /[\s,]*([01])/y;
const COMMAND = /[\s,]*([MLHVCSQTAZ])/iy;

class Reader {
  private at = 0;
  private readonly text: string;

  constructor(text: string) {
    this.text = text;
  }

  private match(pattern: RegExp): string | undefined {
    pattern.lastIndex = this.at;
    const found = pattern.exec(this.text);
    if (!found) return undefined;
    this.at += found[0].length;
    return found[1];
  }

  command(): string | undefined {
    return this.match(COMMAND);
  }

  /** The arguments of one command; undefined when they are not all there. */
  numbers(kinds: string): number[] | undefined {
    const start = this.at;
    const out: number[] = [];
    for (const kind of kinds) {
      const text = this.match(kind === 'f' ? FLAG : NUMBER);
      const value = Number(text);
      if (text === undefined || !Number.isFinite(value)) {
        this.at = start;
        return undefined;
      }
      out.push(value);
    }
    return out;
  }

  get isDone(): boolean {
    return this.text.slice(this.at).trim() === '';
  }
}

/** An elliptical arc between two points, as path data states it. */
export interface EndpointArc {
  readonly rx: number;
  readonly ry: number;
  readonly turnDeg: number;
  readonly large: boolean;
  readonly sweep: boolean;
}

/**
 * Endpoint arc to cubics.
 * @param arc radii too small are made larger until the ends are reached, as the standard says
 * @returns a line where a radius vanishes, nothing where the ends are one
 * @source SVG 2, appendix B.2.4
 */
export function arcSpans([x0, y0]: readonly [number, number], [x, y]: readonly [number, number], arc: EndpointArc): Span[] {
  const { rx: rx0, ry: ry0, turnDeg, large, sweep } = arc;
  let [rx, ry] = [Math.abs(rx0), Math.abs(ry0)];
  if (x0 === x && y0 === y) return [];
  if (rx === 0 || ry === 0) return [[x0, y0, x, y]];
  const phi = (turnDeg * Math.PI) / 180;
  const [cos, sin] = [Math.cos(phi), Math.sin(phi)];
  const [hx, hy] = [(x0 - x) / 2, (y0 - y) / 2];
  const [px, py] = [cos * hx + sin * hy, -sin * hx + cos * hy];
  const scale = (px / rx) ** 2 + (py / ry) ** 2;
  if (scale > 1) [rx, ry] = [rx * Math.sqrt(scale), ry * Math.sqrt(scale)];
  const rest = Math.max(0, (rx * rx * ry * ry - rx * rx * py * py - ry * ry * px * px) / (rx * rx * py * py + ry * ry * px * px));
  const k = Math.sqrt(rest) * (large === sweep ? -1 : 1);
  const [qx, qy] = [(k * rx * py) / ry, (-k * ry * px) / rx];
  const [cx, cy] = [cos * qx - sin * qy + (x0 + x) / 2, sin * qx + cos * qy + (y0 + y) / 2];
  const from = Math.atan2((py - qy) / ry, (px - qx) / rx);
  let turn = Math.atan2((-py - qy) / ry, (-px - qx) / rx) - from;
  if (sweep && turn < 0) turn += 2 * Math.PI;
  if (!sweep && turn > 0) turn -= 2 * Math.PI;
  const pieces = Math.max(1, Math.ceil(Math.abs(turn) / (Math.PI / 2) - 1e-9));
  const step = turn / pieces;
  const h = (4 / 3) * Math.tan(step / 4);
  const place = (u: number, v: number): [number, number] => [cx + cos * rx * u - sin * ry * v, cy + sin * rx * u + cos * ry * v];
  return Array.from({ length: pieces }, (_, i): Span => {
    const [a, b] = [from + i * step, from + (i + 1) * step];
    const [ca, sa, cb, sb] = [Math.cos(a), Math.sin(a), Math.cos(b), Math.sin(b)];
    const start = i === 0 ? [x0, y0] : place(ca, sa);
    const end = i === pieces - 1 ? [x, y] : place(cb, sb);
    return [...start, ...place(ca - h * sa, sa + h * ca), ...place(cb + h * sb, sb - h * cb), ...end];
  });
}

const ARGUMENTS: Record<string, string> = {
  M: 'nn',
  L: 'nn',
  H: 'n',
  V: 'n',
  C: 'nnnnnn',
  S: 'nnnn',
  Q: 'nnnn',
  T: 'nn',
  A: 'nnnffnn',
  Z: '',
};

interface Pen {
  x: number;
  y: number;
  fromX: number;
  fromY: number;
  /** Control point that S or T mirror. */
  cubic: readonly [number, number] | undefined;
  quadratic: readonly [number, number] | undefined;
}

/** Spans of one drawing command, in absolute numbers; moves the pen. */
function draw(letter: string, n: readonly number[], pen: Pen): Span[] {
  const [a = 0, b = 0, c = 0, d = 0, e = 0, f = 0, g = 0] = n;
  const { x, y } = pen;
  const to = (nx: number, ny: number): void => {
    pen.x = nx;
    pen.y = ny;
  };
  const [lastCubic, lastQuadratic] = [pen.cubic, pen.quadratic];
  pen.cubic = pen.quadratic = undefined;
  switch (letter) {
    case 'L':
      to(a, b);
      return [[x, y, a, b]];
    case 'H':
      to(a, y);
      return [[x, y, a, y]];
    case 'V':
      to(x, a);
      return [[x, y, x, a]];
    case 'C':
      to(e, f);
      pen.cubic = [c, d];
      return [[x, y, a, b, c, d, e, f]];
    case 'S': {
      const [px, py] = lastCubic ? [2 * x - lastCubic[0], 2 * y - lastCubic[1]] : [x, y];
      to(c, d);
      pen.cubic = [a, b];
      return [[x, y, px, py, a, b, c, d]];
    }
    case 'Q':
      to(c, d);
      pen.quadratic = [a, b];
      return [quadraticSpan(x, y, a, b, c, d)];
    case 'T': {
      const [qx, qy] = lastQuadratic ? [2 * x - lastQuadratic[0], 2 * y - lastQuadratic[1]] : [x, y];
      to(a, b);
      pen.quadratic = [qx, qy];
      return [quadraticSpan(x, y, qx, qy, a, b)];
    }
    default:
      to(f, g);
      return arcSpans([x, y], [f, g], { rx: a, ry: b, turnDeg: c, large: d === 1, sweep: e === 1 });
  }
}

/** Relative arguments made absolute. */
function absolute(letter: string, n: readonly number[], pen: Pen): number[] {
  if (letter === 'H') return [(n[0] ?? 0) + pen.x];
  if (letter === 'V') return [(n[0] ?? 0) + pen.y];
  if (letter === 'A') return [...n.slice(0, 5), (n[5] ?? 0) + pen.x, (n[6] ?? 0) + pen.y];
  return n.map((value, i) => value + (i % 2 === 0 ? pen.x : pen.y));
}

const isPoint = (span: Span): boolean => span.every((value, i) => value === span[i & 1]);

/** @returns contours, and whether the data breaks off in an error */
export function parsePathData(text: string): { contours: Contour[]; isBroken: boolean } {
  const reader = new Reader(text);
  const contours: Contour[] = [];
  const pen: Pen = { x: 0, y: 0, fromX: 0, fromY: 0, cubic: undefined, quadratic: undefined };
  let spans: Span[] = [];
  const finish = (closed: boolean): void => {
    const kept = spans.filter((span) => !isPoint(span));
    if (kept.length > 0) contours.push({ closed, spans: kept });
    spans = [];
  };
  let isFirst = true;
  for (let command = reader.command(); command !== undefined; command = reader.command()) {
    const letter = command.toUpperCase();
    const relative = command !== letter;
    if (isFirst && letter !== 'M') return { contours: [], isBroken: true };
    isFirst = false;
    if (letter === 'Z') {
      if (pen.x !== pen.fromX || pen.y !== pen.fromY) spans.push([pen.x, pen.y, pen.fromX, pen.fromY]);
      finish(true);
      Object.assign(pen, { x: pen.fromX, y: pen.fromY, cubic: undefined, quadratic: undefined });
      continue;
    }
    let n = reader.numbers(ARGUMENTS[letter] ?? '');
    let as = letter;
    if (!n) {
      finish(false);
      return { contours, isBroken: true };
    }
    for (; n; n = reader.numbers(ARGUMENTS[as] ?? '')) {
      const args = relative ? absolute(as, n, pen) : n;
      if (as === 'M') {
        finish(false);
        [pen.x, pen.y] = [args[0] ?? 0, args[1] ?? 0];
        Object.assign(pen, { fromX: pen.x, fromY: pen.y, cubic: undefined, quadratic: undefined });
        as = 'L';
      } else spans.push(...draw(as, args, pen));
    }
  }
  finish(false);
  return { contours, isBroken: !reader.isDone };
}
