/** How the shop reckons: a card of the Stock page. */
import type { ShopSettings } from '@lorvek/model';
import { useState } from 'react';
import { api } from '../../api/client.ts';
import { loadSettings, useShop } from '../../api/shop.ts';
import { NumberField, TextField } from '../../ui/fields.tsx';
import { tellFailure } from '../../ui/tell.ts';

interface Asked {
  readonly label: string;
  readonly suffix?: string;
  readonly least?: number;
  readonly most: number;
  readonly decimals?: number;
  readonly of: (settings: ShopSettings) => number;
  readonly set: (settings: ShopSettings, value: number) => Partial<ShopSettings>;
}

const ofWeeding = (field: keyof ShopSettings['weeding']): Pick<Asked, 'of' | 'set'> => ({
  of: ({ weeding }) => weeding[field],
  set: ({ weeding }, value) => ({ weeding: { ...weeding, [field]: value } }),
});

const ASKED: readonly Asked[] = [
  { label: 'Decimals', most: 3, decimals: 0, of: ({ decimals }) => decimals, set: (_, value) => ({ decimals: Math.round(value) }) },
  { label: 'Price of an hour', most: 100_000, of: ({ hourlyRate }) => hourlyRate, set: (_, hourlyRate) => ({ hourlyRate }) },
  { label: 'Margin', suffix: '%', most: 1000, of: ({ marginPct }) => marginPct, set: (_, marginPct) => ({ marginPct }) },
  { label: 'Weeding, a metre of cut', suffix: 'min', most: 100, ...ofWeeding('minutesPerMetre') },
  { label: 'Weeding, a part', suffix: 's', most: 600, ...ofWeeding('secondsPerPart') },
  { label: 'Fine parts are under', suffix: 'mm', most: 500, ...ofWeeding('fineMm') },
  { label: 'A fine part counts', suffix: 'times', least: 1, most: 20, ...ofWeeding('fineTimes') },
];

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
        {ASKED.map(({ label, suffix, most, least = 0, decimals, of, set }) => (
          <NumberField
            key={label}
            label={label}
            value={of(settings)}
            {...(suffix ? { suffix } : {})}
            {...(decimals === undefined ? {} : { decimals })}
            min={least}
            max={most}
            onChange={(value) => change(set(settings, value))}
          />
        ))}
      </div>
    </section>
  );
}
