/** A list of Stock comes in: what it would change is seen before it is taken. */
import type { StockReading } from '@lorvek/model';
import { Loader2 } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import { api, sentenceOf } from '../../api/client.ts';
import { loadStock } from '../../api/shop.ts';
import { Notice } from '../../ui/card.tsx';
import { Dialog, DialogButtons } from '../../ui/dialog.tsx';
import { tellFailure } from '../../ui/tell.ts';

const MOST_BYTES = 2_500_000;

interface File64 {
  readonly name: string;
  readonly bytes: string;
}

const base64 = (bytes: Uint8Array): string => {
  let text = '';
  for (let i = 0; i < bytes.length; i += 4096) text += String.fromCharCode(...bytes.subarray(i, i + 4096));
  return btoa(text);
};

function Names({ title, names }: { title: string; names: readonly string[] }) {
  if (names.length === 0) return null;
  return (
    <div>
      <h3 className="font-semibold">
        {names.length} {title}
      </h3>
      <p className="max-h-24 overflow-y-auto text-[13px] text-ink-soft">{names.join(', ')}</p>
    </div>
  );
}

/** What a list would change. */
function Would({ reading }: { reading: StockReading }) {
  return (
    <>
      <Names title="new" names={reading.fresh} />
      <Names title="changed" names={reading.changed} />
      <p className="text-[13px] text-ink-soft">{reading.same} as they are.</p>
      {reading.wrong.length > 0 ? (
        <Notice level="stop">
          {reading.wrong.length} rows cannot be read, so nothing is taken:{' '}
          {reading.wrong
            .slice(0, 5)
            .map(({ row, text }) => `row ${row}, ${text}`)
            .join('; ')}
          {reading.wrong.length > 5 ? '; and more' : ''}.
        </Notice>
      ) : null}
    </>
  );
}

export function ListDialog({ onClose }: { onClose(): void }) {
  const [file, setFile] = useState<File64>();
  const [reading, setReading] = useState<StockReading>();
  const [problem, setProblem] = useState<string>();
  const look = async (chosen: File | undefined): Promise<void> => {
    setReading(undefined);
    setProblem(undefined);
    if (!chosen) return;
    try {
      if (chosen.size > MOST_BYTES) throw new Error('This file is too large for a list of Stock (2.5 MB at most).');
      const taken = { name: chosen.name, bytes: base64(new Uint8Array(await chosen.arrayBuffer())) };
      setFile(taken);
      setReading(await api.takeStockList(taken.bytes, taken.name, true));
    } catch (error) {
      setProblem(sentenceOf(error));
    }
  };
  const take = (): void => {
    if (!file) return;
    void api
      .takeStockList(file.bytes, file.name, false)
      .then(async ({ fresh, changed }) => {
        await loadStock();
        toast.success(`${fresh.length} new, ${changed.length} changed.`);
        onClose();
      })
      .catch(tellFailure);
  };
  const isEmpty = reading !== undefined && reading.fresh.length + reading.changed.length === 0;
  return (
    <Dialog
      open
      title="A list into Stock"
      text="CSV or XLSX with the columns of the list that goes out: one row a roll. Nothing is taken away by it."
      width={560}
      onClose={onClose}
    >
      <div className="flex flex-col gap-3">
        <input type="file" aria-label="The list" accept=".csv,.tsv,.txt,.xlsx" onChange={(event) => void look(event.target.files?.[0])} />
        {file && !reading && !problem ? (
          <p role="status" className="flex items-center gap-2 text-ink-soft">
            <Loader2 size={15} className="animate-spin" /> Reading…
          </p>
        ) : null}
        {problem ? <Notice level="stop">{problem}</Notice> : null}
        {reading ? <Would reading={reading} /> : null}
        <DialogButtons
          action={isEmpty ? 'Nothing would change' : 'Take it'}
          disabled={!reading || reading.wrong.length > 0 || isEmpty}
          onAct={take}
          onClose={onClose}
        />
      </div>
    </Dialog>
  );
}
