/** Stock: films by series, with their rolls. */
import type { StockFilm, StockFilmChange } from '@lorvek/model';
import { bounds, parsePath } from '@lorvek/core/geometry';
import { Copy, Download, MoreHorizontal, Pencil, Plus, Tag, Trash2, Upload } from 'lucide-react';
import { useEffect, useState } from 'react';
import { useSearchParams } from 'react-router';
import { api } from '../../api/client.ts';
import { loadStock, useShop } from '../../api/shop.ts';
import { Button, IconButton } from '../../ui/button.tsx';
import { Dialog, DialogButtons } from '../../ui/dialog.tsx';
import { NumberField } from '../../ui/fields.tsx';
import { Menu } from '../../ui/menu.tsx';
import { tellFailure } from '../../ui/tell.ts';
import { EditFilm, NewFilm, NewRollForm, type Wished } from './film-dialogs.tsx';
import { ListDialog } from './list-dialog.tsx';
import { Supplies } from './supplies.tsx';
import { UsageChart } from './usage-chart.tsx';
import { Reckoning } from './reckoning.tsx';
import { Empty, ShopPage } from '../shop-page.tsx';

type Doing = { readonly kind: 'new' | 'list' } | { readonly kind: 'copy' | 'edit' | 'roll' | 'remove'; readonly film: StockFilm };

function FilmMenu({ film, onDo }: { film: StockFilm; onDo(doing: Doing): void }) {
  const entries = [
    ['roll', 'One more roll', Plus],
    ['edit', 'Name and colour', Pencil],
    ['copy', 'Copy it', Copy],
    ['remove', 'Take it out of Stock', Trash2],
  ] as const;
  const trigger = (
    <IconButton label={`More for ${film.series} ${film.name}`}>
      <MoreHorizontal size={15} />
    </IconButton>
  );
  return (
    <Menu
      trigger={trigger}
      entries={entries.map(([kind, text, Icon]) => ({
        id: kind,
        content: (
          <>
            <Icon size={14} /> {text}
          </>
        ),
        onSelect: () => onDo({ kind, film }),
      }))}
    />
  );
}

/** Is less left on all its rolls than the shop wants to have? */
const isShort = ({ reorderMm, rolls }: StockFilm): boolean =>
  typeof reorderMm === 'number' && rolls.reduce((sum, { lengthLeftMm, isOffcut }) => sum + (isOffcut ? 0 : lengthLeftMm), 0) < reorderMm;

/** The shape of an offcut, small. */
function Shape({ path }: { path: string }) {
  const { minX, minY, maxX, maxY } = bounds(parsePath(path));
  return (
    <svg viewBox={`${minX} ${minY} ${maxX - minX} ${maxY - minY}`} className="h-7 w-14 shrink-0" role="img" aria-label="Its shape">
      <path d={path} transform={`matrix(1 0 0 -1 0 ${minY + maxY})`} fill="#0d5c5f22" stroke="#0d5c5f" vectorEffect="non-scaling-stroke" />
    </svg>
  );
}

/** A roll or offcut: how wide, how much is left, its label. */
function RollRow({ roll, filmName }: { roll: StockFilm['rolls'][number]; filmName: string }) {
  return (
    <li className="flex items-center justify-end gap-3">
      {roll.outline ? <Shape path={roll.outline} /> : null}
      {roll.isOffcut ? <span className="border border-line-strong px-1.5 text-xs">offcut</span> : null}
      <span className="numerals w-20 text-right">{Math.round(roll.widthMm)} mm</span>
      <div className="w-36">
        <NumberField
          label={`Length left on the ${roll.widthMm} mm roll`}
          short="left"
          value={roll.lengthLeftMm / 1000}
          suffix="m"
          min={0}
          max={1000}
          onChange={(metres) =>
            void api
              .setRollLength(roll.id, metres * 1000)
              .then(loadStock)
              .catch(tellFailure)
          }
        />
      </div>
      <a
        href={`/api/stock/rolls/${encodeURIComponent(roll.id)}/label.pdf`}
        download
        aria-label={`Label for the ${Math.round(roll.widthMm)} mm ${roll.isOffcut ? 'offcut' : 'roll'} of ${filmName}`}
        title="Label, PDF"
        className="inline-flex size-8 items-center justify-center hover:bg-teal-wash"
      >
        <Tag size={14} />
      </a>
      <IconButton
        label={`Take the ${roll.widthMm} mm roll of ${filmName} out of Stock`}
        onClick={() => void api.removeRoll(roll.id).then(loadStock).catch(tellFailure)}
      >
        <Trash2 size={14} />
      </IconButton>
    </li>
  );
}

interface FieldsProps {
  readonly film: StockFilm;
  change(fields: StockFilmChange): void;
}

/** What of it can be weeded. */
function WeedFields({ film, change }: FieldsProps) {
  return (
    <div className="ml-auto flex w-36 flex-col gap-1">
      <NumberField
        label={`Smallest part of ${film.name}`}
        short="Smallest part"
        value={film.smallestPartMm}
        suffix="mm"
        min={0}
        max={100}
        onChange={(smallestPartMm) => change({ smallestPartMm })}
      />
      <NumberField
        label={`Thinnest width of ${film.name}`}
        short="Thinnest"
        value={film.thinnestMm}
        suffix="mm"
        min={0}
        max={20}
        onChange={(thinnestMm) => change({ thinnestMm })}
      />
    </div>
  );
}

/** What it costs, and when it is ordered again. */
function OrderFields({ film, change }: FieldsProps) {
  return (
    <div className="ml-auto flex w-32 flex-col gap-1">
      <NumberField
        label={`Order ${film.name} again below`}
        short="Again below"
        hint="Left blank, or 0: nobody watches"
        unsaid="never"
        value={(film.reorderMm ?? 0) / 1000}
        suffix="m"
        min={0}
        max={10_000}
        onChange={(metres) => change({ reorderMm: metres > 0 ? metres * 1000 : null })}
      />
      <NumberField
        label={`Price per metre of ${film.name}`}
        short="Price"
        value={film.pricePerMetre}
        min={0}
        max={100_000}
        onChange={(pricePerMetre) => change({ pricePerMetre })}
      />
    </div>
  );
}

function FilmRow({ film, onDo }: { film: StockFilm; onDo(doing: Doing): void }) {
  const change = (fields: StockFilmChange): void => void api.changeStock(film.id, fields).then(loadStock).catch(tellFailure);
  return (
    <tr className="border-b align-top last:border-b-0">
      <td className="w-24 p-2">
        <span className="block h-10 w-20 border border-line-strong" style={{ background: film.hex }} />
      </td>
      <td className="p-2">
        <span className="block font-semibold">{film.name}</span>
        {isShort(film) ? <span className="mr-2 bg-amber px-1.5 text-xs text-sheet">order again</span> : null}
        <span className="text-[13px] text-ink-soft">
          {film.medium ? `Print medium, ${film.medium}` : film.transfer ? 'Transfer film' : 'Sign film'}
          {film.press ? ` · press ${film.press.heatC} °C, ${film.press.seconds} s, ${film.press.pressure}, peel ${film.press.peel}` : ''}
        </span>
      </td>
      <td className="p-2">
        <WeedFields film={film} change={change} />
      </td>
      <td className="p-2">
        <OrderFields film={film} change={change} />
      </td>
      <td className="p-2">
        <ul className="flex flex-col gap-1">
          {film.rolls.map((roll) => (
            <RollRow key={roll.id} roll={roll} filmName={film.name} />
          ))}
          {film.rolls.length === 0 ? (
            <li className="text-right">
              <Button size="small" onClick={() => onDo({ kind: 'roll', film })}>
                <Plus size={13} /> Roll
              </Button>
            </li>
          ) : null}
        </ul>
      </td>
      <td className="w-10 p-2 text-right">
        <FilmMenu film={film} onDo={onDo} />
      </td>
    </tr>
  );
}

/** The films of a series. */
function SeriesTable({ name, films, onDo }: { name: string; films: readonly StockFilm[]; onDo(doing: Doing): void }) {
  return (
    <section className="panel">
      <h2 className="border-b px-3 py-2 text-base font-semibold">{name}</h2>
      <table className="w-full">
        <thead>
          <tr className="rule-label border-b text-left">
            <th className="p-2 font-semibold">Colour</th>
            <th className="p-2 font-semibold">Film</th>
            <th className="p-2 text-right font-semibold">Can be weeded</th>
            <th className="p-2 text-right font-semibold">Price / m, level</th>
            <th className="p-2 text-right font-semibold">Rolls</th>
            <th className="p-2" />
          </tr>
        </thead>
        <tbody>
          {films.map((film) => (
            <FilmRow key={film.id} film={film} onDo={onDo} />
          ))}
        </tbody>
      </table>
    </section>
  );
}

function Actions({ short, onDo }: { short: number; onDo(doing: Doing): void }) {
  return (
    <>
      {short > 0 ? <span className="bg-amber px-2 text-[13px] leading-6 text-sheet">{short} to order again</span> : null}
      <a
        href="/api/stock/list.csv"
        download
        className="inline-flex h-8 items-center gap-1.5 border border-line-strong bg-sheet px-3 hover:bg-teal-wash"
      >
        <Download size={15} /> List
      </a>
      <Button onClick={() => onDo({ kind: 'list' })}>
        <Upload size={15} /> List in
      </Button>
      <Button look="main" onClick={() => onDo({ kind: 'new' })}>
        <Plus size={15} /> Film
      </Button>
    </>
  );
}

function RemoveFilm({ film, onClose }: { film: StockFilm; onClose(): void }) {
  const remove = (): void => {
    onClose();
    void api.removeStock(film.id).then(loadStock).catch(tellFailure);
  };
  return (
    <Dialog
      open
      title={`Take ${film.series} ${film.name} out of Stock?`}
      text="Its rolls go with it. Jobs that use it keep its colour, and say that there is no roll."
      onClose={onClose}
    >
      <DialogButtons action="Take it out" cancel="Leave it" look="stop" onAct={remove} onClose={onClose} />
    </Dialog>
  );
}

/** The dialog of what is being done. */
function Asked({ doing, wished, onClose }: { doing: Doing; wished: Wished | undefined; onClose(): void }) {
  switch (doing.kind) {
    case 'new':
      return <NewFilm wished={wished} onClose={onClose} />;
    case 'list':
      return <ListDialog onClose={onClose} />;
    case 'copy':
      return <NewFilm from={doing.film} onClose={onClose} />;
    case 'edit':
      return <EditFilm film={doing.film} onClose={onClose} />;
    case 'roll':
      return <NewRollForm film={doing.film} onClose={onClose} />;
    case 'remove':
      return <RemoveFilm film={doing.film} onClose={onClose} />;
  }
}

/** A colour that a job lacks comes with the address. */
function wishOf(search: URLSearchParams): Wished | undefined {
  const hex = search.get('colour');
  return hex && /^#[0-9a-f]{6}$/.test(hex) ? { hex, name: (search.get('name') ?? '').slice(0, 80) } : undefined;
}

export function StockPage() {
  const stock = useShop((state) => state.stock);
  const films = stock ?? [];
  const [search, setSearch] = useSearchParams();
  const wished = wishOf(search);
  const [doing, setDoing] = useState<Doing | undefined>(wished ? { kind: 'new' } : undefined);
  const done = (): void => {
    setDoing(undefined);
    if (wished) setSearch({}, { replace: true });
  };
  useEffect(() => void loadStock(), []);
  const series = [...new Set(films.map((film) => film.series))];
  return (
    <ShopPage title="Stock" actions={<Actions short={films.filter(isShort).length} onDo={setDoing} />}>
      {stock?.length === 0 ? (
        <Empty title="Stock is empty">
          <p className="text-ink-soft">Enter the films you have, with their rolls. Jobs take their colours from here.</p>
        </Empty>
      ) : null}
      <div className="flex flex-col gap-5">
        {series.map((name) => (
          <SeriesTable key={name} name={name} films={films.filter((film) => film.series === name)} onDo={setDoing} />
        ))}
      </div>
      <Supplies />
      <UsageChart />
      <Reckoning />
      {doing ? <Asked doing={doing} wished={wished} onClose={done} /> : null}
    </ShopPage>
  );
}
