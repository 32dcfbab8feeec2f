/** Stock: films by series, with their rolls. */
import type { StockFilm, StockFilmChange } from '@lorvek/model';
import { parseLength } from '@lorvek/core/units';
import { Plus } from 'lucide-react';
import { useEffect, useState, type FormEvent } from 'react';
import { toast } from 'sonner';
import { api, sentenceOf } from '../api/client.ts';
import { loadStock, useShop } from '../api/shop.ts';
import { Button } from '../ui/button.tsx';
import { Switch } from '../ui/choices.tsx';
import { Dialog } from '../ui/dialog.tsx';
import { NumberField, TextField } from '../ui/fields.tsx';
import { Empty, ShopPage } from './shop-page.tsx';

function NewFilm({ onClose }: { onClose(): void }) {
  const [fields, setFields] = useState({
    series: '',
    name: '',
    hex: '#0f5e66',
    transfer: false,
    price: '8',
    width: '610 mm',
    length: '10 m',
  });
  const set = (change: Partial<typeof fields>): void => setFields({ ...fields, ...change });
  const submit = (event: FormEvent): void => {
    event.preventDefault();
    const add = async (): Promise<void> => {
      await api.addStock({
        series: fields.series,
        name: fields.name,
        hex: fields.hex,
        transfer: fields.transfer,
        pricePerMetre: Number(fields.price.replace(',', '.')),
        widthMm: parseLength(fields.width, 'mm'),
        lengthMm: parseLength(fields.length, 'mm'),
      });
      await loadStock();
      onClose();
    };
    add().catch((error: unknown) => toast.error(sentenceOf(error)));
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

function FilmRow({ film }: { film: StockFilm }) {
  const setLength = (id: string, metres: number): void =>
    void api
      .setRollLength(id, metres * 1000)
      .then(loadStock)
      .catch((error: unknown) => toast.error(sentenceOf(error)));
  const change = (fields: StockFilmChange): void =>
    void api
      .changeStock(film.id, fields)
      .then(loadStock)
      .catch((error: unknown) => toast.error(sentenceOf(error)));
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
      <td className="numerals p-2 text-right">{film.pricePerMetre.toFixed(2)}</td>
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
            </li>
          ))}
        </ul>
      </td>
    </tr>
  );
}

export function StockPage() {
  const stock = useShop((state) => state.stock);
  const [adding, setAdding] = useState(false);
  useEffect(() => void loadStock(), []);
  const series = [...new Set((stock ?? []).map((film) => film.series))];
  return (
    <ShopPage
      title="Stock"
      actions={
        <Button look="main" onClick={() => setAdding(true)}>
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
                </tr>
              </thead>
              <tbody>
                {(stock ?? [])
                  .filter((film) => film.series === name)
                  .map((film) => (
                    <FilmRow key={film.id} film={film} />
                  ))}
              </tbody>
            </table>
          </section>
        ))}
      </div>
      {adding ? <NewFilm onClose={() => setAdding(false)} /> : null}
    </ShopPage>
  );
}
