/**
 * DXF R2000 (AC1015; Autodesk, DXF Reference) in mm: straight contours as light polylines, curved ones as cubic
 * B-splines whose inner knots are triple, so that every Bézier is exact. A layer for each layer of the artwork with
 * its colour. Letters beyond ASCII are written as \U+XXXX.
 */
import { strToU8 } from 'fflate';
import type { Contour, Span } from '../types/index.ts';
import { at } from '../geometry/span.ts';
import type { Artwork, ArtworkItem } from './artwork.ts';
import { indexedColour } from './dxf/colours.ts';

type Value = string | number;

const number = (n: number): string => {
  const text = (Math.round(n * 1e8) / 1e8).toString();
  return text.includes('.') || text.includes('e') ? Number(text).toFixed(8).replace(/0+$/, '0') : `${text}.0`;
};

const escape = (text: string): string =>
  Array.from(text, (c) => {
    if (c < ' ') return ' ';
    return c > '~' ? `\\U+${(c.codePointAt(0) ?? 63).toString(16).toUpperCase().padStart(4, '0')}` : c;
  }).join('');

/** Characters that a layer's name must not have. */
const layerName = (name: string): string => escape(name.replace(/[<>/\\":;?*|=`,]/g, '-').slice(0, 200)) || '0';

function nearestIndex(hex: string): number {
  const channels = (text: string): number[] => [1, 3, 5].map((i) => Number.parseInt(text.slice(i, i + 2), 16));
  const wanted = channels(hex);
  let [best, least] = [7, Infinity];
  for (let i = 1; i < 256; i++) {
    const distance = channels(indexedColour(i)).reduce((sum, v, k) => sum + (v - at(wanted, k)) ** 2, 0);
    if (distance < least) [best, least] = [i, distance];
  }
  return best;
}

const rgb = (hex: string): number => Number.parseInt(hex.slice(1), 16) || 0;
const colourOf = (item: ArtworkItem): string => item.fill ?? item.stroke?.hex ?? '#000000';

class Writer {
  private readonly lines: string[] = [];
  private handles = 0x30;

  pair(code: number, value: Value): void {
    this.lines.push(String(code), typeof value === 'number' ? number(value) : value);
  }

  whole(code: number, value: number): void {
    this.lines.push(String(code), String(Math.round(value)));
  }

  /** Pairs of codes and values: whole numbers and texts. */
  say(...pairs: readonly (readonly [number, string | number])[]): void {
    for (const [code, value] of pairs) this.lines.push(String(code), String(value));
  }

  handle(): string {
    return (this.handles++).toString(16).toUpperCase();
  }

  get text(): string {
    return `${this.lines.join('\r\n')}\r\n`;
  }
}

const MODEL = '1F';
const PAPER = '1B';

function table(w: Writer, name: string, handle: string, rows: readonly (() => void)[]): void {
  w.say([0, 'TABLE'], [2, name], [5, handle], [330, '0'], [100, 'AcDbSymbolTable'], [70, rows.length]);
  if (name === 'DIMSTYLE') w.say([100, 'AcDbDimStyleTable']);
  for (const row of rows) row();
  w.say([0, 'ENDTAB']);
}

function blockRecords(w: Writer): void {
  table(w, 'BLOCK_RECORD', '1', [
    ...[
      ['*Model_Space', MODEL],
      ['*Paper_Space', PAPER],
    ].map(([name, handle]) => () => {
      w.say(
        [0, 'BLOCK_RECORD'],
        [5, handle as string],
        [330, '1'],
        [100, 'AcDbSymbolTableRecord'],
        [100, 'AcDbBlockTableRecord'],
        [2, name as string],
        [340, '0'],
      );
    }),
  ]);
}

/** The tables that a reader expects, most of them with a single row or none. */
function tables(w: Writer, layers: ReadonlyMap<string, string>): void {
  const row = (type: string, owner: string, kind: string, name: string, handle = w.handle()): void =>
    w.say(
      [0, type],
      [type === 'DIMSTYLE' ? 105 : 5, handle],
      [330, owner],
      [100, 'AcDbSymbolTableRecord'],
      [100, kind],
      [2, name],
      [70, 0],
    );
  w.say([0, 'SECTION'], [2, 'TABLES']);
  table(w, 'VPORT', '8', []);
  table(
    w,
    'LTYPE',
    '5',
    ['ByBlock', 'ByLayer', 'Continuous'].map((name) => () => {
      row('LTYPE', '5', 'AcDbLinetypeTableRecord', name);
      w.say([3, ''], [72, 65], [73, 0]);
      w.pair(40, 0);
    }),
  );
  table(w, 'LAYER', '2', [
    ...[...new Map([['0', '#000000'], ...layers])].map(([name, hex]) => () => {
      row('LAYER', '2', 'AcDbLayerTableRecord', name);
      w.say([62, nearestIndex(hex)], [420, rgb(hex)], [6, 'Continuous'], [370, -3], [390, 'F']);
    }),
  ]);
  table(w, 'STYLE', '3', [
    () => {
      row('STYLE', '3', 'AcDbTextStyleTableRecord', 'Standard');
      w.pair(40, 0);
      w.pair(41, 1);
      w.pair(50, 0);
      w.say([71, 0]);
      w.pair(42, 2.5);
      w.say([3, 'txt'], [4, '']);
    },
  ]);
  table(w, 'VIEW', '6', []);
  table(w, 'UCS', '7', []);
  table(w, 'APPID', '9', [() => row('APPID', '9', 'AcDbRegAppTableRecord', 'ACAD')]);
  table(w, 'DIMSTYLE', 'A', [() => row('DIMSTYLE', 'A', 'AcDbDimStyleTableRecord', 'Standard')]);
  blockRecords(w);
  w.say([0, 'ENDSEC']);
}

function blocks(w: Writer): void {
  w.say([0, 'SECTION'], [2, 'BLOCKS']);
  for (const [name, owner] of [
    ['*Model_Space', MODEL],
    ['*Paper_Space', PAPER],
  ] as const) {
    w.say([0, 'BLOCK'], [5, w.handle()], [330, owner], [100, 'AcDbEntity'], [8, '0'], [100, 'AcDbBlockBegin'], [2, name], [70, 0]);
    for (const code of [10, 20, 30]) w.pair(code, 0);
    w.say([3, name], [1, ''], [0, 'ENDBLK'], [5, w.handle()], [330, owner], [100, 'AcDbEntity'], [8, '0'], [100, 'AcDbBlockEnd']);
  }
  w.say([0, 'ENDSEC']);
}

function entityHead(w: Writer, type: string, layer: string, hex: string, kind: string): void {
  w.say([0, type], [5, w.handle()], [330, MODEL], [100, 'AcDbEntity'], [8, layer], [62, nearestIndex(hex)], [420, rgb(hex)], [100, kind]);
}

function polyline(w: Writer, { closed, spans }: Contour, layer: string, hex: string): void {
  const points = spans.map((span) => [at(span, 0), at(span, 1)] as const);
  const last = spans.at(-1) as Span;
  const all = closed ? points : [...points, [at(last, 2), at(last, 3)] as const];
  entityHead(w, 'LWPOLYLINE', layer, hex, 'AcDbPolyline');
  w.say([90, all.length], [70, closed ? 1 : 0]);
  w.pair(43, 0);
  for (const [x, y] of all) {
    w.pair(10, x);
    w.pair(20, y);
  }
}

/** A line as a cubic with its handles at the thirds. */
function cubic(span: Span): Span {
  if (span.length === 8) return span;
  const [x0, y0, x1, y1] = span as [number, number, number, number];
  return [x0, y0, x0 + (x1 - x0) / 3, y0 + (y1 - y0) / 3, x1 - (x1 - x0) / 3, y1 - (y1 - y0) / 3, x1, y1];
}

function spline(w: Writer, { closed, spans }: Contour, layer: string, hex: string): void {
  const control: (readonly [number, number])[] = [];
  spans.map(cubic).forEach((span, i) => {
    for (let k = i === 0 ? 0 : 2; k < 8; k += 2) control.push([at(span, k), at(span, k + 1)]);
  });
  const n = spans.length;
  const knots = [0, ...Array.from({ length: n + 1 }, (_, i) => [i, i, i]).flat(), n];
  entityHead(w, 'SPLINE', layer, hex, 'AcDbSpline');
  for (const [code, value] of [
    [210, 0],
    [220, 0],
    [230, 1],
  ] as const)
    w.pair(code, value);
  // 8: flat, 1: closed
  w.say([70, 8 + (closed ? 1 : 0)], [71, 3], [72, knots.length], [73, control.length], [74, 0]);
  for (const knot of knots) w.pair(40, knot);
  for (const [x, y] of control) {
    w.pair(10, x);
    w.pair(20, y);
    w.pair(30, 0);
  }
}

/** Writes artwork, each contour as one entity on its item's layer. @returns ASCII bytes */
export function writeDxf(artwork: Artwork): Uint8Array {
  const layers = new Map<string, string>();
  for (const item of artwork.items) {
    const name = layerName(item.layer ?? '0');
    if (name !== '0' && !layers.has(name)) layers.set(name, colourOf(item));
  }
  const w = new Writer();
  w.say([0, 'SECTION'], [2, 'HEADER'], [9, '$ACADVER'], [1, 'AC1015'], [9, '$DWGCODEPAGE'], [3, 'ANSI_1252'], [9, '$INSUNITS'], [70, 4]);
  w.say([9, '$MEASUREMENT'], [70, 1], [9, '$EXTMIN']);
  for (const code of [10, 20, 30]) w.pair(code, 0);
  w.say([9, '$EXTMAX']);
  w.pair(10, artwork.widthMm);
  w.pair(20, artwork.heightMm);
  w.pair(30, 0);
  w.say([9, '$HANDSEED'], [5, 'FFFFFF'], [0, 'ENDSEC'], [0, 'SECTION'], [2, 'CLASSES'], [0, 'ENDSEC']);
  tables(w, layers);
  blocks(w);
  w.say([0, 'SECTION'], [2, 'ENTITIES']);
  for (const item of artwork.items) {
    const layer = layerName(item.layer ?? '0');
    for (const contour of item.outline.contours) {
      if (contour.spans.length === 0) continue;
      const write = contour.spans.every((span) => span.length === 4) ? polyline : spline;
      write(w, contour, layer, colourOf(item));
    }
  }
  w.say([0, 'ENDSEC'], [0, 'SECTION'], [2, 'OBJECTS']);
  w.say(
    [0, 'DICTIONARY'],
    [5, 'C'],
    [330, '0'],
    [100, 'AcDbDictionary'],
    [281, 1],
    [3, 'ACAD_GROUP'],
    [350, 'D'],
    [3, 'ACAD_PLOTSTYLENAME'],
    [350, 'E'],
  );
  w.say([0, 'DICTIONARY'], [5, 'D'], [330, 'C'], [100, 'AcDbDictionary'], [281, 1]);
  w.say(
    [0, 'ACDBDICTIONARYWDFLT'],
    [5, 'E'],
    [330, 'C'],
    [100, 'AcDbDictionary'],
    [281, 1],
    [3, 'Normal'],
    [350, 'F'],
    [100, 'AcDbDictionaryWithDefault'],
    [340, 'F'],
  );
  w.say([0, 'ACDBPLACEHOLDER'], [5, 'F'], [330, 'E'], [0, 'ENDSEC'], [0, 'EOF']);
  return strToU8(w.text);
}
