/** How the shop reckons: a card of the Stock page. */
import type { ShopSettings } from '@lorvek/model';
import { useState } from 'react';
import { api } from '../api/client.ts';
import { loadSettings, useShop } from '../api/shop.ts';
import { NumberField, TextField } from '../ui/fields.tsx';
import { tellFailure } from '../ui/tell.ts';

/** The shop's money, its hour, and how long weeding takes: what quotes stand on. */
export function Reckoning() {
  const settings = useShop((state) => state.settings);
  const [currency, setCurrency] = useState<string>();
  if (!settings) return null;
  const change = (fields: Partial<ShopSettings>): void =>
    void api
      .keepSettings({ ...settings, ...fields })
      .then(loadSettings)
      .catch(tellFailure);
  const weeding = (fields: Partial<ShopSettings['weeding']>): void => change({ weeding: { ...settings.weeding, ...fields } });
  return (
    <section className="panel mt-5" aria-label="Prices and weeding">
      <h2 className="border-b px-3 py-2 text-base font-semibold">Prices and weeding</h2>
      <div className="grid grid-cols-4 gap-x-6 gap-y-2 p-3">
        <TextField
          label="Currency"
          value={currency ?? settings.currency}
          onChange={setCurrency}
          onDone={() => {
            if (currency?.trim() && currency !== settings.currency) change({ currency });
            setCurrency(undefined);
          }}
        />
        <NumberField
          label="Decimals"
          value={settings.decimals}
          decimals={0}
          min={0}
          max={3}
          onChange={(n) => change({ decimals: Math.round(n) })}
        />
        <NumberField
          label="Price of an hour"
          value={settings.hourlyRate}
          min={0}
          max={100_000}
          onChange={(hourlyRate) => change({ hourlyRate })}
        />
        <NumberField
          label="Margin"
          suffix="%"
          value={settings.marginPct}
          min={0}
          max={1000}
          onChange={(marginPct) => change({ marginPct })}
        />
        <NumberField
          label="Weeding, a metre of cut"
          suffix="min"
          value={settings.weeding.minutesPerMetre}
          min={0}
          max={100}
          onChange={(minutesPerMetre) => weeding({ minutesPerMetre })}
        />
        <NumberField
          label="Weeding, a part"
          suffix="s"
          value={settings.weeding.secondsPerPart}
          min={0}
          max={600}
          onChange={(secondsPerPart) => weeding({ secondsPerPart })}
        />
        <NumberField
          label="Fine parts are under"
          suffix="mm"
          value={settings.weeding.fineMm}
          min={0}
          max={500}
          onChange={(fineMm) => weeding({ fineMm })}
        />
        <NumberField
          label="A fine part counts"
          suffix="times"
          value={settings.weeding.fineTimes}
          min={1}
          max={20}
          onChange={(fineTimes) => weeding({ fineTimes })}
        />
      </div>
    </section>
  );
}
