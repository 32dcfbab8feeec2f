/**
 * DXF to artwork at true size (Autodesk, DXF Reference): lines, polylines with bulges, arcs, circles, ellipses,
 * splines, solids, hatches, blocks in blocks, text; layers and colours; units by $INSUNITS. Model space only.
 *
 * Method: entities become contours in the units of their block, mapped to the page in double precision; lines whose
 * ends lie within a tolerance are joined, layer by layer and colour by colour. Lines have no width: `widthMm` is 0.
 * Limits: 200 MB, blocks 32 deep, 500 000 entities after all insertions. Solids of three dimensions, endless lines,
 * pictures and dimensions are left out with a remark.
 */
import type { Contour, Matrix, Outline } from '../../types/index.ts';
import { CancelledError, LimitError } from '../../errors/index.ts';
import { compose, determinant, IDENTITY, mapOutline, rotation, scaling, translation } from '../../geometry/transform.ts';
import { bounds, EMPTY_BOX, isEmptyBox, joinBoxes } from '../../geometry/outline.ts';
import { joinLooseEnds } from '../../geometry/edit/join-loose.ts';
import { evenOdd } from '../../geometry/weld/weld.ts';
import { Remarks, replacedText, type ArtworkItem, type ImportedArtwork, type ReadOptions } from '../artwork.ts';
import { indexedColour, trueColour } from './colours.ts';
import { contoursOf, hatchContours, planeOf } from './entities.ts';
import { lineOf, paragraphOf } from './place-text.ts';
import { parseDxf, plainText, type DxfFile, type DxfRecord } from './pairs.ts';

/** What a DXF file is read with. */
export interface ReadDxfOptions extends ReadOptions {
  /** Ends nearer than this are joined, mm. */
  readonly joinWithinMm?: number;
}

/** mm in a drawing unit, by $INSUNITS. */
const UNIT_MM: Record<number, number> = {
  1: 25.4,
  2: 304.8,
  3: 1_609_344,
  4: 1,
  5: 10,
  6: 1000,
  7: 1e6,
  8: 25.4e-6,
  9: 0.0254,
  10: 914.4,
  11: 1e-7,
  12: 1e-6,
  13: 1e-3,
  14: 100,
  15: 1e4,
  16: 1e5,
  21: 1200 / 3.937,
};

const BLACK = '#000000';
const BY_BLOCK = 0;
const BY_LAYER = 256;
/** Stated in the plan itself; all others in a plane of their own. */
const IN_THE_PLAN = new Set(['LINE', 'ELLIPSE', 'SPLINE']);
const TEXTS = new Set(['TEXT', 'MTEXT', 'ATTRIB']);
const DEEPEST = 32;
const MOST_ENTITIES = 500_000;
/** Larger coordinates are damage, not drawing: ten thousand km. */
const FARTHEST_MM = 1e10;

const LEFT_OUT: Record<string, readonly [string, string]> = {
  XLINE: ['endless', 'Endless lines were left out.'],
  RAY: ['endless', 'Endless lines were left out.'],
  POINT: ['points', 'Single points were left out.'],
  DIMENSION: ['dimensions', 'Dimensions of the drawing were left out; they are not to be cut.'],
  LEADER: ['dimensions', 'Dimensions of the drawing were left out; they are not to be cut.'],
  IMAGE: ['picture', 'A picture that does not lie in the file itself was left out; nothing was fetched.'],
  VIEWPORT: ['', ''],
  ATTDEF: ['', ''],
  SEQEND: ['', ''],
};

interface Look {
  readonly layer: string;
  readonly hex: string;
  readonly hidden: boolean;
}

interface Place {
  readonly matrix: Matrix;
  /** Colour and layer of the insertion, for parts that take them over. */
  readonly from: Look | undefined;
  readonly depth: readonly string[];
}

/** The colour of a record that is its own, its layer's, or that of the block it lies in. */
function hexOf(record: DxfRecord, ofLayer: string, ofBlock: string): string {
  if (record.has(420)) return trueColour(record.number(420));
  const index = record.number(62, BY_LAYER);
  if (index === BY_LAYER) return ofLayer;
  return index === BY_BLOCK ? ofBlock : indexedColour(Math.abs(index));
}

class DxfWalker {
  readonly remarks = new Remarks();
  readonly items: ArtworkItem[] = [];
  private readonly file: DxfFile;
  private readonly options: ReadDxfOptions;
  private readonly layers = new Map<string, { hex: string; hidden: boolean }>();
  /** Open lines by layer and colour, to be joined. */
  private readonly open = new Map<string, { look: Look; contours: Contour[] }>();
  private readonly toMm: number;
  private entities = 0;

  constructor(file: DxfFile, toMm: number, options: ReadDxfOptions) {
    this.file = file;
    this.toMm = toMm;
    this.options = options;
    for (const layer of file.layers) {
      const index = layer.number(62, 7);
      const hex = layer.has(420) ? trueColour(layer.number(420)) : indexedColour(Math.abs(index));
      this.layers.set(plainText(layer.text(2)).toLowerCase(), { hex, hidden: index < 0 || (layer.number(70) & 1) === 1 });
    }
  }

  private look(record: DxfRecord, from: Look | undefined): Look {
    const own = plainText(record.text(8, '0'));
    const layer = own === '0' && from ? from.layer : own;
    const known = this.layers.get(layer.toLowerCase());
    const ofLayer = own === '0' && from ? from.hex : (known?.hex ?? BLACK);
    const isHidden = known?.hidden === true || from?.hidden === true || record.number(60) === 1;
    return { layer, hex: hexOf(record, ofLayer, from?.hex ?? BLACK), hidden: isHidden };
  }

  walk(records: readonly DxfRecord[], place: Place): void {
    for (let i = 0; i < records.length; i++) {
      const record = records[i] as DxfRecord;
      if (++this.entities > MOST_ENTITIES) throw new LimitError('dxf', `The file has more than ${MOST_ENTITIES} parts.`);
      if (this.entities % 256 === 0) {
        if (this.options.control?.signal?.aborted) throw new CancelledError();
        if (place.depth.length === 0) this.options.control?.onProgress?.(i, records.length, 'reading');
      }
      const vertices: DxfRecord[] = [];
      if (record.type === 'POLYLINE') while (records[i + 1]?.type === 'VERTEX') vertices.push(records[++i] as DxfRecord);
      // paper space is a sheet of views, not the drawing
      if (record.number(67) === 1) continue;
      this.entity(record, vertices, place);
    }
  }

  private entity(record: DxfRecord, vertices: readonly DxfRecord[], place: Place): void {
    const left = LEFT_OUT[record.type];
    if (left) return left[0] === '' ? undefined : this.remarks.add(...left);
    if (record.type === 'INSERT') return this.insert(record, place);
    if (TEXTS.has(record.type)) return this.text(record, place);
    if (record.type === 'POLYLINE' && (record.number(70) & (16 | 64)) !== 0)
      return this.remarks.add('solid', 'Surfaces of three dimensions were left out.');
    const look = this.look(record, place.from);
    const elevation = record.type === 'LWPOLYLINE' ? record.number(38) : record.number(30);
    const matrix = IN_THE_PLAN.has(record.type) ? place.matrix : compose(place.matrix, planeOf(record, elevation));
    const tol = 0.002 / Math.max(1e-12, this.toMm * Math.sqrt(Math.abs(determinant(matrix))));
    if (record.type === 'HATCH') return this.fill(this.toPage(hatchContours(record, tol), matrix), look, true);
    const contours = contoursOf(record, vertices, tol);
    if (!contours) return this.remarks.add(`type-${record.type}`, `Parts of the kind ${record.type.slice(0, 20)} were left out.`);
    const outline = this.toPage(contours, matrix);
    if (record.type === 'SOLID' || record.type === 'TRACE') this.fill(outline, look, false);
    else this.lines(outline, look);
  }

  private toPage(contours: readonly Contour[], matrix: Matrix): Outline {
    const mapped = mapOutline(compose(scaling(this.toMm, this.toMm), matrix), { contours });
    const sound = mapped.contours.filter((c) => c.spans.every((span) => span.every((v) => Math.abs(v) < FARTHEST_MM)));
    if (sound.length < mapped.contours.length) this.remarks.add('numbers', 'Parts with impossible coordinates were left out.');
    return { contours: sound };
  }

  private common({ layer, hidden }: Look): Pick<ArtworkItem, 'layer' | 'hidden'> {
    return { layer, ...(hidden ? { hidden } : {}) };
  }

  private fill(outline: Outline, look: Look, isHatch: boolean): void {
    if (outline.contours.length === 0) return;
    if (isHatch) this.remarks.add('hatch', 'Hatched areas came in as filled shapes.');
    this.items.push({ outline: evenOdd(outline), closed: true, fill: look.hex, ...this.common(look) });
  }

  private lines(outline: Outline, look: Look): void {
    for (const contour of outline.contours) {
      if (contour.closed)
        this.items.push({
          outline: { contours: [contour] },
          closed: true,
          stroke: { hex: look.hex, widthMm: 0 },
          ...this.common(look),
        });
      else {
        const key = `${look.layer} ${look.hex} ${look.hidden}`;
        const group = this.open.get(key) ?? { look, contours: [] };
        group.contours.push(contour);
        this.open.set(key, group);
      }
    }
  }

  private insert(record: DxfRecord, place: Place): void {
    const name = record.text(2).toLowerCase();
    const block = this.file.blocks.get(name);
    if (!block) return this.remarks.add('block', 'A block that is not in the file was left out.');
    if (place.depth.includes(name) || place.depth.length >= DEEPEST)
      return this.remarks.add('circle', 'A block that holds itself was left out.');
    const [head, ...parts] = block;
    const n = (code: number, otherwise?: number): number => record.number(code, otherwise);
    const base = translation(-(head?.number(10) ?? 0), -(head?.number(20) ?? 0));
    const [columns, rows] = [Math.max(1, n(70, 1)), Math.max(1, n(71, 1))];
    if (columns * rows > 100_000) throw new LimitError('dxf', 'A block is repeated too often.');
    const plane = compose(planeOf(record, n(30)), compose(translation(n(10), n(20)), rotation(n(50))));
    const from = this.look(record, place.from);
    for (let row = 0; row < rows; row++)
      for (let column = 0; column < columns; column++) {
        const step = translation(column * n(44), row * n(45));
        const matrix = compose(place.matrix, compose(plane, compose(step, compose(scaling(n(41, 1), n(42, 1)), base))));
        if (Math.abs(determinant(matrix)) > 0) this.walk(parts, { matrix, from, depth: [...place.depth, name] });
      }
  }

  private text(record: DxfRecord, place: Place): void {
    const height = record.number(40, 1);
    const look = this.look(record, place.from);
    if (!(height > 0)) return;
    const { lines, x, y, turn, share, lift, pitch, wide } = record.type === 'MTEXT' ? paragraphOf(record, height) : lineOf(record, height);
    lines.forEach((line, i) => {
      const found = this.options.textOutline?.({
        text: line,
        family: '',
        weight: 'normal',
        italic: false,
        sizePx: height,
        capHeight: height,
      });
      if (!found) return this.remarks.add('text', `The text “${line.trim().slice(0, 40)}” was left out: its font is not in the file.`);
      const stand = compose(
        translation(x, y),
        compose(rotation(turn), compose(scaling(wide, 1), translation(-share * found.advancePx, lift - i * pitch))),
      );
      const onPage = compose(compose(place.matrix, planeOf(record, 0)), stand);
      const outline = this.toPage(found.outline.contours, onPage);
      const { instead } = found;
      const matrix = compose(scaling(this.toMm, this.toMm), onPage);
      const words = instead ? { text: { text: line, wanted: '', set: instead, matrix } } : {};
      this.items.push({ outline, closed: true, fill: look.hex, name: line.trim().slice(0, 80), ...words, ...this.common(look) });
      if (instead) this.remarks.add('font-replaced ', replacedText('', instead));
      else this.remarks.add('text-outlines', 'Text was turned into outlines.');
    });
  }

  /** Joins what is open, group by group. */
  finish(): void {
    let joints = 0;
    for (const { look, contours } of this.open.values()) {
      const joined = joinLooseEnds({ contours }, this.options.joinWithinMm ?? 0.05);
      joints += joined.joints;
      for (const contour of joined.outline.contours)
        this.items.push({
          outline: { contours: [contour] },
          closed: contour.closed,
          stroke: { hex: look.hex, widthMm: 0 },
          ...this.common(look),
        });
    }
    if (joints > 0) this.remarks.add('joined', 'Lines whose ends meet were joined.', joints);
    const hidden = this.items.filter((item) => item.hidden).length;
    if (hidden > 0) this.remarks.add('hidden', 'Parts lie on layers that are switched off.', hidden);
  }
}

/**
 * Reads a DXF.
 * @returns artwork in mm; its page is the drawing's own box, the drawing's origin kept
 * @throws InputError `input.dxf` when it is none; LimitError `limit.dxf`; CancelledError
 */
export function readDxf(bytes: Uint8Array, options: ReadDxfOptions = {}): Promise<ImportedArtwork> {
  return Promise.resolve().then(() => {
    const file = parseDxf(bytes);
    const unit = Number(file.header.get('$INSUNITS') ?? 0);
    const known = UNIT_MM[unit];
    const walker = new DxfWalker(file, known ?? 1, options);
    if (file.isTorn) walker.remarks.add('broken', 'The file breaks off; it was read up to there.');
    if (known === undefined) walker.remarks.add('size', 'The file does not say what its unit is; mm were taken.');
    walker.walk(file.entities, { matrix: IDENTITY, from: undefined, depth: [] });
    walker.finish();
    const box = walker.items.reduce((sum, item) => joinBoxes(sum, bounds(item.outline)), EMPTY_BOX);
    return {
      widthMm: isEmptyBox(box) ? 0 : box.maxX - box.minX,
      heightMm: isEmptyBox(box) ? 0 : box.maxY - box.minY,
      items: walker.items,
      pictures: [],
      report: walker.remarks.list,
      hasSize: known !== undefined,
    };
  });
}
