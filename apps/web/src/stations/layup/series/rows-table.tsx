/** The rows of a series as a table: search, correct, leave out, copies; beside it the row under the pointer as it will be made. */
import { correctCell, rowsOf, setRowCopies, setRowsOn, setSeries, layAllRows, type Series, type SeriesRow } from '@lorvek/model';
import type { Finding } from '@lorvek/core/check';
import {
  createColumnHelper,
  flexRender,
  getCoreRowModel,
  getFilteredRowModel,
  getSortedRowModel,
  useReactTable,
  type SortingState,
  type Table,
} from '@tanstack/react-table';
import { useVirtualizer } from '@tanstack/react-virtual';
import { ArrowDown, ArrowUp, OctagonAlert, TriangleAlert, X } from 'lucide-react';
import { useMemo, useRef, useState } from 'react';
import { useSheets } from '../../../document/sheets.ts';
import { dispatch } from '../../../document/store.ts';
import { Button, IconButton } from '../../../ui/button.tsx';
import { RowPicture } from './row-picture.tsx';
import { openRows } from '../../../series/view.ts';

interface Shown extends SeriesRow {
  readonly problems: readonly Finding[];
}

const ROW_PX = 28;
const CELL_PX = 132;
const MOST_COLUMNS = 40;

/** A value that is taken when it is left or Enter is pressed. */
function Cell({ value, label, corrected, onTake }: { value: string; label: string; corrected: boolean; onTake(text: string): void }) {
  const [draft, setDraft] = useState<string>();
  const finish = (): void => {
    if (draft !== undefined && draft !== value) onTake(draft);
    setDraft(undefined);
  };
  return (
    <input
      aria-label={label}
      dir="auto"
      value={draft ?? value}
      title={corrected ? 'Corrected by hand; kept when the list is read again' : undefined}
      onChange={(event) => setDraft(event.target.value)}
      onBlur={finish}
      onKeyDown={(event) => {
        event.stopPropagation();
        if (event.key === 'Enter') event.currentTarget.blur();
        if (event.key === 'Escape') setDraft(undefined);
      }}
      className={`h-6 w-full min-w-0 border bg-transparent px-1 hover:border-line-strong focus:bg-sheet ${corrected ? 'border-teal font-semibold' : 'border-transparent'}`}
    />
  );
}

const helper = createColumnHelper<Shown>();

/** Is it made? */
function OnCell({ index, isOn, copies }: Shown) {
  const set = (on: boolean): void => {
    dispatch(setRowsOn, { rows: [index], on }, { origin: 'series.row' });
    if (on && copies === 0) dispatch(setRowCopies, { row: index, copies: 1 }, { origin: 'series.row' });
  };
  return <input type="checkbox" aria-label={`Make row ${index + 1}`} checked={isOn} onChange={(event) => set(event.target.checked)} />;
}

/** What was found of it. */
function FoundCell({ problems }: Shown) {
  const [first] = problems;
  if (!first) return null;
  const Icon = first.level === 'stop' ? OctagonAlert : TriangleAlert;
  return (
    <span title={problems.map(({ text }) => text).join('\n')}>
      <Icon
        size={14}
        className={first.level === 'stop' ? 'text-brick' : 'text-amber'}
        aria-label={`${first.level === 'stop' ? 'Stop' : 'Warning'}: ${first.text}`}
      />
    </span>
  );
}

function CopiesCell({ index, copies }: Shown) {
  const set = (text: string): void => {
    const next = Math.round(Number(text));
    if (next >= 0 && next <= 2000) dispatch(setRowCopies, { row: index, copies: next }, { origin: 'series.row', group: `copies ${index}` });
  };
  return (
    <input
      type="number"
      aria-label={`Copies of row ${index + 1}`}
      min={0}
      max={2000}
      value={copies}
      onKeyDown={(event) => event.stopPropagation()}
      onChange={(event) => set(event.target.value)}
      className="numerals h-6 w-full border border-transparent bg-transparent px-1 text-right hover:border-line-strong focus:bg-sheet"
    />
  );
}

function columnsOf(series: Series) {
  const names = (series.list?.columns ?? []).slice(0, MOST_COLUMNS);
  return [
    helper.accessor('isOn', {
      header: 'On',
      size: 34,
      cell: ({ row: { original } }) => <OnCell {...original} />,
    }),
    helper.accessor('index', { header: 'Row', size: 52, cell: ({ getValue }) => <span className="numerals">{getValue() + 1}</span> }),
    helper.accessor('counter', {
      header: 'Counter',
      size: 76,
      cell: ({ getValue }) => <span className="numerals truncate">{getValue()}</span>,
    }),
    helper.display({
      id: 'found',
      header: 'Found',
      size: 48,
      cell: ({ row: { original } }) => <FoundCell {...original} />,
    }),
    ...names.map((name, k) =>
      helper.accessor((row) => row.cells[k] ?? '', {
        id: `cell-${k}`,
        header: name,
        size: CELL_PX,
        cell: ({ row: { original }, getValue }) => (
          <Cell
            value={getValue()}
            label={`${name}, row ${original.index + 1}`}
            corrected={series.corrections[String(original.index)]?.[String(k)] !== undefined}
            onTake={(text) => dispatch(correctCell, { row: original.index, column: k, text }, { origin: 'series.correct' })}
          />
        ),
      }),
    ),
    helper.accessor('copies', {
      header: 'Copies',
      size: 62,
      cell: ({ row: { original } }) => <CopiesCell {...original} />,
    }),
  ];
}

/** Rows with what was found of each. */
function useRows(series: Series): { rows: Shown[]; problem: string | undefined } {
  const { whole, sheets } = useSheets();
  return useMemo(() => {
    const found = new Map<number, Finding[]>();
    for (const finding of [...whole, ...sheets.flatMap((sheet) => sheet.findings)])
      if (finding.row !== undefined) found.set(finding.row, [...(found.get(finding.row) ?? []), finding]);
    try {
      return { rows: rowsOf(series).map((row) => ({ ...row, problems: found.get(row.index) ?? [] })), problem: undefined };
    } catch (error) {
      return { rows: [], problem: error instanceof Error ? error.message : String(error) };
    }
  }, [series, whole, sheets]);
}

/** The row under the pointer, as it will be made. */
function Pointed({ row, finding }: { row: number | undefined; finding: Finding | undefined }) {
  return (
    <div className="flex w-56 shrink-0 flex-col gap-1">
      <div className="min-h-0 flex-1">
        <RowPicture row={row} />
      </div>
      {finding ? <p className="line-clamp-3 text-xs">{finding.text}</p> : null}
      <div className="flex items-center justify-between">
        <span className="text-xs text-ink-soft">{row === undefined ? 'Point at a row to see it' : `Row ${row + 1}`}</span>
        {row !== undefined ? (
          <Button size="small" onClick={() => dispatch(setSeries, { fields: { only: [row] } }, { origin: 'series.only' })}>
            Make it alone
          </Button>
        ) : null}
      </div>
    </div>
  );
}

interface Narrowing {
  readonly search: string;
  setSearch(text: string): void;
  readonly onlyFound: boolean;
  setOnlyFound(only: boolean): void;
}

interface RowsHeaderProps {
  readonly series: Series;
  readonly rows: readonly Shown[];
  /** Of the rows that are shown. */
  readonly indices: readonly number[];
  readonly isSorted: boolean;
  readonly narrowing: Narrowing;
}

/** How many rows are on, what narrows them down, and what is done with those that are shown. */
function RowsHeader({ series, rows, indices, isSorted, narrowing }: RowsHeaderProps) {
  const { search, setSearch, onlyFound, setOnlyFound } = narrowing;
  const isNarrowed = search.trim() !== '' || onlyFound;
  const on = rows.filter(({ isOn }) => isOn).length;
  const foundCount = rows.filter(({ problems }) => problems.length > 0).length;
  return (
    <header className="flex h-9 shrink-0 items-center gap-2 px-2">
      <strong>Rows</strong>
      <span className="numerals text-ink-soft">
        {on} of {rows.length} on
      </span>
      <input
        aria-label="Search rows"
        placeholder="Search"
        value={search}
        onChange={(event) => setSearch(event.target.value)}
        onKeyDown={(event) => event.stopPropagation()}
        className="h-7 w-44 border border-line-strong bg-sheet px-2"
      />
      <Button size="small" aria-pressed={onlyFound} disabled={foundCount === 0 && !onlyFound} onClick={() => setOnlyFound(!onlyFound)}>
        {onlyFound ? 'All rows' : `${foundCount} with findings`}
      </Button>
      <Button
        size="small"
        disabled={indices.length === 0}
        onClick={() => dispatch(setRowsOn, { rows: [...indices], on: true }, { origin: 'series.row' })}
      >
        {isNarrowed ? 'Those on' : 'All on'}
      </Button>
      <Button
        size="small"
        disabled={indices.length === 0}
        onClick={() => dispatch(setRowsOn, { rows: [...indices], on: false }, { origin: 'series.row' })}
      >
        {isNarrowed ? 'Those off' : 'All off'}
      </Button>
      {isNarrowed && indices.length > 0 && indices.length <= 2000 ? (
        <Button size="small" onClick={() => dispatch(setSeries, { fields: { only: [...indices] } }, { origin: 'series.only' })}>
          Make those alone
        </Button>
      ) : null}
      {series.only ? (
        <Button size="small" look="main" onClick={() => dispatch(layAllRows, {}, { origin: 'series.only' })}>
          Only {series.only.length} {series.only.length === 1 ? 'row' : 'rows'} · take all again
        </Button>
      ) : null}
      {(series.list?.columns.length ?? 0) > MOST_COLUMNS ? (
        <span className="text-xs text-ink-soft">The first {MOST_COLUMNS} columns are shown.</span>
      ) : null}
      {isSorted ? <span className="text-xs text-ink-soft">Sorted here only; sheets keep the list’s order.</span> : null}
      <span className="flex-1" />
      <IconButton label="Close the rows" onClick={() => openRows(false)}>
        <X size={15} />
      </IconButton>
    </header>
  );
}

/** The rows in view, of however many. */
function Rows({ table, pointed, onPoint }: { table: Table<Shown>; pointed: number | undefined; onPoint(row: number): void }) {
  const host = useRef<HTMLDivElement>(null);
  const shown = table.getRowModel().rows;
  const list = useVirtualizer({ count: shown.length, getScrollElement: () => host.current, estimateSize: () => ROW_PX, overscan: 12 });
  return (
    <div ref={host} className="min-w-0 flex-1 overflow-auto border border-line-strong bg-sheet" role="table" aria-rowcount={shown.length}>
      <div role="row" className="sticky top-0 z-10 flex bg-paper" style={{ width: table.getTotalSize() }}>
        {table.getFlatHeaders().map((header) => (
          <button
            key={header.id}
            type="button"
            role="columnheader"
            style={{ width: header.getSize() }}
            onClick={header.column.getToggleSortingHandler()}
            className="flex h-6 shrink-0 items-center gap-1 truncate border-b px-1 text-left text-xs font-semibold text-ink-soft hover:bg-teal-wash"
          >
            <span className="truncate">{flexRender(header.column.columnDef.header, header.getContext())}</span>
            {header.column.getIsSorted() === 'asc' ? (
              <ArrowDown size={11} />
            ) : header.column.getIsSorted() === 'desc' ? (
              <ArrowUp size={11} />
            ) : null}
          </button>
        ))}
      </div>
      <div style={{ height: list.getTotalSize(), width: table.getTotalSize(), position: 'relative' }}>
        {list.getVirtualItems().map(({ index, start }) => {
          const row = shown[index];
          if (!row) return null;
          const { original } = row;
          return (
            <div
              key={row.id}
              role="row"
              aria-rowindex={index + 1}
              onPointerEnter={() => onPoint(original.index)}
              onFocus={() => onPoint(original.index)}
              className={`absolute flex items-center border-b ${original.isOn ? '' : 'text-ink-soft'} ${pointed === original.index ? 'bg-teal-wash' : ''}`}
              style={{ transform: `translateY(${start}px)`, height: ROW_PX }}
            >
              {row.getVisibleCells().map((cell) => (
                <div
                  key={cell.id}
                  role="cell"
                  style={{ width: cell.column.getSize() }}
                  className="flex shrink-0 items-center overflow-hidden px-1 text-[13px]"
                >
                  {flexRender(cell.column.columnDef.cell, cell.getContext())}
                </div>
              ))}
            </div>
          );
        })}
      </div>
    </div>
  );
}

export function RowsTable({ series }: { series: Series }) {
  const { rows, problem } = useRows(series);
  const [sorting, setSorting] = useState<SortingState>([]);
  const [search, setSearch] = useState('');
  const [pointed, setPointed] = useState<number>();
  const [onlyFound, setOnlyFound] = useState(false);
  const columns = useMemo(() => columnsOf(series), [series]);
  const data = useMemo(() => (onlyFound ? rows.filter(({ problems }) => problems.length > 0) : rows), [rows, onlyFound]);
  const table = useReactTable({
    data,
    columns,
    state: { sorting, globalFilter: search },
    onSortingChange: setSorting,
    getRowId: ({ index }) => String(index),
    globalFilterFn: ({ original }, _, text: string) =>
      [...original.cells, original.counter, String(original.index + 1)].some((cell) =>
        cell.toLowerCase().includes(text.trim().toLowerCase()),
      ),
    getCoreRowModel: getCoreRowModel(),
    getFilteredRowModel: getFilteredRowModel(),
    getSortedRowModel: getSortedRowModel(),
  });
  const shown = table.getRowModel().rows;
  return (
    <section aria-label="Rows of the series" className="flex h-72 shrink-0 flex-col border-t border-line-strong bg-paper">
      <RowsHeader
        series={series}
        rows={rows}
        indices={shown.map(({ original }) => original.index)}
        isSorted={sorting.length > 0}
        narrowing={{ search, setSearch, onlyFound, setOnlyFound }}
      />
      {problem ? <p className="px-2 text-brick">{problem}</p> : null}
      <div className="flex min-h-0 flex-1 gap-2 px-2 pb-2">
        <Rows table={table} pointed={pointed} onPoint={setPointed} />
        <Pointed row={pointed} finding={pointed === undefined ? undefined : rows[pointed]?.problems[0]} />
      </div>
    </section>
  );
}
