/** Bringing in files: by what they are, at true size, onto the drawing as one group, with a report. */
import { growBox, type Point } from '@lorvek/core/geometry';
import { addItems, leavesOf, type Drawing, type PictureItem } from '@lorvek/model';
import { toast } from 'sonner';
import { create } from 'zustand';
import type { PageBoxName } from '@lorvek/core/format';
import { api, sentenceOf } from '../../../api/client.ts';
import { dispatch, newId, select, useDocument } from '../../../document/store.ts';
import { askAside, stopAside } from '../../../worker/compute.ts';
import type { DrawingFile, Imported, ReadPicture } from '@lorvek/computations';
import { boxOf } from '../../../drawing/selection.ts';
import { fitBox, toScreen, useView } from '../../../drawing/view.ts';
import { newPicture } from '../new-items.ts';
import { groupOf } from './layer-groups.ts';
import { kindOfFile } from './kind-of-file.ts';
import { unpacked } from './unpacked.ts';
import { underway } from '../../../ui/underway.ts';
import { placeArtwork, replaceArtwork } from './place-artwork.ts';
import type { InboxOrigin, Report } from '../../../document/import-reports.ts';

const MOST_PARTS = 60_000;
const MOST_BYTES = 200 * 1024 * 1024;

/** What has to be asked before a drawing can be placed. */
export interface Question {
  readonly file: string;
  readonly imported: Imported;
  readonly asked: PartAsked;
  /** Its bytes, for a look at its other pages. */
  readonly bytes: Uint8Array;
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
function askAbout(file: string, bytes: Uint8Array, imported: Imported, asked: PartAsked): Promise<Answer | undefined> {
  return new Promise((resolve) =>
    useQuestion.setState({
      question: {
        file,
        imported,
        asked,
        bytes,
        answer: (given) => {
          useQuestion.setState({ question: undefined });
          resolve(given);
        },
      },
    }),
  );
}

const readDrawing = (file: File, bytes: Uint8Array, kind: DrawingFile, { page, box, withHidden }: PartAsked): Promise<Imported> =>
  underway(`Reading “${file.name}”`, stopAside, (onShare) => askAside('import', { bytes, kind, page, box, withHidden }, onShare));

/** Puts a newer saving of a file of the Inbox where the older one was placed. */
export async function updateInPlace(root: string, report: Report, file: File, inbox: InboxOrigin): Promise<void> {
  const bytes = await unpacked(new Uint8Array(await file.arrayBuffer()));
  const kind = kindOfFile(bytes, file.name);
  if (kind === 'picture' || kind === 'tiff' || kind === 'unknown') return bringIn(file, undefined, inbox);
  await replaceArtwork(root, report, file, await readDrawing(file, bytes, kind, WHOLE), inbox);
}

/** Reads a drawing and lays it on the drawing, its lower left corner at a place (or at the surface's corner). */
async function bringDrawing(file: File, bytes: Uint8Array, kind: DrawingFile, at: Point, inbox: InboxOrigin | undefined): Promise<void> {
  let imported = await readDrawing(file, bytes, kind, WHOLE);
  let answer: Answer = { ...WHOLE, widthMm: undefined };
  while (!imported.hasSize || imported.pages > 1 || imported.hidden > 0 || imported.boxes.length > 1) {
    const given = await askAbout(file.name, bytes, imported, answer);
    if (!given) return;
    const isOther = given.page !== answer.page || given.withHidden !== answer.withHidden || given.box !== answer.box;
    answer = given;
    if (!isOther) break;
    imported = await readDrawing(file, bytes, kind, given);
    if (imported.hasSize || given.widthMm !== undefined) break;
  }
  if (imported.parts.length > MOST_PARTS)
    throw new Error(`It has ${imported.parts.length} parts; ${MOST_PARTS} are the most in one group.`);
  const scale = answer.widthMm === undefined ? 1 : answer.widthMm / imported.widthMm;
  const placed = await placeArtwork(file, imported, at, scale, inbox);
  if (placed !== undefined) showNew(placed);
}

/** Pictures that end too early, or are not as large as their head says, show in part at best and could not be traced. */
async function mustDecode(file: File): Promise<void> {
  try {
    (await createImageBitmap(file)).close();
  } catch {
    throw new Error('the picture is cut short or damaged. Ask for it again, or save it anew with a program that still opens it.');
  }
}

const asPng = (bytes: Uint8Array, name: string): File => new File([bytes as Uint8Array<ArrayBuffer>], name, { type: 'image/png' });

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

type Inks = Pick<ReadPicture, 'plates' | 'leftOut'>;

/** Takes a picture in and lays it on the drawing, with the plates of inks of its own over it. */
async function bringPicture(file: File, at: Point | undefined, { plates, leftOut }: Inks = { plates: [], leftOut: [] }): Promise<void> {
  const asset = await api.addPicture(file);
  await mustDecode(file);
  const item = newPicture(useDocument.getState().drawing, file.name.replace(/\.[a-z0-9]+$/i, ''), asset);
  const { x, y } = at ?? freePlace(useDocument.getState().drawing);
  const placed: PictureItem = { ...item, matrix: [1, 0, 0, item.matrix[3], Math.round(x * 100) / 100, Math.round(y * 100) / 100] };
  const over: PictureItem[] = [];
  for (const { name, hex, png } of plates) {
    const { asset: plate } = await api.addPicture(asPng(png, `${name}.png`));
    over.push({ ...placed, id: newId('item'), name: `${name} of ${placed.name}`.slice(0, 120), asset: plate, ink: { hex, spot: name } });
  }
  const pictures = [placed, ...over];
  const whole =
    over.length > 0
      ? groupOf(
          newId('item'),
          placed.name,
          pictures.map(({ id }) => id),
        )
      : undefined;
  const root = whole ?? placed;
  if (!dispatch(addItems, { items: [...pictures, ...(whole ? [whole] : [])], roots: [root.id] }, { origin: 'picture.add' })) return;
  select([root.id]);
  showNew(root.id);
  if (over.length > 0)
    toast.info(
      `It has ${over.length === 1 ? 'an ink of its own' : `${over.length} inks of their own`}: ${plates.map(({ name }) => name).join(', ')}. Each lies over the picture as a plate; Lay up says how it is laid down.`,
    );
  if (leftOut.length > 0)
    toast.warning(
      `It has more inks than are taken: ${leftOut.join(', ')} ${leftOut.length === 1 ? 'was' : 'were'} left out. Save ${leftOut.length === 1 ? 'it' : 'them'} in a file of ${leftOut.length === 1 ? 'its' : 'their'} own.`,
    );
  if (!asset.dpi)
    toast.info('The picture does not say how large it is: it lies as wide as the surface. Known length (K) gives it its true size.');
}

/** Takes a file in by what it is. Refusals are said. */
export async function bringIn(file: File, at?: Point, inbox?: InboxOrigin): Promise<void> {
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
      const { png, ...inks } = await askAside('tiff', { bytes });
      return await bringPicture(asPng(png, file.name.replace(/\.[a-z0-9]+$/i, '.png')), at, inks);
    }
    return await bringDrawing(file, bytes, kind, at ?? { x: 0, y: 0 }, inbox);
  } catch (error) {
    toast.error(`“${file.name}”: ${sentenceOf(error)}`);
  }
}

/** Smaller than this on the screen it is not noticed, px. */
const TINY_PX = 120;

const MOST_AT_ONCE = 12;

export async function bringInAll(files: readonly File[], at?: Point): Promise<void> {
  if (files.length > MOST_AT_ONCE) toast.warning(`The first ${MOST_AT_ONCE} files are brought in.`);
  for (const file of files.slice(0, MOST_AT_ONCE)) await bringIn(file, at);
}
