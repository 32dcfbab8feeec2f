/** Bringing in files: by what they are, at true size, onto the drawing as one group, with a report. */
import {
  bounds,
  boxShape,
  compose,
  EMPTY_BOX,
  growBox,
  invert,
  joinBoxes,
  mapOutline,
  parsePath,
  scaling,
  translation,
  type Box,
  type Point,
} from '@lorvek/core/geometry';
import { addItems, itemOf, leavesOf, replaceItems, type Drawing, type GroupItem, type PictureItem, type ShapeItem } from '@lorvek/model';
import { toast } from 'sonner';
import { create } from 'zustand';
import type { PageBoxName } from '@lorvek/core/format';
import { api, sentenceOf } from '../../../api/client.ts';
import { asOne, dispatch, newId, select, useDocument } from '../../../document/store.ts';
import { filmsFor, takeFresh } from '../../../document/films.ts';
import { askAside, stopAside } from '../../../worker/compute.ts';
import type { DrawingFile, Imported } from '../../../worker/import-ops.ts';
import { boxOf } from '../../../drawing/selection.ts';
import { fitBox, toScreen, useView } from '../../../drawing/view.ts';
import { newPicture } from '../new-items.ts';
import { kindOfFile } from './kind-of-file.ts';
import { unpacked } from './unpacked.ts';
import { keepReport, type Report } from './reports.ts';

const MOST_PARTS = 60_000;
const MOST_BYTES = 200 * 1024 * 1024;

/** What has to be asked before a drawing can be placed. */
export interface Question {
  readonly file: string;
  readonly imported: Imported;
  readonly asked: PartAsked;
  answer(given: Answer | undefined): void;
}

/** Which part of a file is brought in. */
export interface PartAsked {
  readonly page: number;
  readonly box: PageBoxName;
  readonly withHidden: boolean;
}

export interface Answer extends PartAsked {
  /** Real width of the whole; undefined: as it is. */
  readonly widthMm: number | undefined;
}

export const useQuestion = create<{ question: Question | undefined }>(() => ({ question: undefined }));

const WHOLE: PartAsked = { page: 1, box: 'shown', withHidden: false };

/** Asks and waits. @returns undefined when the user does not want the file after all */
function askAbout(file: string, imported: Imported, asked: PartAsked): Promise<Answer | undefined> {
  return new Promise((resolve) =>
    useQuestion.setState({
      question: {
        file,
        imported,
        asked,
        answer: (given) => {
          useQuestion.setState({ question: undefined });
          resolve(given);
        },
      },
    }),
  );
}

async function readDrawing(file: File, bytes: Uint8Array, kind: DrawingFile, { page, box, withHidden }: PartAsked): Promise<Imported> {
  const action = { label: 'Stop', onClick: stopAside };
  const waiting = toast.loading(`Reading “${file.name}”…`, { action });
  const onShare = (share: number): void =>
    void toast.loading(`Reading “${file.name}”: ${Math.round(100 * share)} %`, { id: waiting, action });
  try {
    return await askAside('import', { bytes, kind, page, box, withHidden }, onShare);
  } finally {
    toast.dismiss(waiting);
  }
}

async function picturesOf(imported: Imported, file: string): Promise<PictureItem[]> {
  const out: PictureItem[] = [];
  for (const picture of imported.pictures) {
    const bytes = Uint8Array.from(atob(picture.bytesBase64), (c) => c.charCodeAt(0));
    const asset = await api.addPicture(new File([bytes], file, { type: picture.type }));
    const [a, b, c, d, e, f] = picture.matrix;
    const { widthPx, heightPx } = asset;
    const mmPerPx = Math.hypot(a, b) / widthPx;
    const k = 1 / mmPerPx;
    out.push({
      type: 'item',
      kind: 'picture',
      id: newId('item'),
      name: `Picture of ${file}`.slice(0, 120),
      layer: null,
      matrix: [(a * k) / widthPx, (b * k) / widthPx, (c * k) / heightPx, (d * k) / heightPx, e, f],
      asset: asset.asset,
      widthPx,
      heightPx,
      mmPerPx,
      strengthPct: 100,
      locked: false,
    });
  }
  return out.filter((item) => invert(item.matrix) !== undefined);
}

interface Origin {
  readonly id: string;
  readonly stamp: string;
}

const pause = (): Promise<void> => new Promise((resolve) => setTimeout(resolve));

async function place(file: File, imported: Imported, at: Point, scale: number, inbox: Origin | undefined): Promise<void> {
  const group = newId('import');
  const pictures = await picturesOf(imported, file.name);
  // large drawings are placed in steps, between which the page answers
  await pause();
  const films = filmsFor(imported.hexes);
  await pause();
  const onto = <T extends ShapeItem | PictureItem>(item: T): T => {
    const [a, b, c, d, e, f] = item.matrix;
    const k = scale;
    return { ...item, matrix: [a * k, b * k, c * k, d * k, e * k + Math.round(at.x), f * k + Math.round(at.y)] };
  };
  const shapes = imported.shapes.map((shape, i): ShapeItem =>
    onto({ ...shape, id: newId('item'), layer: films.of.get(imported.hexes[i] ?? '') ?? null, ...paintOf(imported.hexes[i]) }),
  );
  const items = [...pictures.map(onto), ...shapes];
  const [only] = items;
  if (!only) {
    toast.warning(`“${file.name}” holds nothing that could be brought in.`);
    return;
  }
  const whole: GroupItem = {
    type: 'item',
    kind: 'group',
    id: newId('item'),
    name: file.name.replace(/\.[a-z0-9]+$/i, '').slice(0, 120) || 'Drawing',
    layer: null,
    matrix: [1, 0, 0, 1, 0, 0],
    children: items.map((item) => item.id),
  };
  await pause();
  const [all, root] = items.length > 1 ? [[...items, whole], whole.id] : [items, only.id];
  const taken = asOne({ origin: 'file.import', group }, () => {
    takeFresh(films);
    dispatch(addItems, { items: all, roots: [root] }, { origin: 'file.import' });
  });
  if (!taken) return;
  await pause();
  const byColour: Record<string, string[]> = {};
  shapes.forEach((shape, i) => (byColour[imported.hexes[i] ?? ''] ??= []).push(shape.id));
  keepReport(root, {
    file: file.name,
    widthMm: imported.widthMm * scale,
    heightMm: imported.heightMm * scale,
    parts: items.length,
    remarks: imported.report,
    byColour,
    ...(inbox ? { inbox, frame: frameOfItems(items), scale, at: { x: Math.round(at.x), y: Math.round(at.y) } } : {}),
  });
  select([root]);
  showNew(root);
}

/** The box of shapes and pictures by their own places, before anything of them is worked out. */
function frameOfItems(items: readonly (ShapeItem | PictureItem)[]): Box {
  return items.reduce<Box>((sum, item) => {
    const own = item.kind === 'shape' ? parsePath(item.path) : boxShape(item.widthPx * item.mmPerPx, item.heightPx * item.mmPerPx);
    return joinBoxes(sum, bounds(mapOutline(item.matrix, own)));
  }, EMPTY_BOX);
}

/** The file's own colour, for when it is printed instead of cut. */
const paintOf = (hex: string | undefined) => (hex && /^#[0-9a-f]{6}$/.test(hex) ? { paint: { fill: { hex } } } : {});

/**
 * Puts a newer saving of a file where the older one was placed: moved and sized as it was since, its colours cut from
 * the films they are cut from now.
 */
export async function updateInPlace(root: string, report: Report, file: File, inbox: Origin): Promise<void> {
  const bytes = await unpacked(new Uint8Array(await file.arrayBuffer()));
  const kind = kindOfFile(bytes, file.name);
  const { drawing } = useDocument.getState();
  const old = leavesOf(drawing, [root]).filter((leaf): leaf is ShapeItem | PictureItem => leaf.kind === 'shape' || leaf.kind === 'picture');
  if (kind === 'picture' || kind === 'tiff' || kind === 'unknown' || !report.frame || old.length === 0)
    return bringIn(file, undefined, inbox);
  const imported = await readDrawing(file, bytes, kind, WHOLE);
  const [was, now] = [report.frame, frameOfItems(old)];
  const wide = was.maxX - was.minX;
  const k = wide > 0 ? (now.maxX - now.minX) / wide : 1;
  const group = newId('import');
  const films = new Map<string, string | null>();
  for (const [hex, ids] of Object.entries(report.byColour)) {
    const present = ids.map((id) => itemOf(drawing, id)).find((item) => item !== undefined);
    if (present && present.kind !== 'group') films.set(hex, present.layer);
  }
  const fresh = filmsFor(imported.hexes);
  // what came in at one place and scale then lies, with the same steps since, at another now
  const first = report.scale ?? 1;
  const at = report.at ?? { x: 0, y: 0 };
  const onto = <T extends ShapeItem | PictureItem>(item: T): T => {
    const placed = compose(translation(at.x, at.y), compose(scaling(first, first), item.matrix));
    const moved = compose(translation(now.minX, now.minY), compose(scaling(k, k), translation(-was.minX, -was.minY)));
    return { ...item, matrix: compose(moved, placed) };
  };
  // gradients that are shown as printed stay so
  const isPrinted = old.some((item) => item.kind === 'shape' && item.printed);
  const shapes = imported.shapes.map((shape, i): ShapeItem => {
    const hex = imported.hexes[i] ?? '';
    const film = films.has(hex) ? (films.get(hex) ?? null) : (fresh.of.get(hex) ?? null);
    return onto({
      ...shape,
      id: newId('item'),
      layer: film,
      ...paintOf(hex),
      ...(shape.gradient && isPrinted ? { printed: true as const } : {}),
    });
  });
  const items = [...(await picturesOf(imported, file.name)).map(onto), ...shapes];
  const before = itemOf(useDocument.getState().drawing, root);
  if (!before || items.length === 0) throw new Error('nothing of it can be placed.');
  const whole: GroupItem = {
    type: 'item',
    kind: 'group',
    id: newId('item'),
    name: before.name,
    layer: null,
    matrix: [1, 0, 0, 1, 0, 0],
    children: items.map((item) => item.id),
  };
  const taken = asOne({ origin: 'file.update', group }, () => {
    takeFresh(fresh);
    dispatch(replaceItems, { ids: [root], items: [...items, whole], roots: [whole.id] }, { origin: 'file.update' });
  });
  if (!taken) return;
  const byColour: Record<string, string[]> = {};
  shapes.forEach((shape, i) => (byColour[imported.hexes[i] ?? ''] ??= []).push(shape.id));
  keepReport(whole.id, { ...report, parts: items.length, remarks: imported.report, byColour, inbox });
  select([whole.id]);
  toast.success(`“${file.name}” was updated in its place. Undo gives the older one back.`);
}

/** Reads a drawing and lays it on the drawing, its lower left corner at a place (or at the surface's corner). */
async function bringDrawing(file: File, bytes: Uint8Array, kind: DrawingFile, at: Point, inbox: Origin | undefined): Promise<void> {
  let imported = await readDrawing(file, bytes, kind, WHOLE);
  let answer: Answer = { ...WHOLE, widthMm: undefined };
  while (!imported.hasSize || imported.pages > 1 || imported.hidden > 0 || imported.boxes.length > 1) {
    const given = await askAbout(file.name, imported, answer);
    if (!given) return;
    const isOther = given.page !== answer.page || given.withHidden !== answer.withHidden || given.box !== answer.box;
    answer = given;
    if (!isOther) break;
    imported = await readDrawing(file, bytes, kind, given);
    if (imported.hasSize || given.widthMm !== undefined) break;
  }
  if (imported.shapes.length > MOST_PARTS)
    throw new Error(`It has ${imported.shapes.length} parts; ${MOST_PARTS} are the most in one group.`);
  await place(file, imported, at, answer.widthMm === undefined ? 1 : answer.widthMm / imported.widthMm, inbox);
}

/** Pictures that end too early, or are not as large as their head says, show in part at best and could not be traced. */
async function mustDecode(file: File): Promise<void> {
  try {
    (await createImageBitmap(file)).close();
  } catch {
    throw new Error('the picture is cut short or damaged. Ask for it again, or save it anew with a program that still opens it.');
  }
}

/** Takes a picture in and lays it on the drawing. */
/** Pictures that begin at one place would hide one another: the next begins a step beside the last. */
function freePlace(drawing: Drawing): Point {
  const taken = leavesOf(drawing).filter(({ kind }) => kind === 'picture');
  let place = { x: 0, y: 0 };
  while (taken.some(({ matrix }) => Math.hypot(matrix[4] - place.x, matrix[5] - place.y) < 1)) place = { x: place.x + 10, y: place.y + 10 };
  return place;
}

/** New work that lies out of sight, or too small to be seen, brings the view to it. */
function showNew(id: string): void {
  const box = boxOf(useDocument.getState().drawing, [id]);
  const { views, sizes } = useView.getState();
  if (!box || !views.drawing) return;
  const [low, high] = [toScreen(views.drawing, { x: box.minX, y: box.minY }), toScreen(views.drawing, { x: box.maxX, y: box.maxY })];
  const isSeen = low.x >= 0 && high.x <= sizes.drawing.width && high.y >= 0 && low.y <= sizes.drawing.height;
  const isTiny = Math.max(high.x - low.x, low.y - high.y) < TINY_PX;
  if (!isSeen || isTiny) fitBox('drawing', growBox(box, 0.4 * Math.max(box.maxX - box.minX, box.maxY - box.minY)));
}

async function bringPicture(file: File, at: Point | undefined): Promise<void> {
  const asset = await api.addPicture(file);
  await mustDecode(file);
  const item = newPicture(useDocument.getState().drawing, file.name.replace(/\.[a-z0-9]+$/i, ''), asset);
  const { x, y } = at ?? freePlace(useDocument.getState().drawing);
  const placed: PictureItem = { ...item, matrix: [1, 0, 0, 1, Math.round(x * 100) / 100, Math.round(y * 100) / 100] };
  if (!dispatch(addItems, { items: [placed], roots: [placed.id] }, { origin: 'picture.add' })) return;
  select([placed.id]);
  showNew(placed.id);
  if (!asset.dpi)
    toast.info('The picture does not say how large it is: it lies as wide as the surface. Known length (K) gives it its true size.');
}

/** Takes a file in by what it is. Refusals are said. */
export async function bringIn(file: File, at?: Point, inbox?: Origin): Promise<void> {
  try {
    if (file.size === 0) throw new Error('the file is empty.');
    if (file.size > MOST_BYTES) throw new Error('the file is larger than 200 MB.');
    const bytes = await unpacked(new Uint8Array(await file.arrayBuffer()));
    const kind = kindOfFile(bytes, file.name);
    if (kind === 'unknown')
      throw new Error(
        'it is none of the kinds that can be brought in: SVG, PDF, DXF and plotter files, PNG, JPEG, TIFF, WebP, GIF and BMP pictures.',
      );
    if (kind === 'picture') return await bringPicture(file, at);
    if (kind === 'tiff') {
      const png = await askAside('tiff', { bytes });
      return await bringPicture(
        new File([png as Uint8Array<ArrayBuffer>], file.name.replace(/\.[a-z0-9]+$/i, '.png'), { type: 'image/png' }),
        at,
      );
    }
    return await bringDrawing(file, bytes, kind, at ?? { x: 0, y: 0 }, inbox);
  } catch (error) {
    toast.error(`“${file.name}”: ${sentenceOf(error)}`);
  }
}

/** Smaller than this on the screen it is not noticed, px. */
const TINY_PX = 40;

const MOST_AT_ONCE = 12;

export async function bringInAll(files: readonly File[], at?: Point): Promise<void> {
  if (files.length > MOST_AT_ONCE) toast.warning(`The first ${MOST_AT_ONCE} files are brought in.`);
  for (const file of files.slice(0, MOST_AT_ONCE)) await bringIn(file, at);
}
