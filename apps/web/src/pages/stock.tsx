/** Stock: films by series, with their rolls. */
import type { StockFilm, StockFilmChange } from '@lorvek/model';
import { AppError } from '@lorvek/core';
import { parseLength } from '@lorvek/core/units';
import { Copy, MoreHorizontal, Pencil, Plus, Trash2 } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { useEffect, useState, type FormEvent } from 'react';
import { useSearchParams } from 'react-router';
import { api } from '../api/client.ts';
import { loadStock, useShop } from '../api/shop.ts';
import { Button, IconButton } from '../ui/button.tsx';
import { Switch } from '../ui/choices.tsx';
import { Dialog } from '../ui/dialog.tsx';
import { NumberField, TextField } from '../ui/fields.tsx';
import { tellFailure } from '../ui/tell.ts';
import { Reckoning } from './reckoning.tsx';
import { Empty, ShopPage } from './shop-page.tsx';

const numberOf = (text: string): number => {
  const value = Number(text.trim().replace(',', '.'));
  if (text.trim() === '' || !Number.isFinite(value)) throw new AppError('input.price', `“${text}” is no price. Write it as 8 or 7.50.`);
  return value;
};

/** A colour that work asks for, to be entered as a film. */
interface Wished {
  readonly name: string;
  readonly hex: string;
}

/** A film that is new, or a copy of one to begin from. */
function NewFilm({ from, wished, onClose }: { from?: StockFilm | undefined; wished?: Wished | undefined; onClose(): void }) {
  const [first] = from?.rolls ?? [];
  const [fields, setFields] = useState({
    series: from?.series ?? '',
    name: from ? `${from.name}, another` : (wished?.name ?? ''),
    hex: from?.hex ?? wished?.hex ?? '#0f5e66',
    transfer: from?.transfer ?? false,
    price: String(from?.pricePerMetre ?? 8),
    width: `${first?.widthMm ?? 610} mm`,
    length: '10 m',
  });
  const set = (change: Partial<typeof fields>): void => setFields({ ...fields, ...change });
  const submit = (event: FormEvent): void => {
    event.preventDefault();
    const add = async (): Promise<void> => {
      const made = await api.addStock({
        series: fields.series,
        name: fields.name,
        hex: fields.hex,
        transfer: fields.transfer,
        pricePerMetre: numberOf(fields.price),
        widthMm: parseLength(fields.width, 'mm'),
        lengthMm: parseLength(fields.length, 'mm'),
        ...(from ? { smallestPartMm: from.smallestPartMm, thinnestMm: from.thinnestMm } : {}),
      });
      if (from?.press) await api.changeStock(made.id, { press: from.press });
      await loadStock();
      onClose();
    };
    add().catch(tellFailure);
  };
  return (
    <Dialog open title="Film into Stock" onClose={onClose}>
      <form onSubmit={submit} className="flex flex-col gap-3">
        <div className="grid grid-cols-2 gap-3">
          <TextField
            label="Series"
            value={fields.series}
            autoFocus
            placeholder="Breakwater 7-year"
            onChange={(series) => set({ series })}
          />
          <TextField label="Colour name" value={fields.name} placeholder="Deep teal" onChange={(name) => set({ name })} />
          <TextField label="Colour" type="color" value={fields.hex} onChange={(hex) => set({ hex })} />
          <TextField label="Price per metre" value={fields.price} onChange={(price) => set({ price })} />
          <TextField label="Roll width" value={fields.width} onChange={(width) => set({ width })} />
          <TextField label="Length on the roll" value={fields.length} onChange={(length) => set({ length })} />
        </div>
        <Switch
          label="Transfer film, pressed with heat and cut reversed"
          checked={fields.transfer}
          onChange={(transfer) => set({ transfer })}
        />
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" look="main">
            Into Stock
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

/** Name, colour and kind of a film that is there. */
function EditFilm({ film, onClose }: { film: StockFilm; onClose(): void }) {
  const [fields, setFields] = useState({ series: film.series, name: film.name, hex: film.hex, transfer: film.transfer });
  const set = (change: Partial<typeof fields>): void => setFields({ ...fields, ...change });
  const submit = (event: FormEvent): void => {
    event.preventDefault();
    api
      .changeStock(film.id, fields)
      .then(() => loadStock())
      .then(onClose)
      .catch(tellFailure);
  };
  return (
    <Dialog open title="Film" text="Jobs that have taken it keep the name and colour that it had then." onClose={onClose}>
      <form onSubmit={submit} className="flex flex-col gap-3">
        <div className="grid grid-cols-2 gap-3">
          <TextField label="Series" value={fields.series} autoFocus onChange={(series) => set({ series })} />
          <TextField label="Colour name" value={fields.name} onChange={(name) => set({ name })} />
          <TextField label="Colour" type="color" value={fields.hex} onChange={(hex) => set({ hex })} />
        </div>
        <Switch
          label="Transfer film, pressed with heat and cut reversed"
          checked={fields.transfer}
          onChange={(transfer) => set({ transfer })}
        />
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" look="main">
            Keep
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

/** One more roll of a film. */
function NewRollForm({ film, onClose }: { film: StockFilm; onClose(): void }) {
  const [fields, setFields] = useState({ width: `${film.rolls[0]?.widthMm ?? 610} mm`, length: '10 m', isOffcut: false });
  const submit = (event: FormEvent): void => {
    event.preventDefault();
    const add = async (): Promise<void> => {
      await api.addRoll(film.id, {
        widthMm: parseLength(fields.width, 'mm'),
        lengthLeftMm: parseLength(fields.length, 'mm'),
        isOffcut: fields.isOffcut,
      });
      await loadStock();
      onClose();
    };
    add().catch(tellFailure);
  };
  return (
    <Dialog open title={`Roll of ${film.series} ${film.name}`} width={380} onClose={onClose}>
      <form onSubmit={submit} className="flex flex-col gap-3">
        <div className="grid grid-cols-2 gap-3">
          <TextField label="Roll width" value={fields.width} autoFocus onChange={(width) => setFields({ ...fields, width })} />
          <TextField label="Length on the roll" value={fields.length} onChange={(length) => setFields({ ...fields, length })} />
        </div>
        <Switch label="An offcut" checked={fields.isOffcut} onChange={(isOffcut) => setFields({ ...fields, isOffcut })} />
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" look="main">
            Into Stock
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

type Doing = { readonly kind: 'new' } | { readonly kind: 'copy' | 'edit' | 'roll' | 'remove'; readonly film: StockFilm };

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

function FilmRow({ film, onDo }: { film: StockFilm; onDo(doing: Doing): void }) {
  const setLength = (id: string, metres: number): void =>
    void api
      .setRollLength(id, metres * 1000)
      .then(loadStock)
      .catch(tellFailure);
  const change = (fields: StockFilmChange): void => void api.changeStock(film.id, fields).then(loadStock).catch(tellFailure);
  return (
    <tr className="border-b align-top last:border-b-0">
      <td className="w-24 p-2">
        <span className="block h-10 w-20 border border-line-strong" style={{ background: film.hex }} />
      </td>
      <td className="p-2">
        <span className="block font-semibold">{film.name}</span>
        <span className="text-[13px] text-ink-soft">
          {film.transfer ? 'Transfer film' : 'Sign film'}
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
        <div className="ml-auto w-28">
          <NumberField
            label={`Price per metre of ${film.name}`}
            short=""
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
            <li key={roll.id} className="flex items-center justify-end gap-3">
              {roll.isOffcut ? <span className="border border-line-strong px-1.5 text-xs">offcut</span> : null}
              <span className="numerals w-20 text-right">{roll.widthMm} mm</span>
              <div className="w-36">
                <NumberField
                  label={`Length left on the ${roll.widthMm} mm roll`}
                  short="left"
                  value={roll.lengthLeftMm / 1000}
                  suffix="m"
                  min={0}
                  max={1000}
                  onChange={(metres) => setLength(roll.id, metres)}
                />
              </div>
              <IconButton
                label={`Take the ${roll.widthMm} mm roll of ${film.name} out of Stock`}
                onClick={() => void api.removeRoll(roll.id).then(loadStock).catch(tellFailure)}
              >
                <Trash2 size={14} />
              </IconButton>
            </li>
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
  const series = [...new Set((stock ?? []).map((film) => film.series))];
  return (
    <ShopPage
      title="Stock"
      actions={
        <Button look="main" onClick={() => setDoing({ kind: 'new' })}>
          <Plus size={15} /> Film
        </Button>
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
                  <th className="p-2 text-right font-semibold">Price / m</th>
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
      <Reckoning />
      {doing?.kind === 'new' ? <NewFilm wished={wished} onClose={done} /> : null}
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
