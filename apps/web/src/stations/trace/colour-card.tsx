/** The colours of a trace: found or named, left out, merged by dragging, reaching as far as is said, split in two. */
import { filmsOf, type PictureItem, type StockFilm } from '@lorvek/model';
import { useState } from 'react';
import { useShop } from '../../api/shop.ts';
import { takeFilm } from '../../document/films.ts';
import { nearestFilm } from '../../document/match-films.ts';
import { newId, useDocument } from '../../document/store.ts';
import { Button } from '../../ui/button.tsx';
import { Card } from '../../ui/card.tsx';
import { Switch } from '../../ui/choices.tsx';
import { Numbers } from '../../ui/numbers.tsx';
import { PickButton } from './pick-button.tsx';
import { usePicking } from './picking.ts';
import { settingsOf } from './retouch-settings.ts';
import { splitColour } from './split-colour.ts';
import { setTrace, useTracing } from './trace-store.ts';

/** The film of the job that is like a colour, and the one of Stock, which may be nearer. */
function useFilmsLike(hex: string): { film: string | undefined; stock: { film: StockFilm; difference: number } | undefined } {
  const films = filmsOf(useDocument((state) => state.drawing));
  const shelf = useShop((state) => state.stock)?.filter(({ transfer }) => !transfer) ?? [];
  const own = nearestFilm(hex, films);
  const near = nearestFilm(hex, shelf);
  const stock = shelf.find(({ id }) => id === near.film);
  const isNearer = stock && near.difference < own.difference && films.every(({ stockId }) => stockId !== stock.id);
  return {
    film: films.find(({ id }) => id === own.film)?.name,
    stock: isNearer ? { film: stock, difference: near.difference } : undefined,
  };
}

function Row({ picture, hex, looked, onLook }: { picture: PictureItem; hex: string; looked: boolean; onLook(): void }) {
  const settings = settingsOf(picture);
  const { film, stock } = useFilmsLike(hex);
  const [over, setOver] = useState(false);
  const out = settings.leaveOut.includes(hex);
  const mergeIn = (from: string): void => {
    if (from === hex || !/^#[0-9a-f]{6}$/.test(from)) return;
    setTrace(picture, { merged: [...(settings.merged ?? []).filter(([one]) => one !== from), [from, hex]] });
  };
  return (
    <li
      draggable
      onDragStart={(event) => event.dataTransfer.setData('text/plain', hex)}
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(event) => {
        event.preventDefault();
        setOver(false);
        mergeIn(event.dataTransfer.getData('text/plain'));
      }}
      className={`flex items-center border bg-sheet ${over ? 'border-teal bg-teal-wash' : 'border-line-strong'}`}
    >
      <button
        type="button"
        aria-label={`Look at ${hex}`}
        aria-pressed={looked}
        onClick={onLook}
        className="m-1 size-6 shrink-0 border border-line-strong aria-pressed:outline-2 aria-pressed:outline-teal"
        style={{ background: hex }}
      />
      <button
        type="button"
        aria-pressed={!out}
        aria-label={`${hex}${out ? ', left out' : ''}`}
        title={out ? 'Click to trace it again' : 'Click to leave it out; drag it onto another colour to make them one'}
        onClick={() => setTrace(picture, { leaveOut: out ? settings.leaveOut.filter((one) => one !== hex) : [...settings.leaveOut, hex] })}
        className={`flex min-w-0 flex-1 items-center gap-2 px-1 py-1 text-left text-[13px] hover:bg-teal-wash ${out ? 'opacity-45 line-through' : ''}`}
      >
        <span className="numerals">{hex}</span>
        <span className="min-w-0 flex-1 truncate text-right text-ink-soft">
          {out ? 'left out' : (film ?? (stock ? `${stock.film.name}, in Stock` : 'no film like it'))}
        </span>
      </button>
    </li>
  );
}

/** What can be done with the one colour that is looked at. */
function LookedAt({ picture, hex, others }: { picture: PictureItem; hex: string; others: readonly string[] }) {
  const settings = settingsOf(picture);
  const reaches = settings.reaches ?? [];
  const reach = reaches.find(([one]) => one === hex)?.[1] ?? 0;
  const setReach = (value: number): void => {
    usePicking.setState({ looked: { hex, reach: value } });
    setTrace(picture, { reaches: [...reaches.filter(([one]) => one !== hex), ...(value > 0 ? [[hex, value] as [string, number]] : [])] });
  };
  const { stock } = useFilmsLike(hex);
  const cleaned = useTracing((state) => state.answer?.cleaned);
  const ground = useTracing((state) => state.answer?.ground);
  const split = (): void => {
    const two = cleaned && splitColour(cleaned, hex, [...others, ...(ground ? [ground] : [])]);
    if (two) setTrace(picture, { named: [...others, ...(ground ? [ground] : []), ...two].slice(0, 64) });
  };
  return (
    <div className="flex flex-col gap-1.5 border-l-4 border-teal bg-teal-wash px-2 py-1.5">
      <label className="flex items-center gap-2 text-[13px]">
        Reach
        <input
          type="range"
          min={0}
          max={60}
          step={0.5}
          value={reach}
          aria-label={`Reach of ${hex}`}
          className="min-w-0 flex-1 accent-teal"
          onChange={(event) => setReach(Number(event.target.value))}
        />
        <span className="numerals w-14 text-right">{reach === 0 ? 'nearest' : `ΔE ${reach}`}</span>
      </label>
      <div className="flex flex-wrap gap-1.5">
        {others
          .filter((one) => one !== hex)
          .map((one) => (
            <button
              key={one}
              type="button"
              aria-label={`Merge into ${one}`}
              title={`Merge into ${one}`}
              className="size-6 border border-line-strong hover:outline-2 hover:outline-teal"
              style={{ background: one }}
              onClick={() => setTrace(picture, { merged: [...(settings.merged ?? []).filter(([from]) => from !== hex), [hex, one]] })}
            />
          ))}
        <Button size="small" onClick={split} disabled={!cleaned}>
          Split in two
        </Button>
      </div>
      <p className="text-[13px] text-ink-soft">A swatch merges this colour into that one.</p>
      {stock ? (
        <Button size="small" onClick={() => takeFilm(stock.film, newId('film'))}>
          Take {stock.film.name} from Stock, ΔE {stock.difference.toFixed(1)}
        </Button>
      ) : null}
    </div>
  );
}

/** How many colours: as many as are found, so many at most, or those that were named. */
function HowMany({ picture }: { picture: PictureItem }) {
  const settings = settingsOf(picture);
  const answer = useTracing((state) => state.answer);
  const named = settings.named ?? [];
  const found = answer?.layers.length ?? 0;
  return (
    <>
      {named.length > 0 ? (
        <div className="flex items-center justify-between gap-2 text-[13px]">
          <span>{named.length} colours named by hand</span>
          <Button size="small" onClick={() => setTrace(picture, { named: [], merged: [], reaches: [] })}>
            Back to those that are found
          </Button>
        </div>
      ) : (
        <Switch
          label="As many as are found"
          checked={settings.colours === null}
          onChange={(on) => setTrace(picture, { colours: on ? null : Math.max(1, found + (answer?.ground ? 1 : 0)) })}
        />
      )}
      {settings.colours === null || named.length > 0 ? null : (
        <Numbers
          columns={1}
          values={{ colours: settings.colours ?? 1 }}
          change={({ colours = 1 }) => setTrace(picture, { colours: Math.round(colours) })}
          asked={[{ field: 'colours', label: 'Colours at most, the ground’s too', as: 'level', min: 1, max: 64 }]}
        />
      )}
    </>
  );
}

/** Colours that were merged into others, to be parted again. */
function Merged({ picture }: { picture: PictureItem }) {
  const merged = settingsOf(picture).merged ?? [];
  if (merged.length === 0) return null;
  return (
    <div className="flex flex-wrap items-center gap-2 text-[13px] text-ink-soft">
      {merged.map(([from, to]) => (
        <span key={from} className="flex items-center gap-0.5">
          <span className="size-4 border border-line-strong" style={{ background: from }} />→
          <span className="size-4 border border-line-strong" style={{ background: to }} />
        </span>
      ))}
      <Button size="small" onClick={() => setTrace(picture, { merged: [] })}>
        Part them again
      </Button>
    </div>
  );
}

export function ColourCard({ picture }: { picture: PictureItem }) {
  const settings = settingsOf(picture);
  const { answer, seen } = useTracing();
  const looked = usePicking((state) => state.looked?.hex);
  const naming = usePicking((state) => state.picking === 'name');
  const look = (hex: string): void => {
    const reach = (settings.reaches ?? []).find(([one]) => one === hex)?.[1] ?? 0;
    usePicking.setState({ looked: looked === hex ? undefined : { hex, reach } });
  };
  return (
    <Card title="Colours">
      <HowMany picture={picture} />
      {answer?.ground ? (
        <div className="flex items-center gap-2 text-[13px] text-ink-soft">
          <span className="size-5 border border-line-strong" style={{ background: answer.ground }} /> ground, not traced
        </div>
      ) : null}
      <ul className="flex flex-col gap-1">
        {seen.map((hex) => (
          <Row key={hex} picture={picture} hex={hex} looked={looked === hex} onLook={() => look(hex)} />
        ))}
      </ul>
      {looked && seen.includes(looked) ? <LookedAt picture={picture} hex={looked} others={seen} /> : null}
      <Merged picture={picture} />
      <PickButton what="name">Name a colour on the picture</PickButton>
      {naming ? <p className="text-[13px] text-ink-soft">Click on the original; the colour there joins the list.</p> : null}
    </Card>
  );
}
