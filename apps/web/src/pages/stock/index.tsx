/** Stock: films by series, with their rolls. */
import type { StockFilm, StockFilmChange } from '@lorvek/model';
import { bounds, parsePath } from '@lorvek/core/geometry';
import { Copy, Download, MoreHorizontal, Pencil, Plus, Tag, Trash2, Upload } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { useEffect, useState } from 'react';
import { useSearchParams } from 'react-router';
import { api } from '../../api/client.ts';
import { loadStock, useShop } from '../../api/shop.ts';
import { Button, IconButton } from '../../ui/button.tsx';
import { Dialog } from '../../ui/dialog.tsx';
import { NumberField } from '../../ui/fields.tsx';
import { tellFailure } from '../../ui/tell.ts';
import { EditFilm, NewFilm, NewRollForm } from './film-dialogs.tsx';
import { ListDialog } from './list-dialog.tsx';
import { Supplies } from './supplies.tsx';
import { UsageChart } from './usage-chart.tsx';
import { Reckoning } from './reckoning.tsx';
import { Empty, ShopPage } from '../shop-page.tsx';

type Doing = { readonly kind: 'new' | 'list' } | { readonly kind: 'copy' | 'edit' | 'roll' | 'remove'; readonly film: StockFilm };

const MENU_ITEM = 'flex h-8 items-center gap-2 px-3 outline-none select-none data-[highlighted]:bg-teal-wash';

function FilmMenu({ film, onDo }: { film: StockFilm; onDo(doing: Doing): void }) {
  const entries = [
    ['roll', 'One more roll', Plus],
    ['edit', 'Name and colour', Pencil],
    ['copy', 'Copy it', Copy],
    ['remove', 'Take it out of Stock', Trash2],
  ] as const;
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        className="inline-flex size-7 items-center justify-center hover:bg-teal-wash"
        aria-label={`More for ${film.series} ${film.name}`}
      >
        <MoreHorizontal size={15} />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" className="z-50 min-w-44 border border-line-strong bg-sheet py-1 shadow-md">
          {entries.map(([kind, text, Icon]) => (
            <DropdownMenu.Item key={kind} className={MENU_ITEM} onSelect={() => onDo({ kind, film })}>
              <Icon size={14} /> {text}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
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
      </td>
      <td className="p-2">
        <div className="ml-auto flex w-32 flex-col gap-1">
          <NumberField
            label={`Order ${film.name} again below`}
            short="Again below"
            hint="0: nobody watches"
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

export function StockPage() {
  const stock = useShop((state) => state.stock);
  const [search, setSearch] = useSearchParams();
  const hex = search.get('colour');
  const wished = hex && /^#[0-9a-f]{6}$/.test(hex) ? { hex, name: (search.get('name') ?? '').slice(0, 80) } : undefined;
  const [doing, setDoing] = useState<Doing | undefined>(wished ? { kind: 'new' } : undefined);
  const done = (): void => {
    setDoing(undefined);
    if (wished) setSearch({}, { replace: true });
  };
  useEffect(() => void loadStock(), []);
  const short = (stock ?? []).filter(isShort);
  const series = [...new Set((stock ?? []).map((film) => film.series))];
  return (
    <ShopPage
      title="Stock"
      actions={
        <>
          {short.length > 0 ? <span className="bg-amber px-2 text-[13px] leading-6 text-sheet">{short.length} to order again</span> : null}
          <a
            href="/api/stock/list.csv"
            download
            className="inline-flex h-8 items-center gap-1.5 border border-line-strong bg-sheet px-3 hover:bg-teal-wash"
          >
            <Download size={15} /> List
          </a>
          <Button onClick={() => setDoing({ kind: 'list' })}>
            <Upload size={15} /> List in
          </Button>
          <Button look="main" onClick={() => setDoing({ kind: 'new' })}>
            <Plus size={15} /> Film
          </Button>
        </>
      }
    >
      {stock?.length === 0 ? (
        <Empty title="Stock is empty">
          <p className="text-ink-soft">Enter the films you have, with their rolls. Jobs take their colours from here.</p>
        </Empty>
      ) : null}
      <div className="flex flex-col gap-5">
        {series.map((name) => (
          <section key={name} className="panel">
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
                {(stock ?? [])
                  .filter((film) => film.series === name)
                  .map((film) => (
                    <FilmRow key={film.id} film={film} onDo={setDoing} />
                  ))}
              </tbody>
            </table>
          </section>
        ))}
      </div>
      <Supplies />
      <UsageChart />
      <Reckoning />
      {doing?.kind === 'new' ? <NewFilm wished={wished} onClose={done} /> : null}
      {doing?.kind === 'list' ? <ListDialog onClose={done} /> : null}
      {doing?.kind === 'copy' ? <NewFilm from={doing.film} onClose={done} /> : null}
      {doing?.kind === 'edit' ? <EditFilm film={doing.film} onClose={done} /> : null}
      {doing?.kind === 'roll' ? <NewRollForm film={doing.film} onClose={done} /> : null}
      {doing?.kind === 'remove' ? (
        <Dialog
          open
          title={`Take ${doing.film.series} ${doing.film.name} out of Stock?`}
          text="Its rolls go with it. Jobs that use it keep its colour, and say that there is no roll."
          onClose={done}
        >
          <div className="flex justify-end gap-2">
            <Button onClick={done}>Leave it</Button>
            <Button
              look="stop"
              onClick={() => {
                done();
                void api.removeStock(doing.film.id).then(loadStock).catch(tellFailure);
              }}
            >
              Take it out
            </Button>
          </div>
        </Dialog>
      ) : null}
    </ShopPage>
  );
}
