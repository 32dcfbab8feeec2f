/** What can be done about each kind of finding, for one or for all of a kind. */
import { activeTreatments, filmsOf, itemOf, seriesOf, setSeries, setFilmOfItems, setItemFields, setLayUp, layUpOf } from '@lorvek/model';
import type { FindingCode } from '@lorvek/core/check';
import { leastHeldMm } from '@lorvek/model/edge-cuts';
import type { CleanStep } from '@lorvek/core/clean';
import { toast } from 'sonner';
import { sentenceOf } from '../api/client.ts';
import { useShop } from '../api/shop.ts';
import { CLEAN_LIMITS, clean, speckLimit, weldGroups } from '../document/clean.ts';
import { liftGround } from '../document/print-work.ts';
import type { LocatedFinding } from '../document/sheets.ts';
import { dispatch, newId, useDocument } from '../document/store.ts';
import { remove } from '../drawing/remove.ts';
import { cutLarger, goRoundToo, partOrJoin, setEdges } from './edge-remedies.ts';
import { bringOntoMaterial, findPlaces, keepNest, takeApart, takeRolls, turnBack } from './lay-remedies.ts';

export interface Remedy {
  readonly name: string;
  /** What it says when all of a kind are done. */
  readonly all: string;
  act(found: readonly LocatedFinding[]): Promise<void> | void;
}

/** Gaps up to this are closed when the user asks for it, mm. */
const WIDEST_GAP_MM = 5;

const idsOf = (found: readonly LocatedFinding[]): string[] => {
  const { drawing } = useDocument.getState();
  return [...new Set(found.flatMap(({ finding }) => finding.parts))].filter((id) => itemOf(drawing, id));
};

/** Seams to the nearest places that are free; they are seams by hand then. */
function moveSeams(found: readonly LocatedFinding[]): void {
  const { drawing } = useDocument.getState();
  const moved = found.flatMap(({ finding, sheet }) => (finding.seam && sheet ? [{ seam: finding.seam, sheet }] : []));
  if (moved.length === 0) {
    toast.warning('No place beside it is free. Let a seam go through the item, or make the panels wider.');
    return;
  }
  for (const film of new Set(moved.map(({ sheet }) => sheet.layer.id))) {
    const own = moved.filter(({ sheet }) => sheet.layer.id === film);
    const { fill } = layUpOf(drawing, film);
    const seams = own[0]?.sheet.filled.panels?.seams;
    if (fill.kind !== 'panels' || !seams) continue;
    const placed = (axis: 'x' | 'y'): number[] =>
      seams[axis]
        .map((place) => own.find(({ seam }) => seam.axis === axis && Math.abs(seam.from - place) < 1e-6)?.seam.to ?? place)
        .sort((a, b) => a - b);
    dispatch(
      setLayUp,
      { film, fields: { fill: { ...fill, way: 'seams', seams: { x: placed('x'), y: placed('y') } } } },
      { origin: 'sheet.set' },
    );
  }
}

function cleaning(step: CleanStep, limits: Partial<typeof CLEAN_LIMITS> = {}): Remedy['act'] {
  return async (found) => {
    const { drawing } = useDocument.getState();
    const ids = idsOf(found);
    const stock = useShop.getState().stock ?? [];
    const speckMm = speckLimit(drawing, ids, (stockId) => stock.find(({ id }) => id === stockId)?.smallestPartMm);
    const { answer } = await clean(ids, { ...CLEAN_LIMITS, speckMm, ...limits }, [step], { others: true, group: newId('remedy') });
    if (answer.joined.length > 0) toast.success('Items whose ends meet became one. Undo takes it back.');
    else if (answer.done.length === 0) toast.warning(insteadOf(step, ids), { duration: LONG_MS });
    else toast.success(`${answer.done.map(({ text }) => text).join(' ')} Undo takes it back.`);
  };
}

/** Long enough to be read, ms. */
const LONG_MS = 12_000;

/** What else can be done where a step changes nothing. */
function insteadOf(step: CleanStep, ids: readonly string[]): string {
  const { drawing } = useDocument.getState();
  const treated = ids.some((id) => {
    const item = itemOf(drawing, id);
    return item && item.kind !== 'group' && activeTreatments(item).length > 0;
  });
  const by = treated
    ? 'It comes of a ring, a shade or a two-tone: change its figures, raise the limit for slivers on the Drawing card, or set the treatment free and work on the shape.'
    : WORK_BY_HAND[step];
  return `Nothing was changed: this does not mend it. ${by}`;
}

const WORK_BY_HAND: Record<CleanStep, string> = {
  join: 'The ends lie too far apart: draw the piece that is missing with Curve, or move the end nodes onto one another with Nodes.',
  doubled: 'The lines are not alike all along: take one of them out, or weld both.',
  weld: 'The line is open: close it with Nodes first.',
  specks: 'Make the part larger, cut it from the film below, or take it out by hand with Nodes.',
  bumps: 'Take its nodes out by hand with Nodes, or thin out within a wider limit.',
  'thin-out': 'Thin out within a wider limit, in the card of the nodes.',
};

async function weldAll(found: readonly LocatedFinding[]): Promise<void> {
  const group = newId('remedy');
  const own = found.filter(({ finding }) => finding.parts.length === 1);
  const groups = found.filter(({ finding }) => finding.parts.length > 1).map(({ finding }) => finding.parts);
  if (own.length > 0) await clean(idsOf(own), CLEAN_LIMITS, ['doubled', 'weld'], { others: true, group });
  const welded = await weldGroups(joined(groups), group);
  toast.success(`${welded > 0 ? 'Welded into one shape.' : 'Welded.'} Undo gives the items back.`);
}

/** Pairs that share an item as one group. */
function joined(pairs: readonly (readonly string[])[]): string[][] {
  const groups: Set<string>[] = [];
  for (const pair of pairs) {
    const touching = groups.filter((group) => pair.some((id) => group.has(id)));
    const whole = new Set([...pair, ...touching.flatMap((group) => [...group])]);
    for (const group of touching) groups.splice(groups.indexOf(group), 1);
    groups.push(whole);
  }
  return groups.map((group) => [...group]);
}

const REMEDIES: Partial<Record<FindingCode, Remedy>> = {
  'no-roll': { name: 'Take the narrowest that fits', all: 'Take a roll for all', act: takeRolls },
  crossing: { name: 'Weld', all: 'Weld all', act: weldAll },
  doubled: { name: 'Weld', all: 'Weld all', act: weldAll },
  'inside-same-film': { name: 'Weld', all: 'Weld all', act: weldAll },
  'open-outline': { name: 'Join the ends', all: 'Join all ends', act: cleaning('join', { gapMm: WIDEST_GAP_MM }) },
  'tiny-part': { name: 'Drop it', all: 'Drop all', act: cleaning('specks') },
  'many-nodes': { name: 'Thin out', all: 'Thin out all', act: cleaning('thin-out') },
  bump: { name: 'Smooth it', all: 'Smooth all', act: cleaning('bumps') },
  hidden: {
    name: 'Take it out',
    all: 'Take all out',
    act: (found) => void remove(idsOf(found), { origin: 'item.remove' }),
  },
  'edge-cut-empty': {
    name: 'Put it on the edge',
    all: 'Put all on the edge',
    act: (found) => {
      const group = newId('remedy');
      for (const id of idsOf(found)) dispatch(setItemFields, { id, fields: { distanceMm: 0 } }, { origin: 'edge-cut.set', group });
    },
  },
  'bleed-missing': {
    name: 'Carry it outward',
    all: 'Carry all outward',
    act: setEdges(() => ({ bleedMm: 2 })),
  },
  'edge-sharp': { name: 'Smooth it', all: 'Smooth all', act: setEdges((cut) => ({ smoothMm: Math.max(0.5, cut.smoothMm) })) },
  'no-bridges': {
    name: 'Perforate it',
    all: 'Perforate all',
    act: setEdges(() => ({ line: { kind: 'perforated', cutMm: 8, bridgeMm: 0.8 } })),
  },
  'seam-crosses': {
    name: 'Move the seam there',
    all: 'Move all seams',
    act: moveSeams,
  },
  'field-gone': {
    name: 'Take the field out',
    all: 'Take the fields out',
    act: () => {
      const { drawing } = useDocument.getState();
      const fields = seriesOf(drawing)?.fields.filter(({ item }) => itemOf(drawing, item)) ?? [];
      dispatch(setSeries, { fields: { fields } }, { origin: 'series.field' });
    },
  },
  'opaque-ground': {
    name: 'Lift the ground',
    all: 'Lift all grounds',
    act: async (found) => {
      for (const id of new Set(idsOf(found))) {
        const item = itemOf(useDocument.getState().drawing, id);
        if (item?.kind === 'picture') await liftGround(item);
      }
    },
  },
  'edge-into-art': { name: 'Go round it too', all: 'Go round them too', act: goRoundToo },
  'lines-meet': { name: 'Part them', all: 'Part them all', act: partOrJoin },
  'edge-small': { name: 'Cut it larger', all: 'Cut all larger', act: cutLarger(leastHeldMm) },
  'off-material': { name: 'Bring it onto the material', all: 'Bring all onto it', act: bringOntoMaterial },
  'in-margin': { name: 'Bring it out of the margin', all: 'Bring all out of it', act: bringOntoMaterial },
  'lies-on-another': { name: 'Take one of them aside', all: 'Take them apart', act: takeApart },
  'no-place': { name: 'Find it a place', all: 'Find all a place', act: findPlaces },
  'nest-old': { name: 'Keep it as it lies', all: 'Keep all as they lie', act: keepNest },
  'grain-broken': { name: 'Turn it back', all: 'Turn all back', act: turnBack },
  'roll-short': { name: 'Take a longer roll', all: 'Take longer rolls', act: takeRolls },
  'film-missing': {
    name: 'Cut from the top film',
    all: 'Cut all from the top film',
    act: (found) => {
      const film = filmsOf(useDocument.getState().drawing).at(-1);
      if (film) dispatch(setFilmOfItems, { ids: idsOf(found), film: film.id }, { origin: 'item.film' });
      else toast.warning('Take a film from Stock first.');
    },
  },
};

export const remedyFor = (code: FindingCode): Remedy | undefined => REMEDIES[code];

/** Does what the remedy says; a failure is said. */
export function remedy(found: readonly LocatedFinding[]): void {
  const [first] = found;
  const how = first && remedyFor(first.finding.code);
  void Promise.resolve(how?.act(found)).catch((error: unknown) => toast.error(sentenceOf(error)));
}
