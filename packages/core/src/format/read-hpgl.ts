/**
 * Plotter files to outlines (Hewlett-Packard, HP-GL/2 and HP RTL Reference Guide, 1997): moves absolute, relative and
 * packed, arcs, circles, boxes, wedges, Béziers, scaling by IP and SC, turning by RO. One item a stroke of the pen,
 * closed where it comes back to its start; the pens are layers. 1 unit is 0.025 mm. Text, patterns and fills are left
 * out with a remark. Limits: 200 MB, two million points, coordinates within the language's own range.
 */
import type { Contour, Control, Matrix, Point, Span } from '../types/index.ts';
import { CancelledError, InputError, LimitError } from '../errors/index.ts';
import { compose, IDENTITY, mapOutline, mapPoint, rotation, scaling, translation } from '../geometry/transform.ts';
import { bounds, EMPTY_BOX, isEmptyBox, joinBoxes } from '../geometry/outline.ts';
import { at } from '../geometry/span.ts';
import { Remarks, type ArtworkItem, type ImportedArtwork, type ReadOptions } from './artwork.ts';
import { arcSpans } from './dxf/curves.ts';

const MM_PER_UNIT = 0.025;
const MOST_BYTES = 200 * 1024 * 1024;
const MOST_POINTS = 2_000_000;
const FARTHEST = 8_388_608;
/** Ends nearer than this are the same place: two units. */
const SAME_MM = 0.051;
const RADIAN = Math.PI / 180;

/** Colours that pens are shown in, by number. */
const PEN_COLOURS = ['#000000', '#000000', '#c4281f', '#1f7a3a', '#1f4fa0', '#a06a1f', '#6a1fa0', '#1f8f8f', '#5a5a5a'];

/** Commands that draw nothing: setting up, asking, pen and page matters. */
const SILENT = new Set(
  'VS FS VN AS AP PT PW LT UL WU AC RP PS PG PC NP CR CO IW IR NR QL LA MC TR SV CT SM SI SR SD SS SA AD CS CA DI DR DV ES LO DT TD TL TP CF RF FT FR BP EC OS OW OH OI OA OC OP OD OE OF OG OL OO ZO FZ'.split(
    ' ',
  ),
);

const FILLS = new Set(['PM', 'EP', 'FP']);

class Plotter {
  readonly remarks = new Remarks();
  readonly strokes: { pen: number; spans: Span[] }[] = [];
  known = 0;
  private pen = 1;
  private down = false;
  private absolute = true;
  private x = 0;
  private y = 0;
  private corners: readonly number[] = [];
  private scale: readonly number[] = [];
  private turn = 0;
  private current: Span[] | undefined;
  private points = 0;

  /** From the coordinates of the file to mm. */
  private get toMm(): Matrix {
    const [x0, x1, y0, y1] = this.scale;
    const [a, b, c, d] = this.corners;
    let map = IDENTITY;
    if (x0 !== undefined && x1 !== undefined && y0 !== undefined && y1 !== undefined && x0 !== x1 && y0 !== y1) {
      if (a === undefined || b === undefined || c === undefined || d === undefined)
        this.remarks.add('scaling', 'The file is scaled to a machine that is not named; check the size.');
      else map = compose(translation(a, b), compose(scaling((c - a) / (x1 - x0), (d - b) / (y1 - y0)), translation(-x0, -y0)));
    }
    return compose(rotation(this.turn), compose(scaling(MM_PER_UNIT, MM_PER_UNIT), map));
  }

  private lift(): void {
    if (this.current && this.current.length > 0) this.strokes.push({ pen: this.pen, spans: this.current });
    this.current = undefined;
  }

  finish(): void {
    this.lift();
  }

  private add(spans: readonly Span[]): void {
    this.points += spans.length;
    if (this.points > MOST_POINTS) throw new LimitError('hpgl', `The file has more than ${MOST_POINTS} points.`);
    const [mapped] = mapOutline(this.toMm, { contours: [{ closed: false, spans }] }).contours;
    for (const span of mapped?.spans ?? []) (this.current ??= []).push(span);
  }

  private go(x: number, y: number): void {
    if (Math.abs(x) > FARTHEST * 40 || Math.abs(y) > FARTHEST * 40) {
      this.remarks.add('numbers', 'Moves beyond the range of the language were left out.');
      return;
    }
    if (this.down && (x !== this.x || y !== this.y)) this.add([[this.x, this.y, x, y]]);
    this.x = x;
    this.y = y;
  }

  private moves(n: readonly number[], absolute: boolean): void {
    if (n.length % 2 === 1) this.remarks.add('odd', 'A move with an odd number of coordinates was read without its last.');
    for (let i = 0; i + 1 < n.length; i += 2)
      if (absolute) this.go(at(n, i), at(n, i + 1));
      else this.go(this.x + at(n, i), this.y + at(n, i + 1));
  }

  private arc(cx: number, cy: number, sweep: number): void {
    const r = Math.hypot(this.x - cx, this.y - cy);
    const from = Math.atan2(this.y - cy, this.x - cx);
    const to = from + sweep * RADIAN;
    if (this.down && r > 0 && sweep !== 0) this.add(arcSpans(cx, cy, r, from, to));
    this.x = cx + r * Math.cos(to);
    this.y = cy + r * Math.sin(to);
  }

  /** Shapes that are drawn whatever the pen does, and leave it where it was. */
  private apart(spans: readonly Span[]): void {
    const running = this.current;
    this.current = undefined;
    this.add(spans);
    this.lift();
    this.current = running;
  }

  private box(x: number, y: number): void {
    const [x0, y0] = [this.x, this.y];
    if (x === x0 || y === y0) return;
    this.apart([
      [x0, y0, x, y0],
      [x, y0, x, y],
      [x, y, x0, y],
      [x0, y, x0, y0],
    ]);
  }

  private wedge(radius: number, start: number, sweep: number): void {
    const [a, b] = [start * RADIAN, (start + sweep) * RADIAN];
    const p = (t: number): Point => ({ x: this.x + radius * Math.cos(t), y: this.y + radius * Math.sin(t) });
    const [first, last] = [p(a), p(b)];
    if (radius !== 0 && sweep !== 0)
      this.apart([[this.x, this.y, first.x, first.y], ...arcSpans(this.x, this.y, radius, a, b), [last.x, last.y, this.x, this.y]]);
  }

  private arcThrough(mx: number, my: number, ex: number, ey: number): void {
    const [ax, ay, bx, by] = [mx - this.x, my - this.y, ex - this.x, ey - this.y];
    const cross = 2 * (ax * by - ay * bx);
    if (Math.abs(cross) < 1e-9) return this.go(ex, ey);
    const [a2, b2] = [ax * ax + ay * ay, bx * bx + by * by];
    const [cx, cy] = [this.x + (by * a2 - ay * b2) / cross, this.y + (ax * b2 - bx * a2) / cross];
    const angle = (px: number, py: number): number => Math.atan2(py - cy, px - cx);
    const turn = (from: number, to: number): number => (((to - from) % (2 * Math.PI)) + 2 * Math.PI) % (2 * Math.PI);
    const from = angle(this.x, this.y);
    const whole = turn(from, angle(ex, ey));
    const sweep = turn(from, angle(mx, my)) < whole ? whole : whole - 2 * Math.PI;
    this.arc(cx, cy, sweep / RADIAN);
    this.x = ex;
    this.y = ey;
  }

  private beziers(n: readonly number[], absolute: boolean): void {
    for (let i = 0; i + 5 < n.length; i += 6) {
      const [ox, oy] = absolute ? [0, 0] : [this.x, this.y];
      const p = [0, 1, 2, 3, 4, 5].map((k) => at(n, i + k) + (k % 2 === 0 ? ox : oy)) as [number, number, number, number, number, number];
      if (this.down) this.add([[this.x, this.y, ...p]]);
      [this.x, this.y] = [p[4], p[5]];
    }
  }

  /** What each command does with its numbers. */
  private readonly commands: Readonly<Record<string, (n: readonly number[]) => void>> = {
    PU: (n) => {
      this.lift();
      this.down = false;
      this.moves(n, this.absolute);
    },
    PD: (n) => {
      this.down = true;
      this.moves(n, this.absolute);
    },
    PA: (n) => {
      this.absolute = true;
      this.moves(n, true);
    },
    PR: (n) => {
      this.absolute = false;
      this.moves(n, false);
    },
    SP: ([pen = 0]) => {
      this.lift();
      this.pen = pen;
      this.down = false;
    },
    IN: () => {
      this.lift();
      Object.assign(this, { absolute: true, corners: [], scale: [], turn: 0, down: false, x: 0, y: 0 });
    },
    DF: () => {
      this.lift();
      Object.assign(this, { absolute: true, scale: [], turn: 0 });
    },
    IP: (n) => {
      this.corners = n;
    },
    SC: (n) => this.rescale(n),
    RO: ([turn = 0]) => {
      this.turn = turn;
    },
    AA: ([x = 0, y = 0, sweep = 0]) => this.arc(x, y, sweep),
    AR: ([x = 0, y = 0, sweep = 0]) => this.arc(this.x + x, this.y + y, sweep),
    AT: ([a = 0, b = 0, c = 0, d = 0]) => this.arcThrough(a, b, c, d),
    RT: ([a = 0, b = 0, c = 0, d = 0]) => this.arcThrough(this.x + a, this.y + b, this.x + c, this.y + d),
    CI: ([radius = 0]) => {
      if (radius !== 0) this.apart(arcSpans(this.x, this.y, Math.abs(radius), 0, 2 * Math.PI));
    },
    EA: ([x = 0, y = 0]) => this.box(x, y),
    RA: ([x = 0, y = 0]) => this.box(x, y),
    ER: ([x = 0, y = 0]) => this.box(this.x + x, this.y + y),
    RR: ([x = 0, y = 0]) => this.box(this.x + x, this.y + y),
    EW: ([radius = 0, start = 0, sweep = 0]) => this.wedge(radius, start, sweep),
    WG: ([radius = 0, start = 0, sweep = 0]) => this.wedge(radius, start, sweep),
    BZ: (n) => this.beziers(n, true),
    BR: (n) => this.beziers(n, false),
  };

  command(name: string, n: readonly number[]): void {
    const act = this.commands[name];
    if (act) act(n);
    else if (FILLS.has(name)) this.remarks.add('polygon', 'Filled areas came in by their outlines only.');
    else if (!SILENT.has(name)) return this.remarks.add('unknown', 'Commands that are not known were passed over.');
    this.known++;
  }

  /** The pen stays where it is on the material when the coordinates change. */
  private rescale(n: readonly number[]): void {
    const before = mapPoint(this.toMm, { x: this.x, y: this.y });
    this.scale = n;
    const [a, b, c, d, e, f] = this.toMm;
    const det = a * d - b * c;
    this.x = (d * (before.x - e) - c * (before.y - f)) / det;
    this.y = (a * (before.y - f) - b * (before.x - e)) / det;
  }

  /** Packed moves (PE): base 64 or 32 digits, flags for pen up, absolute, pen number, fraction bits. */
  packed(codes: Uint8Array): void {
    this.known++;
    let [base, fraction, up, absolute] = [64, 1, false, false];
    const wasAbsolute = this.absolute;
    let pending: number | undefined;
    for (let i = 0; i < codes.length; i++) {
      const flag = (codes[i] as number) & 127;
      if (flag === 0x37) base = 32;
      else if (flag === 0x3c) up = true;
      else if (flag === 0x3d) absolute = true;
      else if (flag === 0x3a || flag === 0x3e) {
        const [value, next] = packedNumber(codes, i + 1, base);
        i = next;
        if (flag === 0x3a) {
          this.lift();
          this.pen = value;
        } else fraction = 2 ** value;
      } else if (isDigit(codes[i] as number, base)) {
        const [value, next] = packedNumber(codes, i, base);
        i = next;
        if (pending === undefined) pending = value / fraction;
        else {
          if (up) this.lift();
          this.down = !up;
          this.moves([pending, value / fraction], absolute);
          [pending, up, absolute] = [undefined, false, false];
        }
      }
    }
    this.absolute = wasAbsolute;
  }
}

const isDigit = (byte: number, base: number): boolean => {
  if (base === 64) return (byte >= 63 && byte <= 126) || byte >= 191;
  return (byte & 127) >= 63 && (byte & 127) <= 126;
};

/** A number, least digit first, its sign in the lowest bit; the last digit is marked. @returns value, index of its end */
function packedNumber(codes: Uint8Array, from: number, base: number): [number, number] {
  let [value, place, i] = [0, 1, from];
  for (; i < codes.length; i++) {
    const byte = codes[i] as number;
    if (!isDigit(byte, base)) continue;
    const last = base === 64 ? byte >= 191 : (byte & 127) >= 95;
    value += (base === 64 ? byte - (last ? 191 : 63) : (byte & 127) - (last ? 95 : 63)) * place;
    place *= base;
    if (last || place > 2 ** 50) break;
  }
  return [value % 2 === 1 ? -(value - 1) / 2 : value / 2, i];
}

/** Numbers are looked for in so many bytes at a time. */
const WINDOW = 32_768;
const NUMBER = /[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?/g;

const isLetter = (byte = 0): boolean => (byte & 0xdf) >= 65 && (byte & 0xdf) <= 90;

/** Index of the next letter, semicolon or escape. */
function endOfNumbers(bytes: Uint8Array, from: number): number {
  let i = from;
  while (i < bytes.length && bytes[i] !== 59 && bytes[i] !== 27 && !isLetter(bytes[i])) i++;
  return i;
}

/** Reads the command of two letters at `i`. @returns index behind it */
function command(bytes: Uint8Array, i: number, plotter: Plotter): number {
  const name = String.fromCharCode((bytes[i] as number) & 0xdf, (bytes[i + 1] as number) & 0xdf);
  if (name === 'PE') {
    const stop = bytes.indexOf(59, i);
    plotter.packed(bytes.subarray(i + 2, stop < 0 ? bytes.length : stop));
    return stop < 0 ? bytes.length : stop + 1;
  }
  if (name === 'LB') {
    const stop = bytes.indexOf(3, i);
    plotter.remarks.add('text', 'Text of the machine’s own letters was left out.');
    return stop < 0 ? endOfNumbers(bytes, i + 2) : stop + 1;
  }
  const stop = endOfNumbers(bytes, i + 2);
  const numbers: number[] = [];
  for (let from = i + 2; from < stop; from += WINDOW) numbers.push(...numbersIn(bytes, from, Math.min(stop, from + WINDOW), stop));
  plotter.command(name, numbers);
  return stop;
}

/** Walks through the bytes: device control and text are stepped over, commands are two letters and their numbers. */
function run(bytes: Uint8Array, plotter: Plotter, control: Control | undefined): void {
  let commands = 0;
  for (let i = 0; i < bytes.length;) {
    if (bytes[i] === 27) i = afterEscape(bytes, i);
    else if (isLetter(bytes[i]) && isLetter(bytes[i + 1])) {
      if (++commands % 1024 === 0) {
        if (control?.signal?.aborted) throw new CancelledError();
        control?.onProgress?.(i, bytes.length, 'reading');
      }
      i = command(bytes, i, plotter);
    } else i++;
  }
}

/** Numbers that begin within a window; one that runs over its edge is read whole, one cut at the front is left to the window before. */
function numbersIn(bytes: Uint8Array, from: number, to: number, stop: number): number[] {
  const isPart = (i: number): boolean => '0123456789.+-eE'.includes(String.fromCharCode(bytes[i] ?? 32));
  let [a, b] = [from, to];
  if (isPart(a - 1)) while (a < stop && isPart(a)) a++;
  while (b < stop && isPart(b - 1) && isPart(b)) b++;
  return (String.fromCharCode(...bytes.subarray(a, b)).match(NUMBER) ?? []).map(Number);
}

/** Index after an escape sequence of device control or of the printer language around. */
function afterEscape(bytes: Uint8Array, i: number): number {
  const text = String.fromCharCode(...bytes.subarray(i + 1, i + 200));
  const found = /^(?:\.[()@YZ](?:[^:;]*:)?|\.[A-Z](?:[\d;]*:)?|%-?\d*[ABX](?:@PJL[^\n]*\n)*|E|[&*][^A-Z]*[A-Z])/.exec(text);
  return i + 1 + (found ? found[0].length : 0);
}

function itemOf({ pen, spans }: { pen: number; spans: Span[] }): ArtworkItem {
  const [first, last] = [spans[0] as Span, spans.at(-1) as Span];
  const gap = Math.hypot(at(last, last.length - 2) - at(first, 0), at(last, last.length - 1) - at(first, 1));
  const closed = gap <= SAME_MM && spans.length > (first.length === 8 ? 1 : 2);
  const trimmed: Contour = closed
    ? { closed, spans: [...spans.slice(0, -1), [...last.slice(0, -2), at(first, 0), at(first, 1)]] }
    : { closed, spans };
  return {
    outline: { contours: [trimmed] },
    closed,
    stroke: { hex: PEN_COLOURS[pen] ?? '#000000', widthMm: 0 },
    layer: `Pen ${pen}`,
  };
}

/**
 * Reads a plotter file.
 * @returns artwork in mm, the file's origin kept; x along the roll as the machine has it
 * @throws InputError `input.hpgl` when no command of the language is in it; LimitError `limit.hpgl`; CancelledError
 */
export function readHpgl(bytes: Uint8Array, options: ReadOptions = {}): Promise<ImportedArtwork> {
  return Promise.resolve().then(() => {
    if (bytes.length > MOST_BYTES) throw new LimitError('hpgl', 'The file is larger than 200 MB.');
    const plotter = new Plotter();
    run(bytes, plotter, options.control);
    plotter.finish();
    const items = plotter.strokes.map(itemOf);
    if (items.length === 0 || plotter.known < 2) throw new InputError('hpgl', 'This is not a plotter file: nothing in it draws.');
    const box = items.reduce((sum, item) => joinBoxes(sum, bounds(item.outline)), EMPTY_BOX);
    return {
      widthMm: isEmptyBox(box) ? 0 : box.maxX - box.minX,
      heightMm: isEmptyBox(box) ? 0 : box.maxY - box.minY,
      items,
      pictures: [],
      report: plotter.remarks.list,
      hasSize: true,
    };
  });
}
