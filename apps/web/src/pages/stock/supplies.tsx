/** Inks and laminates, with what is left and when to order again. */
import type { NewSupply, Supply, SupplyChange } from '@lorvek/model';
import { Plus, Trash2 } from 'lucide-react';
import { useEffect, useState } from 'react';
import { api } from '../../api/client.ts';
import { useShop } from '../../api/shop.ts';
import { Button, IconButton } from '../../ui/button.tsx';
import { NumberField } from '../../ui/fields.tsx';
import { TextCell } from '../../ui/text-cell.tsx';
import { tellFailure } from '../../ui/tell.ts';

const INK: NewSupply = { kind: 'ink', name: 'New ink', plate: null, left: 500, reorderAt: 100 };
const LAMINATE: NewSupply = { kind: 'laminate', name: 'New laminate', widthMm: 1370, left: 50_000, reorderAt: 5000 };

/** Which plate an ink is for; how wide a laminate is. */
function PlateOrWidth({ supply, change }: { supply: Supply; change(fields: SupplyChange): void }) {
  const { kind, name, plate, widthMm } = supply;
  if (kind === 'ink')
    return (
      <TextCell
        label={`Plate of ${name}`}
        value={plate ?? ''}
        onChange={(text) => change({ plate: text.trim() === '' ? null : text.trim() })}
      />
    );
  return (
    <NumberField
      label={`Width of ${name}`}
      short=""
      value={widthMm ?? 0}
      suffix="mm"
      min={10}
      max={10_000}
      onChange={(mm) => change({ widthMm: mm })}
    />
  );
}

function SupplyRow({ supply, currency, onDone }: { supply: Supply; currency: string; onDone(): void }) {
  const { id, kind, name, left, reorderAt, price } = supply;
  // ml as they are, lengths in metres
  const unit = kind === 'ink' ? 1 : 1000;
  const change = (fields: SupplyChange): void => void api.changeSupply(id, fields).then(onDone).catch(tellFailure);
  return (
    <tr className="border-b last:border-b-0">
      <td className="p-2">
        <TextCell label={`Name of ${name}`} value={name} onChange={(text) => change({ name: text })} />
      </td>
      <td className="w-44 p-2">
        <PlateOrWidth supply={supply} change={change} />
      </td>
      <td className="w-36 p-2">
        <NumberField
          label={`Left of ${name}`}
          short=""
          value={left / unit}
          decimals={kind === 'ink' ? 1 : 2}
          suffix={kind === 'ink' ? 'ml' : 'm'}
          min={0}
          onChange={(amount) => change({ left: amount * unit })}
        />
      </td>
      <td className="w-36 p-2">
        <NumberField
          label={`Order ${name} again below`}
          short=""
          hint="Left blank, or 0: nobody watches"
          unsaid="never"
          value={(reorderAt ?? 0) / unit}
          suffix={kind === 'ink' ? 'ml' : 'm'}
          min={0}
          onChange={(amount) => change({ reorderAt: amount > 0 ? amount * unit : null })}
        />
      </td>
      <td className="w-36 p-2">
        <NumberField
          label={`Price of ${name}`}
          short=""
          value={price}
          suffix={kind === 'ink' ? `${currency}/l` : `${currency}/m`}
          min={0}
          max={100_000}
          onChange={(next) => change({ price: next })}
        />
      </td>
      <td className="w-32 p-2 text-right">
        {reorderAt !== null && left < reorderAt ? <span className="mr-2 bg-amber px-1.5 text-xs text-sheet">order again</span> : null}
        <IconButton label={`Take ${name} out of Stock`} onClick={() => void api.removeSupply(id).then(onDone).catch(tellFailure)}>
          <Trash2 size={14} />
        </IconButton>
      </td>
    </tr>
  );
}

export function Supplies() {
  const settings = useShop((state) => state.settings);
  const [supplies, setSupplies] = useState<readonly Supply[]>();
  const load = (): void => void api.supplies().then(setSupplies).catch(tellFailure);
  useEffect(load, []);
  const add = (supply: NewSupply): void => void api.addSupply(supply).then(load).catch(tellFailure);
  return (
    <section className="panel mt-5" aria-label="Inks and laminates">
      <div className="flex items-center gap-2 border-b px-3 py-2">
        <h2 className="flex-1 text-base font-semibold">Inks and laminates</h2>
        <Button size="small" onClick={() => add(INK)}>
          <Plus size={13} /> Ink
        </Button>
        <Button size="small" onClick={() => add(LAMINATE)}>
          <Plus size={13} /> Laminate
        </Button>
      </div>
      {supplies?.length === 0 ? (
        <p className="px-3 py-3 text-ink-soft">None is kept. What a print uses is taken off the ink of its plate.</p>
      ) : null}
      {supplies && supplies.length > 0 ? (
        <table className="w-full">
          <thead>
            <tr className="rule-label border-b text-left">
              {['Name', 'Plate, or width', 'Left', 'Again below', 'Price', ''].map((text) => (
                <th key={text} className="p-2 font-semibold">
                  {text}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {supplies.map((supply) => (
              <SupplyRow key={supply.id} supply={supply} currency={settings?.currency ?? ''} onDone={load} />
            ))}
          </tbody>
        </table>
      ) : null}
    </section>
  );
}
