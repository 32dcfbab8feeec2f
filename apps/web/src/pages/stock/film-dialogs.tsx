/** Dialogs of Stock: a film that is new or changed, one more roll. */
import type { StockFilm } from '@lorvek/model';
import { AppError } from '@lorvek/core';
import { parseLength } from '@lorvek/core/units';
import { useState, type FormEvent } from 'react';
import { api } from '../../api/client.ts';
import { loadStock } from '../../api/shop.ts';
import { Switch } from '../../ui/choices.tsx';
import { Pick } from '../../ui/pick.tsx';
import { Dialog, DialogButtons } from '../../ui/dialog.tsx';
import { NumberField, TextField } from '../../ui/fields.tsx';
import { tellFailure } from '../../ui/tell.ts';

const numberOf = (text: string): number => {
  const value = Number(text.trim().replace(',', '.'));
  if (text.trim() === '' || !Number.isFinite(value)) throw new AppError('input.price', `“${text}” is no price. Write it as 8 or 7.50.`);
  return value;
};

/** What a film is: cut, pressed, or printed. */
const KINDS = {
  film: { text: 'Sign film', is: { transfer: false, medium: null } },
  transfer: { text: 'Transfer film, pressed with heat and cut reversed', is: { transfer: true, medium: null } },
  white: { text: 'Print medium, white', is: { transfer: false, medium: 'white' } },
  clear: { text: 'Print medium, clear', is: { transfer: false, medium: 'clear' } },
  paper: { text: 'Paper', is: { transfer: false, medium: 'paper' } },
  printTransfer: { text: 'Transfer medium, printed', is: { transfer: false, medium: 'transfer' } },
} as const satisfies Record<string, { text: string; is: Pick<StockFilm, 'transfer' | 'medium'> }>;
type Kind = keyof typeof KINDS;
const kindOf = (film: StockFilm): Kind =>
  film.medium === 'transfer' ? 'printTransfer' : (film.medium ?? (film.transfer ? 'transfer' : 'film'));

function KindPick({ kind, onChange }: { kind: Kind; onChange(kind: Kind): void }) {
  return (
    <Pick
      label="Kind"
      value={kind}
      options={(Object.keys(KINDS) as Kind[]).map((value) => ({ value, text: KINDS[value].text }))}
      onChange={onChange}
    />
  );
}

type Recipe = NonNullable<StockFilm['press']>;

/** A colour that work asks for, to be entered as a film. */
export interface Wished {
  readonly name: string;
  readonly hex: string;
}

/** What is written in the form of a film that is new. */
interface Written {
  readonly series: string;
  readonly name: string;
  readonly hex: string;
  readonly kind: Kind;
  readonly price: string;
  readonly width: string;
  readonly length: string;
}

const writtenFor = (wished: Wished | undefined): Written => ({
  series: '',
  name: wished?.name ?? '',
  hex: wished?.hex ?? '#0f5e66',
  kind: 'film',
  price: '8',
  width: '610 mm',
  length: '10 m',
});

const writtenFrom = (film: StockFilm): Written => ({
  series: film.series,
  name: `${film.name}, another`,
  hex: film.hex,
  kind: kindOf(film),
  price: String(film.pricePerMetre),
  width: `${film.rolls[0]?.widthMm ?? 610} mm`,
  length: '10 m',
});

/** @throws AppError where a price or length cannot be read; what the server says */
async function addFilm({ series, name, hex, kind, price, width, length }: Written, from: StockFilm | undefined): Promise<void> {
  const made = await api.addStock({
    series,
    name,
    hex,
    ...KINDS[kind].is,
    pricePerMetre: numberOf(price),
    widthMm: parseLength(width, 'mm'),
    lengthMm: parseLength(length, 'mm'),
    ...(from ? { smallestPartMm: from.smallestPartMm, thinnestMm: from.thinnestMm } : {}),
  });
  if (from?.press) await api.changeStock(made.id, { press: from.press });
  await loadStock();
}

/** A film that is new, or a copy of one to begin from. */
export function NewFilm({ from, wished, onClose }: { from?: StockFilm | undefined; wished?: Wished | undefined; onClose(): void }) {
  const [fields, setFields] = useState(() => (from ? writtenFrom(from) : writtenFor(wished)));
  const set = (change: Partial<Written>): void => setFields({ ...fields, ...change });
  const submit = (event: FormEvent): void => {
    event.preventDefault();
    addFilm(fields, from).then(onClose).catch(tellFailure);
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
        <KindPick kind={fields.kind} onChange={(kind) => set({ kind })} />
        <DialogButtons action="Into Stock" onClose={onClose} />
      </form>
    </Dialog>
  );
}

/** How a transfer is pressed on. */
function PressFields({ recipe, onChange }: { recipe: Recipe; onChange(recipe: Recipe): void }) {
  return (
    <fieldset className="grid grid-cols-4 gap-2">
      <legend className="rule-label mb-1">Press</legend>
      <NumberField
        label="Heat"
        short=""
        value={recipe.heatC}
        suffix="°C"
        min={0}
        max={300}
        decimals={0}
        onChange={(heatC) => onChange({ ...recipe, heatC })}
      />
      <NumberField
        label="Time"
        short=""
        value={recipe.seconds}
        suffix="s"
        min={0}
        max={600}
        decimals={0}
        onChange={(seconds) => onChange({ ...recipe, seconds })}
      />
      <TextField label="Pressure" value={recipe.pressure} onChange={(pressure) => onChange({ ...recipe, pressure })} />
      <TextField label="Peel" value={recipe.peel} onChange={(peel) => onChange({ ...recipe, peel })} />
    </fieldset>
  );
}

/** Name, colour and kind of a film that is there. */
export function EditFilm({ film, onClose }: { film: StockFilm; onClose(): void }) {
  const [fields, setFields] = useState({ series: film.series, name: film.name, hex: film.hex, kind: kindOf(film) });
  const [recipe, setRecipe] = useState<Recipe>(film.press ?? { heatC: 150, seconds: 12, pressure: 'medium', peel: 'warm' });
  const set = (change: Partial<typeof fields>): void => setFields({ ...fields, ...change });
  const isPressed = fields.kind === 'transfer' || fields.kind === 'printTransfer';
  /** The recipe of what is pressed. */
  const press = (): { press: StockFilm['press'] } => ({ press: isPressed ? recipe : null });
  const submit = (event: FormEvent): void => {
    event.preventDefault();
    api
      .changeStock(film.id, { series: fields.series, name: fields.name, hex: fields.hex, ...KINDS[fields.kind].is, ...press() })
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
        <KindPick kind={fields.kind} onChange={(kind) => set({ kind })} />
        {isPressed ? <PressFields recipe={recipe} onChange={setRecipe} /> : null}
        <DialogButtons action="Keep" onClose={onClose} />
      </form>
    </Dialog>
  );
}

/** One more roll of a film. */
export function NewRollForm({ film, onClose }: { film: StockFilm; onClose(): void }) {
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
        <DialogButtons action="Into Stock" onClose={onClose} />
      </form>
    </Dialog>
  );
}
