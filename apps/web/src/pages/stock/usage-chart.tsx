/** What was used in each of the last months: metres of film, or ml of ink. */
import type { Usage } from '@lorvek/model';
import { format, parseISO } from 'date-fns';
import { useEffect, useState } from 'react';
import { Bar, BarChart, CartesianGrid, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import { api } from '../../api/client.ts';
import { PickRow } from '../../ui/choices.tsx';
import { tellFailure } from '../../ui/tell.ts';

const MONTHS = 12;
/** Films beyond these are shown as one. */
const MOST_FILMS = 7;
const OTHERS = 'Others';
const INK_HEX: Readonly<Record<string, string>> = {
  Cyan: '#0e9bc4',
  Magenta: '#c02a79',
  Yellow: '#d9b200',
  Black: '#2a2d33',
  White: '#cfd3d6',
};

type Of = 'films' | 'inks';

/** Names with a colour each, and their figures by month. */
function seriesOf(usage: readonly Usage[], of: Of): { names: [string, string][]; rows: Record<string, string | number>[] } {
  const sums = new Map<string, { sum: number; hex: string }>();
  const put = (name: string, value: number, hex: string): void => void sums.set(name, { sum: (sums.get(name)?.sum ?? 0) + value, hex });
  for (const { films, inkMl } of usage) {
    if (of === 'films') for (const { title, mm, hex } of films) put(title, mm, hex);
    else for (const [name, ml] of Object.entries(inkMl)) put(name, ml, INK_HEX[name] ?? '#8d6b9c');
  }
  const sorted = [...sums].sort((a, b) => b[1].sum - a[1].sum);
  const shown = new Set(sorted.slice(0, MOST_FILMS).map(([name]) => name));
  const rows = usage.map(({ month, films, inkMl }) => {
    const row: Record<string, string | number> = { month: format(parseISO(`${month}-01`), 'MMM yy') };
    const entries: [string, number][] = of === 'films' ? films.map(({ title, mm }) => [title, mm / 1000]) : Object.entries(inkMl);
    for (const [name, value] of entries) {
      const key = shown.has(name) ? name : OTHERS;
      row[key] = Math.round(100 * (Number(row[key] ?? 0) + value)) / 100;
    }
    return row;
  });
  const names: [string, string][] = sorted.slice(0, MOST_FILMS).map(([name, { hex }]) => [name, hex]);
  return { names: sorted.length > MOST_FILMS ? [...names, [OTHERS, '#8a8f98']] : names, rows };
}

export function UsageChart() {
  const [usage, setUsage] = useState<readonly Usage[]>();
  const [of, setOf] = useState<Of>('films');
  useEffect(() => void api.usage(MONTHS).then(setUsage).catch(tellFailure), []);
  const { names, rows } = seriesOf(usage ?? [], of);
  const unit = of === 'films' ? 'm' : 'ml';
  return (
    <section className="panel mt-5" aria-label="Used by month">
      <div className="flex items-center gap-3 border-b px-3 py-2">
        <h2 className="flex-1 text-base font-semibold">Used by month</h2>
        <PickRow<Of>
          label="What is counted"
          value={of}
          options={[
            { value: 'films', label: 'Material in metres', content: 'Material' },
            { value: 'inks', label: 'Ink in ml', content: 'Ink' },
          ]}
          onChange={setOf}
        />
      </div>
      {usage && names.length === 0 ? (
        <p className="px-3 py-4 text-ink-soft">
          Nothing was {of === 'films' ? 'cut or printed' : 'printed'} in the last {MONTHS} months.
        </p>
      ) : null}
      {names.length > 0 ? (
        <div className="p-3">
          <ResponsiveContainer width="100%" height={220}>
            <BarChart data={rows} margin={{ top: 4, right: 8, bottom: 0, left: 0 }}>
              <CartesianGrid vertical={false} stroke="#d8d2c2" />
              <XAxis dataKey="month" tick={{ fontSize: 12 }} stroke="#5b6470" />
              <YAxis unit={` ${unit}`} width={64} tick={{ fontSize: 12 }} stroke="#5b6470" />
              <Tooltip formatter={(value) => `${String(value)} ${unit}`} />
              {names.map(([name, hex]) => (
                <Bar key={name} dataKey={name} stackId="used" fill={hex} stroke="#16202e" strokeWidth={0.5} isAnimationActive={false} />
              ))}
            </BarChart>
          </ResponsiveContainer>
          <ul className="flex flex-wrap gap-x-4 gap-y-1 pt-2 text-[13px]">
            {names.map(([name, hex]) => (
              <li key={name} className="flex items-center gap-1.5">
                <span className="size-3 border border-line-strong" style={{ background: hex }} /> {name}
              </li>
            ))}
          </ul>
        </div>
      ) : null}
    </section>
  );
}
