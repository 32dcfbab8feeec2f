/** Reading a list: from a file or pasted cells, with what was found, a preview, and what a newer list changes. */
import { SEPARATORS, type ListOptions } from '@lorvek/core/series';
import { seriesOf, takeList, type ListChange, type ReadRows } from '@lorvek/model';
import { useEffect, useRef, useState } from 'react';
import { dispatch, useDocument } from '../document/store.ts';
import { Button } from '../ui/button.tsx';
import { FileButton } from '../ui/file-button.tsx';
import { Notice } from '../ui/card.tsx';
import { Pick } from '../ui/pick.tsx';
import { Dialog, DialogButtons } from '../ui/dialog.tsx';
import { changeOf, plainWarning, readSource, rowsOfList, type Reading, type Source } from './list-reading.ts';
import { several } from '../ui/several.ts';

const ENCODINGS = ['utf-8', 'utf-16le', 'utf-16be', 'windows-1252', 'windows-1250', 'iso-8859-2'] as const;
const SEPARATOR_NAMES: Record<string, string> = { '': 'One cell a row', ',': 'Comma', ';': 'Semicolon', '\t': 'Tab', '|': 'Bar' };
const SHOWN_ROWS = 60;
const SHOWN_COLUMNS = 12;

const sourceOf = async (file: File): Promise<Source> => ({ bytes: new Uint8Array(await file.arrayBuffer()), fileName: file.name });

function Begin({ onSource }: { onSource(source: Source): void }) {
  const [pasted, setPasted] = useState('');
  const take = (file: File | undefined): void => {
    if (file) void sourceOf(file).then(onSource);
  };
  return (
    <div
      className="flex flex-col gap-2"
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event) => {
        event.preventDefault();
        take(event.dataTransfer.files[0]);
      }}
    >
      <div className="flex items-center gap-2">
        <FileButton
          look="main"
          label="List file"
          accept=".csv,.tsv,.txt,.xlsx,text/csv,text/plain,text/tab-separated-values"
          onFiles={([file]) => take(file)}
        >
          Choose a file
        </FileButton>
        <span className="text-ink-soft">A text file (CSV, TSV, TXT) or a workbook (XLSX); or drop one here.</span>
      </div>
      <label className="flex flex-col gap-1">
        <span className="rule-label">Or paste cells</span>
        <textarea
          aria-label="Pasted cells"
          rows={5}
          value={pasted}
          onChange={(event) => setPasted(event.target.value)}
          className="numerals resize-y border border-line-strong bg-sheet px-2 py-1.5"
        />
      </label>
      <Button
        className="self-start"
        disabled={pasted.trim() === ''}
        onClick={() => onSource({ bytes: new TextEncoder().encode(pasted), fileName: 'Pasted cells' })}
      >
        Read what was pasted
      </Button>
    </div>
  );
}

function Found({ reading, onAs }: { reading: Reading; onAs(as: ListOptions): void }) {
  const { as, list } = reading;
  const change = (fields: Partial<ListOptions>): void => onAs({ ...as, ...fields });
  const isBook = list?.sheets !== undefined;
  const header = as.header ?? (list ? list.header !== null : undefined);
  return (
    <div className="grid grid-cols-3 gap-2">
      {isBook ? (
        <Pick
          label="Sheet of the workbook"
          value={as.sheet ?? list.sheets?.[0]}
          options={(list.sheets ?? []).map((name) => ({ value: name, text: name }))}
          onChange={(sheet) => change({ sheet })}
        />
      ) : (
        <>
          <Pick
            label="Letters written as"
            value={as.encoding ?? list?.encoding}
            options={ENCODINGS.map((value) => ({ value, text: value.toUpperCase() }))}
            onChange={(encoding) => change({ encoding })}
          />
          <Pick
            label="Cells divided by"
            value={separatorKey(as.separator ?? list?.separator)}
            options={['', ...SEPARATORS].map((one) => ({ value: separatorKey(one) ?? 'none', text: SEPARATOR_NAMES[one] ?? one }))}
            onChange={(key) => change({ separator: ['', ...SEPARATORS].find((one) => separatorKey(one) === key) as '' })}
          />
        </>
      )}
      <Pick
        label="First row"
        value={header === undefined ? undefined : header ? 'header' : 'row'}
        options={[
          { value: 'header', text: 'Names the columns' },
          { value: 'row', text: 'Is a row like the others' },
        ]}
        onChange={(value) => change({ header: value === 'header' })}
      />
    </div>
  );
}

/** A list of choices takes no empty value. */
const separatorKey = (separator: string | undefined): string | undefined =>
  separator === undefined ? undefined : `sep${separator.charCodeAt(0) || 0}`;

function Preview({ rows, change }: { rows: ReadRows; change: ListChange | undefined }) {
  const added = new Set(change?.added);
  const changed = new Set(change?.changed);
  const columns = rows.columns.slice(0, SHOWN_COLUMNS);
  return (
    <div className="max-h-64 overflow-auto border border-line-strong bg-sheet">
      <table className="w-full border-collapse text-left text-[13px]" aria-label="Preview of the list">
        <thead className="sticky top-0 bg-paper">
          <tr>
            <th className="border-b px-2 py-1 text-ink-soft">Row</th>
            {columns.map((name, k) => (
              <th key={k} className="max-w-48 truncate border-b px-2 py-1">
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.rows.slice(0, SHOWN_ROWS).map((row, i) => (
            <tr key={i} className={added.has(i) ? 'bg-teal-wash' : changed.has(i) ? 'bg-amber-wash' : ''}>
              <td className="numerals border-b px-2 py-0.5 text-ink-soft">
                {i + 1}
                {change ? <span className="ml-1 text-2xs">{added.has(i) ? 'new' : changed.has(i) ? 'changed' : ''}</span> : null}
              </td>
              {columns.map((_, k) => (
                <td key={k} dir="auto" className="max-w-48 truncate border-b px-2 py-0.5">
                  {row[k] ?? ''}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {rows.rows.length > SHOWN_ROWS || rows.columns.length > SHOWN_COLUMNS ? (
        <p className="px-2 py-1 text-xs text-ink-soft">
          Shown are {Math.min(SHOWN_ROWS, rows.rows.length)} of {rows.rows.length} rows and {columns.length} of {rows.columns.length}{' '}
          columns; all are taken.
        </p>
      ) : null}
    </div>
  );
}

function Changes({ change, before }: { change: ListChange; before: ReadRows }) {
  const parts = [
    [change.added.length, 'new'],
    [change.changed.length, 'changed'],
    [change.gone.length, 'gone'],
  ] as const;
  const said = parts.filter(([count]) => count > 0).map(([count, word]) => `${count} ${word}`);
  const gone = change.gone.slice(0, 8).map((i) =>
    (before.rows[i] ?? [])
      .filter((cell) => cell.trim() !== '')
      .slice(0, 2)
      .join(' · '),
  );
  return (
    <Notice level={change.gone.length > 0 || change.columnsGone.length > 0 ? 'warning' : 'note'}>
      {said.length === 0
        ? 'The same rows as before.'
        : `Against the list before: ${said.join(', ')} ${said.length === 1 && parts[0][0] + parts[1][0] + parts[2][0] === 1 ? 'row' : 'rows'}.`}
      {gone.length > 0 ? ` Gone: ${gone.join('; ')}${change.gone.length > gone.length ? ' …' : ''}.` : ''}
      {change.columnsGone.length > 0 ? ` Columns that are gone: ${change.columnsGone.join(', ')}.` : ''} What was corrected by hand stays
      with its row.
    </Notice>
  );
}

interface LookedProps {
  readonly reading: Reading;
  readonly isBusy: boolean;
  onAs(as: ListOptions): void;
  onAgain(): void;
  onTaken(): void;
}

/** How the list was read, and what is odd about it. */
function Said({ reading, columns, onAs }: { reading: Reading; columns: number; onAs(as: ListOptions): void }) {
  return (
    <>
      <p>
        <strong>{reading.source.fileName}</strong>
        {reading.list ? ` · ${reading.list.rows.length} rows, ${columns} columns` : ''}
      </p>
      <Found reading={reading} onAs={onAs} />
      {reading.problem ? <Notice level="stop">{reading.problem}</Notice> : null}
      {(reading.list?.warnings ?? []).map((warning) => (
        <Notice key={warning} level="warning">
          {plainWarning(warning)}.
        </Notice>
      ))}
    </>
  );
}

/** What was read, to be looked at before it is taken. */
function Looked({ reading, isBusy, onAs, onAgain, onTaken }: LookedProps) {
  const before = useDocument((state) => seriesOf(state.drawing)?.list);
  const rows = reading.list && rowsOfList(reading.list, reading.source.fileName);
  const change = rows && changeOf(before, rows);
  const take = (): void => {
    if (rows && dispatch(takeList, { list: rows }, { origin: 'series.list' })) onTaken();
  };
  return (
    <>
      <Said reading={reading} columns={rows?.columns.length ?? 0} onAs={onAs} />
      {rows && change && before ? <Changes change={change} before={before} /> : null}
      {rows ? <Preview rows={rows} change={change} /> : null}
      <DialogButtons
        action={`Take ${several(rows?.rows.length ?? 0, 'row')}`}
        cancel="Another list"
        disabled={isBusy || !rows || reading.problem !== undefined}
        onAct={take}
        onClose={onAgain}
      />
    </>
  );
}

export function ListDialog({ open, onClose }: { open: boolean; onClose(): void }) {
  const isNewer = useDocument((state) => Boolean(seriesOf(state.drawing)?.list));
  const [reading, setReading] = useState<Reading>();
  const [isBusy, setBusy] = useState(false);
  const turn = useRef(0);
  useEffect(() => {
    if (!open) return;
    turn.current++;
    setReading(undefined);
    setBusy(false);
  }, [open]);
  const read = async (source: Source, as: ListOptions): Promise<void> => {
    const mine = ++turn.current;
    setBusy(true);
    const next = await readSource(source, as);
    if (mine !== turn.current) return;
    setReading(next);
    setBusy(false);
  };
  return (
    <Dialog open={open} title={isNewer ? 'Read a newer list' : 'Read a list'} width={760} onClose={onClose}>
      <div className="flex flex-col gap-3">
        {!reading && !isBusy ? <Begin onSource={(source) => void read(source, {})} /> : null}
        {isBusy ? <p role="status">Reading the list…</p> : null}
        {reading ? (
          <Looked
            reading={reading}
            isBusy={isBusy}
            onAs={(as) => void read(reading.source, as)}
            onAgain={() => setReading(undefined)}
            onTaken={onClose}
          />
        ) : null}
      </div>
    </Dialog>
  );
}
