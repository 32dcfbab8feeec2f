/** The colours of a file and what they are cut from: what no film is like first, with what is nearest and the other ways out. */
import { colourDifference } from '@lorvek/core/colour';
import { addFilm, filmOf, filmsOf, itemOf, layersOf, isPrint, setFilmOfItems, type Drawing, type StockFilm } from '@lorvek/model';
import { useMemo, useState } from 'react';
import { Link } from 'react-router';
import { useShop } from '../../../api/shop.ts';
import { cuttableStock, newLayer, takeFilm } from '../../../document/films.ts';
import { filmLike, groupColours, nearestFilm, reachFor, TAKEN_WITHIN, type ColourGroup } from '../../../document/match-films.ts';
import { asOne, dispatch, newId, useDocument } from '../../../document/store.ts';
import { Button } from '../../../ui/button.tsx';
import { NumberField } from '../../../ui/fields.tsx';
import { LayerPick } from '../treatments/fields.tsx';
import type { Report } from '../../../document/import-reports.ts';

const MOST_ROWS = 40;

interface Row {
  readonly group: ColourGroup;
  readonly ids: readonly string[];
  readonly film: string | null;
  /** From the film that it is cut from; Infinity without one. */
  readonly difference: number;
}

/** The groups that are still on the drawing, those that are farthest from their film first. */
function rowsOf(groups: readonly ColourGroup[], report: Report, drawing: Drawing): Row[] {
  return groups
    .map((group): Row => {
      const ids = group.hexes.flatMap((hex) => report.byColour[hex] ?? []).filter((id) => itemOf(drawing, id));
      const layer = itemOf(drawing, ids[0] ?? '')?.layer ?? null;
      const hex = filmOf(drawing, layer)?.hex;
      return { group, ids, film: layer, difference: layer === null ? Infinity : hex ? colourDifference(group.hex, hex) : 0 };
    })
    .filter(({ ids }) => ids.length > 0)
    .sort((a, b) => (a.difference === b.difference ? 0 : b.difference - a.difference));
}

const give = (ids: readonly string[], film: string | null, undoGroup = newId('films')): void =>
  void dispatch(setFilmOfItems, { ids, film }, { origin: 'item.film', group: undoGroup });

/** Takes a film of Stock for items, as one step. */
function giveFromStock(ids: readonly string[], film: StockFilm): void {
  const undoGroup = newId('films');
  const taken = takeFilm(film, undoGroup);
  if (taken) give(ids, taken, undoGroup);
}

/** Puts items on the job's print, which is taken from Stock when there is none yet. */
function print(ids: readonly string[], media: readonly StockFilm[]): void {
  const own = layersOf(useDocument.getState().drawing).find(isPrint);
  const [medium] = media;
  const fresh = own || !medium ? undefined : newLayer(medium);
  const layer = own?.id ?? fresh?.id;
  if (layer === undefined) return;
  asOne({ origin: 'item.film', group: newId('films') }, () => {
    if (fresh) dispatch(addFilm, { film: fresh }, { origin: 'film.add' });
    dispatch(setFilmOfItems, { ids, film: layer }, { origin: 'item.film' });
  });
}

const linkLook = 'self-start text-left text-[13px] text-teal underline';

/** What is nearest, in the job and in Stock, when that is nearer than what the colour is cut from. */
function Nearest({ row }: { row: Row }) {
  const drawing = useDocument((state) => state.drawing);
  useShop((state) => state.stock);
  const films = filmsOf(drawing);
  const own = nearestFilm(row.group.hex, films);
  const stock = nearestFilm(row.group.hex, cuttableStock());
  const film = films.find(({ id }) => id === own.film);
  const shelf = cuttableStock().find(({ id }) => id === stock.film);
  const better = row.difference - 1;
  return (
    <>
      {film && film.id !== row.film && own.difference < better ? (
        <button type="button" className={linkLook} onClick={() => give(row.ids, film.id)}>
          Nearest of the job: {film.name}, ΔE {own.difference.toFixed(1)}
        </button>
      ) : null}
      {shelf && stock.difference < Math.min(better, own.difference - 0.5) ? (
        <button type="button" className={linkLook} onClick={() => giveFromStock(row.ids, shelf)}>
          Take {shelf.series} {shelf.name} from Stock, ΔE {stock.difference.toFixed(1)}
        </button>
      ) : null}
    </>
  );
}

function ColourRow({ row, spots }: { row: Row; spots: Report['spots'] }) {
  const { group, ids, film, difference } = row;
  const films = filmsOf(useDocument((state) => state.drawing));
  const spot = spots?.[group.hex];
  const isFar = film === null;
  const name = spot ?? `Colour ${group.hex}`;
  return (
    <div className="flex flex-col gap-1 border-t pt-1.5">
      <div className="flex items-center gap-2 text-[13px]">
        <span className="flex shrink-0">
          {group.hexes.slice(0, 6).map((hex) => (
            <span key={hex} className="-ml-px size-5 border border-line-strong first:ml-0" style={{ background: hex }} title={hex} />
          ))}
        </span>
        <span className="numerals min-w-0 flex-1 break-words">
          {group.hexes.length > 1 ? `${group.hexes.length} colours` : group.hex}
          {spot ? <span className="text-ink-soft"> · {spot}</span> : null}
        </span>
        <span className="shrink-0 text-right text-ink-soft">
          {ids.length} {ids.length === 1 ? 'part' : 'parts'}
          {Number.isFinite(difference) && difference > 0 ? `, ΔE ${difference.toFixed(1)}` : ''}
        </span>
      </div>
      {isFar ? <p className="text-[13px] text-amber">No film yet: hatched on the drawing until one is chosen.</p> : null}
      <LayerPick label="Cut from" layer={film} layers={films} none="No film: not cut" onChange={(next) => give(ids, next)} />
      <Nearest row={row} />
      {isFar ? (
        <Link className={linkLook} to={`/stock?colour=${encodeURIComponent(group.hex)}&name=${encodeURIComponent(name)}`}>
          Enter it in Stock…
        </Link>
      ) : null}
    </div>
  );
}

interface MergeProps {
  /** How often each colour comes. */
  readonly counts: ReadonlyMap<string, number>;
  /** How many colours are left after merging. */
  readonly groups: number;
  readonly within: number;
  onWithin(within: number): void;
  onMatch(): void;
}

/** Like colours as one, and all of them matched. */
function MergeFields({ counts, groups, within, onWithin, onMatch }: MergeProps) {
  if (counts.size <= 1) return null;
  return (
    <div className="flex items-end gap-2">
      <NumberField
        label="Merge to so many colours"
        short="Merge to"
        value={groups}
        decimals={0}
        min={1}
        max={counts.size}
        onChange={(most) => onWithin(reachFor(counts, most))}
      />
      <NumberField
        label="Merge colours nearer than ΔE"
        short="within ΔE"
        value={within}
        decimals={1}
        min={0}
        max={100}
        onChange={onWithin}
      />
      <Button
        size="small"
        onClick={onMatch}
        title="Each colour, or each group of merged ones, is cut from the nearest film of the job, however far that is"
      >
        Match all
      </Button>
    </div>
  );
}

/** Colours for which nothing in Stock is near; they can be printed instead. */
function Lacking({ rows }: { rows: readonly Row[] }) {
  const drawing = useDocument((state) => state.drawing);
  const stock = useShop((state) => state.stock);
  const far = rows.filter(({ film }) => film === null);
  if (far.length === 0) return null;
  const media = (stock ?? []).filter(({ medium }) => medium !== null);
  const shelf = cuttableStock();
  const known = [...shelf, ...filmsOf(drawing)];
  const unlike = far.filter(({ group }) => filmLike(group.hex, known) === null).length;
  const ofThem = unlike === far.length ? '' : `, ${unlike} of them`;
  const because = unlike === 0 ? '' : `${ofThem} because none is within ΔE ${TAKEN_WITHIN}`;
  return (
    <>
      <p className="border-l-4 border-amber bg-amber-wash px-2 py-1 text-[13px]">
        {rows.length} {rows.length === 1 ? 'colour' : 'colours'}, {shelf.length} films in Stock: {far.length}{' '}
        {far.length === 1 ? 'has' : 'have'} no film yet{because}.
      </p>
      {media.length > 0 ? (
        <Button
          size="small"
          title="What has no film yet is put on a print in its own colours"
          onClick={() =>
            print(
              far.flatMap(({ ids }) => ids),
              media,
            )
          }
        >
          Print them instead
        </Button>
      ) : null}
    </>
  );
}

export function ColourReport({ report }: { report: Report }) {
  const drawing = useDocument((state) => state.drawing);
  const [within, setWithin] = useState(0);
  const counts = useMemo(() => new Map(Object.entries(report.byColour).map(([hex, ids]) => [hex, ids.length])), [report]);
  const groups = useMemo(() => groupColours(counts, within), [counts, within]);
  const rows = rowsOf(groups, report, drawing);
  if (rows.length === 0) return null;
  const nearestForAll = (): void => {
    const undoGroup = newId('films');
    const films = filmsOf(drawing).map(({ id, hex }) => ({ id, hex }));
    for (const { group, ids } of rows) give(ids, nearestFilm(group.hex, films).film, undoGroup);
  };
  return (
    <>
      <Lacking rows={rows} />
      <MergeFields counts={counts} groups={groups.length} within={within} onWithin={setWithin} onMatch={nearestForAll} />
      {rows.slice(0, MOST_ROWS).map((row) => (
        <ColourRow key={row.group.hex} row={row} spots={report.spots} />
      ))}
      {rows.length > MOST_ROWS ? (
        <p className="text-[13px] text-ink-soft">{rows.length - MOST_ROWS} more colours. Merge like ones to see fewer.</p>
      ) : null}
    </>
  );
}
