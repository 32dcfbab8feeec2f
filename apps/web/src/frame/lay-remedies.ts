/** What can be done about pieces on the material: brought onto it, off one another, back along the grain, given a place. */
import { layUpOf, mirrorOf, narrowestThatFits, setLayUp, type LayUp, type Material } from '@lorvek/model';
import { allowsTurn, clearOf, withPlaces, type Placement } from '@lorvek/model/lay-places';
import { broughtOn, offGround, placesFor, takenApart, turnedBack } from '@lorvek/model/put-right';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { toast } from 'sonner';
import { useShop } from '../api/shop.ts';
import { useSheets, type LocatedFinding } from '../document/sheets.ts';
import { dispatch, newId, useDocument } from '../document/store.ts';

/** Sheets of each layer that something was found on, all of them in their order. */
function laidUp(found: readonly LocatedFinding[]): (readonly [SheetPlan, ...SheetPlan[]])[] {
  const { sheets } = useSheets.getState();
  const layers = new Set(found.flatMap(({ sheet }) => (sheet ? [sheet.layer.id] : [])));
  return [...layers].flatMap((id) => {
    const [first, ...others] = sheets.filter(({ layer }) => layer.id === id);
    return first ? [[first, ...others] as const] : [];
  });
}

const recordOf = ({ layer }: SheetPlan): LayUp => layUpOf(useDocument.getState().drawing, layer.id);

const set = (sheet: SheetPlan, fields: Partial<LayUp>, group: string): boolean =>
  dispatch(setLayUp, { film: sheet.layer.id, fields }, { origin: 'sheet.place', group });

/** Keeps other places of some copies. @param back they go where the fill puts them */
function put(own: readonly [SheetPlan, ...SheetPlan[]], changed: readonly Placement[], group: string, back = false): boolean {
  if (changed.length === 0) return false;
  const [first] = own;
  const record = recordOf(first);
  return set(first, { fill: withPlaces(record.fill, own, mirrorOf(record, first.layer).mirror, changed, back) }, group);
}

const roomy =
  (sheet: SheetPlan) =>
  (on: Material): boolean => {
    const { box } = sheet.frame;
    const own = useSheets.getState().sheets.filter(({ layer }) => layer.id === sheet.layer.id);
    const usedLengthMm = own.reduce((sum, one) => sum + one.usedLengthMm, 0);
    const { marginMm } = recordOf(sheet);
    return on.widthMm >= box.maxY - box.minY + 2 * marginMm && on.lengthMm >= usedLengthMm;
  };

/** The narrowest roll of Stock that holds the work; that there is none is said. @returns was one taken? */
function takeRoll(sheet: SheetPlan, group: string): boolean {
  const roll = narrowestThatFits(sheet.layer, useShop.getState().stock ?? [], roomy(sheet));
  if (roll) return set(sheet, { rollId: roll.id }, group);
  toast.warning(
    `No roll of ${sheet.layer.series} ${sheet.layer.name} in Stock holds this work. Enter one on Stock, or choose one on Lay up.`,
  );
  return false;
}

/** A roll for every layer that something was found on. */
export function takeRolls(found: readonly LocatedFinding[]): void {
  const group = newId('remedy');
  for (const sheet of new Set(found.flatMap((one) => one.sheet ?? []))) takeRoll(sheet, group);
}

/** Would the work as it is drawn lie on its material when it is turned by a quarter? */
function fitsTurned(sheet: SheetPlan, { grain, fill }: LayUp): boolean {
  const { box } = sheet.frame;
  const clear = clearOf(sheet.ground);
  const isOne = fill.kind === 'as-drawn' && fill.copies === 1 && (fill.moved ?? []).length === 0;
  return isOne && !grain && box.maxX - box.minX <= clear.widthMm && box.maxY - box.minY <= clear.lengthMm;
}

/** One layer's work onto its material: put back where it was moved by hand, moved, turned, or onto a wider roll. */
function bringOn(own: readonly [SheetPlan, ...SheetPlan[]], group: string): void {
  const [first] = own;
  const record = recordOf(first);
  const { fill } = record;
  const byHand = fill.kind === 'nest' ? [] : own.flatMap((sheet) => offGround(sheet).filter(({ moved }) => moved));
  if (put(own, byHand, group, true)) return;
  const moved = own.flatMap((sheet) => broughtOn(sheet, fill.kind === 'nest'));
  if (fill.kind === 'as-drawn' && (fill.alongMm > 0 || fill.acrossMm > 0) && moved.length > 0)
    return void set(first, { fill: { ...fill, alongMm: 0, acrossMm: 0 } }, group);
  if (put(own, moved, group)) return;
  if (fitsTurned(first, record)) return void set(first, { turnDeg: (record.turnDeg + 90) % 360 }, group);
  takeRoll(first, group);
}

export function bringOntoMaterial(found: readonly LocatedFinding[]): void {
  const group = newId('remedy');
  for (const own of laidUp(found)) bringOn(own, group);
}

/** Between pieces that are put elsewhere, mm. */
const gapOf = ({ fill }: LayUp): number => ('gapMm' in fill ? fill.gapMm : 5);

/** Pieces that lie on others go behind the work. */
export function takeApart(found: readonly LocatedFinding[]): void {
  const group = newId('remedy');
  for (const own of laidUp(found)) {
    const gapMm = gapOf(recordOf(own[0]));
    const changed = own.flatMap((sheet) => takenApart(sheet, gapMm));
    if (!put(own, changed, group)) toast.warning('All of them are locked in place: unlock one on Lay up.');
  }
}

/** Work and pieces back along the grain. */
export function turnBack(found: readonly LocatedFinding[]): void {
  const group = newId('remedy');
  for (const own of laidUp(found)) {
    const [first] = own;
    const { fill, grain } = recordOf(first);
    if (fill.kind === 'nest' && grain) {
      const changed = own.flatMap((sheet) => turnedBack(sheet, (deg) => allowsTurn(grain, deg)));
      if (!put(own, changed, group)) toast.warning('What is turned is locked in place: unlock it on Lay up.');
      continue;
    }
    const straight = fill.kind === 'as-drawn' || fill.kind === 'grid' ? { ...fill, moved: [] } : fill;
    const rows = straight.kind === 'grid' && straight.rows === 'head-to-tail' ? { ...straight, rows: 'half' as const } : straight;
    set(first, { turnDeg: 0, fill: rows }, group);
  }
}

/** Copies of a nest that have no place lie behind the work; whatever else has none is too large for its roll. */
export function findPlaces(found: readonly LocatedFinding[]): void {
  const group = newId('remedy');
  for (const own of laidUp(found)) {
    const [first] = own;
    const record = recordOf(first);
    const { missing } = first.filled;
    const wanted = missing.reduce((sum, { copies }) => sum + copies, 0);
    if (record.fill.kind !== 'nest' || !record.fill.found) {
      takeRoll(first, group);
      continue;
    }
    const places = placesFor(own, missing, gapOf(record));
    put(own, places, group);
    if (places.length < wanted)
      toast.warning(
        `${wanted - places.length} of ${wanted} found no room on the material: take a wider or longer roll, or take them off the list on Lay up.`,
      );
  }
}

/** A nest that was found for something else is taken as it lies. */
export function keepNest(found: readonly LocatedFinding[]): void {
  const group = newId('remedy');
  for (const [first] of laidUp(found)) {
    const { fill } = recordOf(first);
    const key = first.filled.nest?.key;
    if (fill.kind === 'nest' && fill.found && key !== undefined) set(first, { fill: { ...fill, found: { ...fill.found, key } } }, group);
  }
}
