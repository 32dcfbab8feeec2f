/** What is wrong with work on its material: no roll, off it, in its margin, on one another, turned against the grain, without a place. */
import { bounds, formatPath, mapBox, mapOutline, mapPoint, mappedBounds, type Matrix, type Outline } from '@lorvek/core/geometry';
import { checkFilm, checkSheet, type FilmLimits, type Finding, type Spot } from '@lorvek/core/check';
import type { SheetFrame } from '@lorvek/core/sheet';
import { LRUCache } from 'lru-cache';
import type { LayUp } from '../records/lay-up.ts';
import type { Film, Layer } from '../records/layers.ts';
import { isPrint } from '../queries/queries.ts';
import type { StockFilm } from '../api/shop.ts';
import type { Filled } from './lay-fill.ts';
import { allowsTurn, outlineOfPart, turnOf, type LayPart, type Placement } from './lay-places.ts';
import type { Material, RollChoice } from './material.ts';
import { pairsThatMeet, sharedBy } from './lying-on.ts';
import { rowOfPart } from './series-parts.ts';
import { hashOf } from './sheet-code.ts';

const NO_ROLL: Record<Exclude<RollChoice['how'], 'named' | 'only' | 'reported'>, (film: string) => string> = {
  open: (film) => `No roll is chosen for ${film}, and more than one would do.`,
  gone: (film) => `The roll that was chosen for ${film} is no longer in Stock.`,
  none: (film) => `There is no roll of ${film} in Stock.`,
};

/** Is there a roll, and does the work fit on what is left of it? */
export function findRoll(layer: Layer, { how }: RollChoice, ids: readonly string[]): Finding[] {
  if (how === 'named' || how === 'only' || how === 'reported') return [];
  return [{ code: 'no-roll', level: 'stop', text: NO_ROLL[how](`${layer.series} ${layer.name}`), parts: ids.slice(0, 50) }];
}

/** A finding of the drawing where its work lies on a sheet. */
export function onSheetAt(map: Matrix | undefined, finding: Finding): Finding {
  if (!map) return finding;
  const { place, box } = finding;
  return { ...finding, place: place && mapPoint(map, place), box: box && mapBox(map, box) };
}

/** What can be weeded from a film, as Stock says. */
function limitsOf({ stockId }: Film, stock: readonly StockFilm[]): FilmLimits | undefined {
  const film = stock.find(({ id }) => id === stockId);
  return film && { smallestPartMm: film.smallestPartMm, thinnestMm: film.thinnestMm };
}

/** Parts as they lie on their sheet. */
export interface Laid {
  readonly layer: Layer;
  readonly parts: ReadonlyMap<string, LayPart>;
  /** Those of one sheet. */
  readonly placements: readonly Placement[];
  readonly frame: SheetFrame;
  readonly material: Material;
  readonly record: LayUp;
}

/** What was found of a piece of a series, by its shape: rows are many, and most of them do not change. */
const ofShapes = new LRUCache<string, readonly Finding[]>({ max: 10_000 });
/** Thin spots of letters, which names have in common. */
const ofLetters = new LRUCache<string, readonly Spot[]>({ max: 4000 });
const MOST_OF_ROWS = 200;

/** The shape of a part, wherever it lies, as short as to be kept. */
const shapeKey = ({ sources }: LayPart, limits: FilmLimits | undefined): string =>
  JSON.stringify([
    limits,
    sources.map(({ id, line, outline }) => {
      const text = formatPath(outline, 3);
      // twice, from different starts: one of 32 bits alone would be met twice in a while
      return [id, line?.kind, hashOf(text), hashOf(text, 0x9e3779b9), text.length];
    }),
  ]);

/** Where looking ends when very much was found already. */
const fromHereOn = ({ sources }: LayPart): Finding => ({
  code: 'not-worked-out',
  level: 'warning',
  text: 'from here on rows were not looked at: very much was found before. Put that right, and they are.',
  parts: sources.map(({ id }) => id).slice(0, 20),
});

/** Each piece of a series by itself: the fill keeps them apart. */
function checkRows(parts: readonly LayPart[], limits: FilmLimits | undefined): { part: LayPart; finding: Finding }[] {
  const found: { part: LayPart; finding: Finding }[] = [];
  for (const part of parts) {
    if (found.length >= MOST_OF_ROWS) {
      found.push({ part, finding: fromHereOn(part) });
      break;
    }
    const cut = part.sources.filter(({ line }) => line !== undefined);
    // a row that leaves a field empty is told by its row
    if (cut.length === 0) continue;
    const key = shapeKey(part, limits);
    let own = ofShapes.get(key);
    if (!own) ofShapes.set(key, (own = checkFilm(cut, limits, ofLetters)));
    for (const finding of own) found.push({ part, finding });
  }
  return found;
}

/** Parts too fine for the film, over the edge, in the margin. */
export function checkLaid({ layer, parts, placements, frame, material, record }: Laid, stock: readonly StockFilm[]): Finding[] {
  const sourcesOf = ({ part }: Placement, all: boolean) => (parts.get(part)?.sources ?? []).filter(({ line }) => all || line !== undefined);
  const boxesOf = (one: Placement) =>
    sourcesOf(one, isPrint(layer)).map(({ id, name, outline }) => ({ id, name, box: mappedBounds(one.map, outline) }));
  const frames = frame.weedBoxes.map((outline, i) => ({ id: `weed-${i}`, name: 'Weed box', box: bounds(outline) }));
  const once = [...new Map(placements.map((placement) => [placement.part, placement])).values()];
  const limits = layer.type === 'film' ? limitsOf(layer, stock) : undefined;
  const isRows = once.some(({ part }) => rowOfPart(part) !== undefined);
  const mapOf = new Map(once.map(({ part, map }) => [part, map]));
  const ofRows = (): Finding[] =>
    checkRows(
      once.flatMap(({ part }) => parts.get(part) ?? []),
      limits,
    ).map(({ part, finding }) => ({
      ...onSheetAt(mapOf.get(part.id), finding),
      text: `Row ${part.name}: ${finding.text}`,
      row: rowOfPart(part.id),
    }));
  const off = checkSheet([...placements.flatMap(boxesOf), ...frames], material.lengthMm, material.widthMm);
  const { minX, minY } = frame.box;
  const into = Math.max(frame.overWidthMm, frame.overLengthMm, record.marginMm - minX, record.marginMm - minY);
  return [
    ...(layer.type === 'film'
      ? isRows
        ? ofRows()
        : checkFilm(
            once.flatMap((one) =>
              sourcesOf(one, false).map(({ id, name, outline }) => ({ id, name, outline: mapOutline(one.map, outline) })),
            ),
            limits,
          )
      : []),
    ...off,
    ...(off.length === 0 && into > 0.005 && into <= record.marginMm
      ? [
          {
            code: 'in-margin',
            level: 'warning',
            text: `The work reaches ${into.toFixed(1)} mm into the margin.`,
            box: frame.box,
            parts: [],
          } as const,
        ]
      : []),
  ];
}

/** So many pairs of pieces are looked at; that there are more is said. */
const MOST_PAIRS = 2000;

/** Copies that lie on one another. Only where somebody or an older layout put them: a fill keeps them apart. */
export function findOverlaps({ parts, placements }: Laid): Finding[] {
  if (!placements.some(({ moved }) => moved)) return [];
  const lie = placements.map(({ part, map }) => {
    const own = parts.get(part);
    return own ? mapOutline(map, outlineOfPart(own)) : { contours: [] };
  });
  const pairs = pairsThatMeet(lie);
  const name = (n: number): string => parts.get(placements[n]?.part ?? '')?.name ?? '';
  const idsOf = (all: readonly number[]): string[] => [
    ...new Set(all.flatMap((n) => parts.get(placements[n]?.part ?? '')?.sources.map(({ id }) => id) ?? [])),
  ];
  const found = pairs.slice(0, MOST_PAIRS).flatMap(([i, j]): Finding[] => {
    const shared = sharedBy(lie[i] as Outline, lie[j] as Outline);
    if (!shared) return [];
    const box = bounds(shared);
    return [
      {
        code: 'lies-on-another',
        level: 'stop',
        text: `“${name(i)}” and “${name(j)}” lie on one another on the material.`,
        place: { x: (box.minX + box.maxX) / 2, y: (box.minY + box.maxY) / 2 },
        box,
        parts: idsOf([i, j]).slice(0, 20),
      },
    ];
  });
  const rest = pairs.slice(MOST_PAIRS);
  if (rest.length > 0)
    found.push({
      code: 'not-worked-out',
      level: 'warning',
      text: `Whether pieces lie on one another was looked at for ${MOST_PAIRS} pairs that meet; ${rest.length} more were not looked at. Lay them up again to be sure.`,
      parts: idsOf(rest.flat()).slice(0, 50),
    });
  return found;
}

/** Parts that are turned against the grain. */
export function findGrain({ parts, placements, record }: Laid): Finding[] {
  const { grain } = record;
  if (!grain) return [];
  const turned = placements.filter(({ map }) => !allowsTurn(grain, turnOf(map)));
  const [first] = turned;
  if (!first) return [];
  const rule = grain === 'half' ? 'only half turns' : 'no turns';
  return [
    {
      code: 'grain-broken',
      level: 'warning',
      text: `${turned.length} ${turned.length === 1 ? 'piece is' : 'pieces are'} turned by ${Math.round(turnOf(first.map))}°, and the grain of this material allows ${rule}.`,
      parts: [...new Set(turned.flatMap(({ part }) => parts.get(part)?.sources.map(({ id }) => id) ?? []))].slice(0, 50),
    },
  ];
}

/** Copies without a place, and a nest that was found for something else. */
export function findMissing(parts: readonly LayPart[], { missing, nest }: Filled): Finding[] {
  const names = missing.slice(0, 3).map(({ part }) => `“${parts.find(({ id }) => id === part)?.name ?? part}”`);
  const count = missing.reduce((sum, { copies }) => sum + copies, 0);
  const ids = missing.flatMap(({ part }) => parts.find(({ id }) => id === part)?.sources.map(({ id }) => id) ?? []);
  return [
    ...(count > 0
      ? [
          {
            code: 'no-place',
            level: 'stop',
            text: `${count} ${count === 1 ? 'piece has' : 'pieces have'} no place on the material: ${names.join(', ')}${missing.length > 3 ? ' …' : ''}. ${nest ? 'Nest again, or take them off the list.' : 'It is too large for it: take a wider roll, or turn it.'}`,
            parts: [...new Set(ids)].slice(0, 50),
          } as const,
        ]
      : []),
    ...(nest?.isOld
      ? [
          {
            code: 'nest-old',
            level: 'warning',
            text: 'The nest was found for other parts, another material or other rules. Renew it on Lay up.',
            parts: [],
          } as const,
        ]
      : []),
  ];
}

/** All sheets together are longer than what is left of the roll. */
export function findShort(sheets: readonly { readonly usedLengthMm: number }[], { roll }: RollChoice, ids: readonly string[]): Finding[] {
  const sum = sheets.reduce((total, { usedLengthMm }) => total + usedLengthMm, 0);
  if (!roll || sheets.length < 2 || sum <= roll.lengthLeftMm + 0.01) return [];
  return [
    {
      code: 'roll-short',
      level: 'stop',
      text: `${sheets.length} sheets need ${(sum / 1000).toFixed(2)} m together, and ${(roll.lengthLeftMm / 1000).toFixed(2)} m are left on the roll.`,
      parts: ids.slice(0, 50),
    },
  ];
}
