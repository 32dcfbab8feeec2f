/** The import report on the ticket: what came in and was changed; the file's colours and the films they are cut from. */
import { filmOf, filmsOf, itemOf, pageOf, setFilmOfItems } from '@lorvek/model';
import { colourDifference } from '@lorvek/core/colour';
import { describeLength } from '@lorvek/core/units';
import { useMemo, useState } from 'react';
import { useShop } from '../../../api/shop.ts';
import { dispatch, newId, useDocument } from '../../../document/store.ts';
import { Button } from '../../../ui/button.tsx';
import { Card, Figure } from '../../../ui/card.tsx';
import { NumberField } from '../../../ui/fields.tsx';
import { FilmOfTreatment } from '../treatments/fields.tsx';
import { takeFilm } from '../../../document/films.ts';
import { groupColours, nearestFilm, type ColourGroup } from '../../../document/match-films.ts';
import { putAway, useReports, type Report } from './reports.ts';

const MOST_ROWS = 40;

/** The film of Stock that would be nearer than what the colour is cut from. */
function useNearer(hex: string, filmHex: string | undefined) {
  const stock = useShop((state) => state.stock) ?? [];
  const films = stock.filter((film) => !film.transfer);
  const { film, difference } = nearestFilm(hex, films);
  const own = filmHex === undefined ? Infinity : colourDifference(hex, filmHex);
  const found = films.find(({ id }) => id === film);
  return found && difference < own - 1 ? { film: found, difference } : undefined;
}

function ColourRow({ group, report }: { group: ColourGroup; report: Report }) {
  const drawing = useDocument((state) => state.drawing);
  const ids = group.hexes.flatMap((hex) => report.byColour[hex] ?? []).filter((id) => itemOf(drawing, id));
  const film = itemOf(drawing, ids[0] ?? '')?.layer ?? null;
  const filmHex = filmOf(drawing, film)?.hex;
  const nearer = useNearer(group.hex, filmHex);
  const give = (next: string | null, undoGroup = newId('films')): void =>
    void dispatch(setFilmOfItems, { ids, film: next }, { origin: 'item.film', group: undoGroup });
  if (ids.length === 0) return null;
  return (
    <div className="flex flex-col gap-1 border-t pt-1.5">
      <div className="flex items-center gap-2 text-[13px]">
        <span className="flex shrink-0">
          {group.hexes.slice(0, 6).map((hex) => (
            <span key={hex} className="-ml-px size-5 border border-line-strong first:ml-0" style={{ background: hex }} title={hex} />
          ))}
        </span>
        <span className="numerals">{group.hexes.length > 1 ? `${group.hexes.length} colours` : group.hex}</span>
        <span className="flex-1 text-right text-ink-soft">
          {ids.length} {ids.length === 1 ? 'part' : 'parts'}
          {filmHex ? `, ΔE ${colourDifference(group.hex, filmHex).toFixed(1)}` : ''}
        </span>
      </div>
      <FilmOfTreatment film={film} onChange={give} />
      {nearer ? (
        <button
          type="button"
          className="self-start text-left text-[13px] text-teal underline"
          onClick={() => {
            const undoGroup = newId('films');
            const taken = takeFilm(nearer.film, undoGroup);
            if (taken) give(taken, undoGroup);
          }}
        >
          Take {nearer.film.series} {nearer.film.name} from Stock, ΔE {nearer.difference.toFixed(1)}
        </button>
      ) : null}
    </div>
  );
}

export function ImportCard({ id }: { id: string }) {
  const report = useReports((state) => state.reports[id]);
  const drawing = useDocument((state) => state.drawing);
  const { unit } = pageOf(drawing);
  const [within, setWithin] = useState(0);
  const groups = useMemo(
    () => groupColours(new Map(Object.entries(report?.byColour ?? {}).map(([hex, ids]) => [hex, ids.length])), within),
    [report, within],
  );
  if (!report) return null;
  const say = (mm: number): string => describeLength(Math.round(mm * 100) / 100, unit);
  const nearestForAll = (): void => {
    const group = newId('films');
    const films = filmsOf(drawing).map(({ id: film, hex }) => ({ id: film, hex }));
    for (const { hex, hexes } of groups) {
      const ids = hexes.flatMap((one) => report.byColour[one] ?? []).filter((item) => itemOf(drawing, item));
      if (ids.length > 0) dispatch(setFilmOfItems, { ids, film: nearestFilm(hex, films).film }, { origin: 'item.film', group });
    }
  };
  return (
    <Card title="Import report">
      <Figure name="From">{report.file}</Figure>
      <Figure name="Page">
        {say(report.widthMm)} × {say(report.heightMm)}
      </Figure>
      <Figure name="Parts">{report.parts}</Figure>
      {report.remarks.map(({ code, text, count }) => (
        <p key={code} className="border-l-4 border-amber bg-amber-wash px-2 py-1 text-[13px]">
          {text}
          {count > 1 ? ` (${count} times)` : ''}
        </p>
      ))}
      {Object.keys(report.byColour).length > 1 ? (
        <div className="flex items-center gap-2">
          <NumberField
            label="Merge colours nearer than ΔE"
            short="Merge within ΔE"
            value={within}
            decimals={1}
            min={0}
            max={60}
            onChange={setWithin}
          />
          <Button
            size="small"
            onClick={nearestForAll}
            title="Each colour, or each group of merged ones, is cut from the nearest film of the job"
          >
            Match all
          </Button>
        </div>
      ) : null}
      {groups.slice(0, MOST_ROWS).map((group) => (
        <ColourRow key={group.hex} group={group} report={report} />
      ))}
      {groups.length > MOST_ROWS ? (
        <p className="text-[13px] text-ink-soft">{groups.length - MOST_ROWS} more colours. Merge like ones to see fewer.</p>
      ) : null}
      <Button size="small" onClick={() => putAway(id)}>
        Put the report away
      </Button>
    </Card>
  );
}
