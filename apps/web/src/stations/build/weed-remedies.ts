/** What can be done about parts that cannot be weeded: thicker, joined by a bridge, cut with the colour below, dropped. */
import { bounds, contourBox, flatten, formatPath, lineDistance, mapOutline, type Contour, type Point } from '@lorvek/core/geometry';
import { bridgeTo } from '@lorvek/core/build';
import type { Finding } from '@lorvek/core/check';
import {
  addItems,
  filmsOf,
  isShaped,
  itemOf,
  leavesOf,
  newTreatment,
  setFilmOfItems,
  setTreatments,
  type LeafItem,
  type ShapeItem,
} from '@lorvek/model';
import { toast } from 'sonner';
import { CLEAN_LIMITS, clean, weldGroups } from '../../document/clean.ts';
import { dispatch, newId, useDocument } from '../../document/store.ts';
import { remove } from '../../drawing/remove.ts';
import { tellFailure } from '../../ui/tell.ts';
import { outlineOf, piecesOf, placedBoxOf } from '../../worker/derived.ts';
import type { BuiltView } from '@lorvek/computations';

const done = (text: string): void => void toast.success(`${text} Undo takes it back.`);

/** Makes an item thicker by a ring of its own film. */
export function thicken({ parts: [id = ''] }: Finding, mm: number): void {
  const item = itemOf(useDocument.getState().drawing, id);
  if (!item || item.kind === 'group' || !isShaped(item)) return void toast.warning('Only lettering and shapes can be made thicker.');
  const ring = newTreatment('ring', newId('treatment'), 10, item.layer);
  if (ring.kind !== 'ring') return;
  const treatments = [...(item.treatments ?? []), { ...ring, distanceMm: mm / 2, fill: 'backing' as const }];
  if (dispatch(setTreatments, { id, treatments }, { origin: 'treatment.add' }))
    done(`“${item.name}” is ${mm} mm thicker, by a ring of its own film.`);
}

/** The film below the one it is cut from. */
export function filmBelow(film: string): { id: string; name: string } | undefined {
  const films = filmsOf(useDocument.getState().drawing);
  return films[films.findIndex(({ id }) => id === film) - 1];
}

export function cutWithBelow({ parts }: Finding, film: string): void {
  const below = filmBelow(film);
  if (below && dispatch(setFilmOfItems, { ids: [...parts], film: below.id }, { origin: 'item.film' })) done(`Cut from ${below.name}.`);
}

/** Is the item no more than what was found? */
function isWhole(id: string, box: Finding['box']): boolean {
  const item = itemOf(useDocument.getState().drawing, id);
  const outline = item && item.kind !== 'group' ? outlineOf(item) : undefined;
  const own = item && outline && placedBoxOf(outline, item.matrix);
  return (
    own !== undefined &&
    box !== undefined &&
    own.maxX - own.minX <= box.maxX - box.minX + 0.05 &&
    own.maxY - own.minY <= box.maxY - box.minY + 0.05
  );
}

export async function drop({ parts, box }: Finding): Promise<void> {
  const whole = parts.filter((id) => isWhole(id, box));
  if (whole.length === parts.length && remove(whole, { origin: 'item.remove' })) return done('Dropped.');
  const sizeMm = box ? Math.max(box.maxX - box.minX, box.maxY - box.minY) : CLEAN_LIMITS.speckMm;
  const { answer } = await clean(parts, { ...CLEAN_LIMITS, speckMm: 1.01 * sizeMm }, ['specks'], { others: true, group: newId('remedy') });
  if (answer.done.length > 0) done('Dropped.');
  else toast.warning('It could not be dropped by itself: take it out by hand with Nodes.');
}

/** A bar from a part to what of its film lies nearest, welded to it. @param widthMm of the bar */
export async function bridge({ parts: [id = ''], place, box }: Finding, { film, outline }: BuiltView, widthMm: number): Promise<void> {
  const at = (box ?? place) && outline.contours.find((contour) => isAt(contour, box, place));
  const item = itemOf(useDocument.getState().drawing, id);
  const joined = at && bridgeTo(at, outline.contours, widthMm);
  if (!item || !joined) return void toast.warning('There is nothing of this film near it that it could be joined to.');
  const { bar, to } = joined;
  const corner = bounds(bar);
  const shape: ShapeItem = {
    type: 'item',
    kind: 'shape',
    id: newId('item'),
    name: 'Bridge',
    layer: film,
    matrix: [1, 0, 0, 1, corner.minX, corner.minY],
    path: formatPath(
      {
        contours: bar.contours.map(({ closed, spans }) => ({
          closed,
          spans: spans.map((span) => span.map((n, i) => n - (i % 2 === 0 ? corner.minX : corner.minY))),
        })),
      },
      4,
    ),
  };
  const group = newId('remedy');
  // a refusal is said by itself
  if (!dispatch(addItems, { items: [shape], roots: [shape.id] }, { origin: 'item.bridge', group })) return;
  const { drawing } = useDocument.getState();
  const owners = leavesOf(drawing).filter((leaf) => leaf.layer === film && leaf.id !== shape.id && isOn(leaf, to));
  const welded = await weldGroups([[id, shape.id, ...owners.map((leaf) => leaf.id)]], group);
  if (welded > 0) done('Joined by a bridge.');
  else toast.warning('The bridge lies there, but could not be made one with what it joins: weld them on Draw, or undo.');
}

/** Does a point lie on the edge of an item? The bar has to become one with what it reaches, or its ends are cut through. */
function isOn(leaf: LeafItem, { x, y }: Point): boolean {
  const outlines = piecesOf(leaf).map(({ outline }) => mapOutline(leaf.matrix, outline));
  return outlines.some((outline) => lineDistance(flatten(outline, 0.02), x, y) < 0.1);
}

function isAt(contour: Contour, box: Finding['box'], place: Finding['place']): boolean {
  const own = contourBox(contour);
  if (box) return [own.minX - box.minX, own.minY - box.minY, own.maxX - box.maxX, own.maxY - box.maxY].every((d) => Math.abs(d) < 0.02);
  return place !== undefined && place.x >= own.minX && place.x <= own.maxX && place.y >= own.minY && place.y <= own.maxY;
}

/** Does one of them; a failure is said. */
export const attempt = (work: () => Promise<void>): void => void work().catch(tellFailure);
