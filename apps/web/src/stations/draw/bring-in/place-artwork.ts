/** Laying what a file holds onto the drawing as one group that looks as the file does, and newer savings in its place. */
import { compose, IDENTITY, invert, scaling, translation, type Matrix, type Point } from '@lorvek/core/geometry';
import type { Remark } from '@lorvek/core/format';
import {
  addItems,
  itemOf,
  layersByColour,
  leavesOf,
  movedSince,
  replaceItems,
  wayToPlaceOf,
  witnessesOf,
  type GroupItem,
  type LetteringItem,
  type Paint,
  type PictureItem,
  type ShapeItem,
} from '@lorvek/model';
import { toast } from 'sonner';
import { api } from '../../../api/client.ts';
import { filmsFor, type FilmChoice } from '../../../document/films.ts';
import { groupOf, layerGroups } from './layer-groups.ts';
import { keyName, stackedOf, takeStacked, type Stacked, type StackedItem } from '../../../document/stacking.ts';
import { asOne, dispatch, newId, select, useDocument } from '../../../document/store.ts';
import { underway } from '../../../ui/underway.ts';
import { stopAside } from '../../../worker/compute.ts';
import type { Imported, ImportedPart } from '@lorvek/computations';
import { keepReport, type InboxOrigin, type Report } from '../../../document/import-reports.ts';

/** More of the ground than this looking otherwise is said. */
const SEEN_OTHERWISE = 0.002;

const pause = (): Promise<void> => new Promise((resolve) => setTimeout(resolve));

/** Pictures of a file as assets of the shop, placed as they are on its page. */
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
      name: `${picture.ink?.name ?? 'Picture'} of ${file}`.slice(0, 120),
      layer: null,
      matrix: [(a * k) / widthPx, (b * k) / widthPx, (c * k) / heightPx, (d * k) / heightPx, e, f],
      asset: asset.asset,
      widthPx,
      heightPx,
      mmPerPx,
      strengthPct: 100,
      locked: false,
      ...(picture.ink ? { ink: { hex: picture.ink.hex, spot: picture.ink.name } } : {}),
    });
  }
  return out.filter((item) => invert(item.matrix) !== undefined);
}

/** The file's own colour, for when it is printed instead of cut. */
function paintOf({ hex, spot, cmyk }: Omit<ImportedPart, 'item'>): { paint?: Paint } {
  if (!/^#[0-9a-f]{6}$/.test(hex)) return {};
  return { paint: { fill: { hex, ...(spot ? { spot: spot.slice(0, 80) } : {}), ...(cmyk ? { cmyk: [...cmyk] } : {}) } } };
}

const under = (map: Matrix, matrix: Matrix): [number, number, number, number, number, number] => {
  const [a, b, c, d, e, f] = compose(map, matrix);
  return [a, b, c, d, e, f];
};

/** The parts under a map, each with its film and colour. */
const itemsOf = (imported: Imported, map: Matrix, filmOf: (hex: string) => string | null): StackedItem[] =>
  imported.parts.map(({ item, path, ...colour }) => ({
    item: { ...item, id: newId('item'), layer: filmOf(colour.hex), ...paintOf(colour), matrix: under(map, item.matrix) },
    hex: colour.hex,
    ...(path === undefined ? {} : { outline: { path, matrix: map } }),
  }));

const percent = (share: number): string => (share < 0.01 ? `${(100 * share).toFixed(1)} %` : `${Math.round(100 * share)} %`);

/** What became of the order in which things lie, in sentences. */
function stackingRemarks({ knots, hidden, differs }: Stacked): Remark[] {
  const out: Remark[] = knots.map((knot) => {
    const names = knot.map(keyName);
    const list = `${names.slice(0, -1).join(', ')} and ${names.at(-1)}`;
    return {
      code: `knot ${knot.join(' ')}`,
      text: `${list} lie both over and under one another: no order of films shows that. They were cut out of one another, so that it looks as in the file.`,
      count: 1,
    };
  });
  if (hidden > 0) out.push({ code: 'hidden-parts', text: 'Parts that nothing is seen of were left out.', count: hidden });
  if (differs > SEEN_OTHERWISE)
    out.push({
      code: 'differs',
      text: `${percent(differs)} of it is seen in another colour than in the file: films that are in use keep their order. Compare before it is cut.`,
      count: 1,
    });
  return out;
}

interface Laid {
  readonly whole: GroupItem | undefined;
  /** The file's layers, within the whole. */
  readonly groups: readonly GroupItem[];
  readonly items: readonly (ShapeItem | LetteringItem | PictureItem)[];
  readonly films: FilmChoice;
  readonly stacked: Stacked;
  readonly byColour: Record<string, string[]>;
}

/** How a file is laid. */
interface Laying {
  readonly file: string;
  readonly map: Matrix;
  /** Of the whole. */
  readonly name: string;
  /** Films that colours have already. */
  readonly kept: ReadonlyMap<string, string | null>;
  /** What it takes the place of. */
  readonly without: readonly string[];
}

async function laid(imported: Imported, { file, map, name, kept, without }: Laying): Promise<Laid> {
  const pictures = (await picturesOf(imported, file)).map((item): PictureItem => ({ ...item, matrix: under(map, item.matrix) }));
  // large drawings are placed in steps, between which the page answers
  await pause();
  const films = filmsFor(imported.parts.map(({ hex }) => hex));
  await pause();
  const found = itemsOf(imported, map, (hex) => (kept.has(hex) ? (kept.get(hex) ?? null) : (films.of.get(hex) ?? null)));
  const stacked = await underway(`Placing “${file}”`, stopAside, (onShare) => stackedOf(found, films, without, onShare));
  const items = [...pictures, ...stacked.items.map(({ item }) => item)];
  const byColour: Record<string, string[]> = {};
  for (const { item, hex } of stacked.items) (byColour[hex] ??= []).push(item.id);
  const layers = new Map(found.map(({ item }, i) => [item.id, imported.parts[i]?.layer]));
  const ids = items.map(({ id }) => id);
  const groups = layerGroups(
    ids,
    (id) => layers.get(id),
    () => newId('item'),
  );
  const groupAt = new Map(groups.flatMap((group) => group.children.map((id) => [id, group.id] as const)));
  const whole = items.length > 1 ? groupOf(newId('item'), name, [...new Set(ids.map((id) => groupAt.get(id) ?? id))]) : undefined;
  return { whole, groups, items, films, stacked, byColour };
}

const spotsOf = (imported: Imported): Record<string, string> =>
  Object.fromEntries(imported.parts.flatMap(({ hex, spot }) => (spot ? [[hex, spot] as const] : [])));

/**
 * Lays a drawing with its page's lower left corner at a place.
 * @returns the item that it became; undefined when there was nothing, or it was refused
 */
export async function placeArtwork(
  file: File,
  imported: Imported,
  at: Point,
  scale: number,
  inbox: InboxOrigin | undefined,
): Promise<string | undefined> {
  const map = compose(translation(Math.round(at.x), Math.round(at.y)), scaling(scale, scale));
  const name = file.name.replace(/\.[a-z0-9]+$/i, '').slice(0, 120) || 'Drawing';
  const { whole, groups, items, films, stacked, byColour } = await laid(imported, {
    file: file.name,
    map,
    name,
    kept: new Map(),
    without: [],
  });
  const root = whole?.id ?? items[0]?.id;
  if (root === undefined) {
    toast.warning(`“${file.name}” holds nothing that could be brought in.`);
    return undefined;
  }
  await pause();
  const taken = asOne({ origin: 'file.import', group: newId('import') }, () => {
    takeStacked(films, stacked.strip);
    dispatch(addItems, { items: whole ? [...items, ...groups, whole] : [...items], roots: [root] }, { origin: 'file.import' });
  });
  if (!taken) return undefined;
  await pause();
  keepReport(root, {
    file: file.name,
    widthMm: imported.widthMm * scale,
    heightMm: imported.heightMm * scale,
    parts: items.length,
    remarks: [...imported.report, ...stackingRemarks(stacked)],
    byColour,
    ...(stacked.knots.length > 0 ? { whole: stacked.whole } : {}),
    spots: spotsOf(imported),
    placedBy: map,
    witnesses: witnessesOf(items),
    ...(inbox ? { inbox } : {}),
  });
  select([root]);
  return root;
}

/**
 * Lays a newer saving in place of an older one: moved, turned, mirrored and sized as that was since, its colours cut from
 * the films they are cut from now.
 * @throws Error when nothing of it can be placed
 */
export async function replaceArtwork(root: string, report: Report, file: File, imported: Imported, inbox: InboxOrigin): Promise<void> {
  const { drawing } = useDocument.getState();
  const moved = movedSince(drawing, report.witnesses ?? []);
  const map = moved
    ? compose(moved, report.placedBy ?? IDENTITY)
    : wayToPlaceOf(
        drawing,
        root,
        imported.parts.flatMap(({ item }) => (item.kind === 'shape' ? [item] : [])),
      );
  const before = itemOf(drawing, root);
  if (!before || imported.parts.length + imported.pictures.length === 0) throw new Error('nothing of it can be placed.');
  // gradients that are shown as printed stay so
  const isPrinted = leavesOf(drawing, [root]).some((item) => item.kind === 'shape' && item.printed);
  const kept = layersByColour(drawing, report.byColour);
  const made = await laid(imported, { file: file.name, map, name: before.name, kept, without: [root] });
  const items = made.items.map((item) =>
    item.kind === 'shape' && item.gradient && isPrinted ? { ...item, printed: true as const } : item,
  );
  const next = made.whole?.id ?? (items[0] as ShapeItem).id;
  const taken = asOne({ origin: 'file.update', group: newId('import') }, () => {
    takeStacked(made.films, made.stacked.strip);
    dispatch(
      replaceItems,
      { ids: [root], items: made.whole ? [...items, ...made.groups, made.whole] : items, roots: [next] },
      { origin: 'file.update' },
    );
  });
  if (!taken) return;
  keepReport(next, {
    ...report,
    parts: items.length,
    remarks: [...imported.report, ...stackingRemarks(made.stacked)],
    byColour: made.byColour,
    ...(made.stacked.knots.length > 0 ? { whole: made.stacked.whole } : {}),
    spots: spotsOf(imported),
    placedBy: map,
    witnesses: witnessesOf(items),
    inbox,
  });
  select([next]);
  toast.success(
    moved
      ? `“${file.name}” was updated in its place. Undo gives the older one back.`
      : `“${file.name}” was updated where it lay, at its own size and upright: its parts were changed since. Undo gives the older one back.`,
  );
}
