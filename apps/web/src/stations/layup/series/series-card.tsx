/** The series on Lay up: its list or its count, its rows, how many go on a sheet, and the sheets with their rows. */
import { removeSeries, seriesOf, setSeries, type Run, type Series } from '@lorvek/model';
import { describeLength, type LengthUnit } from '@lorvek/core/units';
import { sheetLengthFor } from '@lorvek/model/lay-places';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { ListOrdered, ListPlus } from 'lucide-react';
import { useShop } from '../../../api/shop.ts';
import { useSheets } from '../../../document/sheets.ts';
import { dispatch, useDocument } from '../../../document/store.ts';
import { workingText } from '../../../frame/findings.tsx';
import { Button } from '../../../ui/button.tsx';
import { Card, Figure, Notice } from '../../../ui/card.tsx';
import { Switch } from '../../../ui/choices.tsx';
import { NumberField } from '../../../ui/fields.tsx';
import { SheetPicture } from '../../../drawing/sheet-picture.tsx';
import { change } from '../change.ts';
import { CounterFields } from './counter-fields.tsx';
import { ListDialog } from '../../../series/list-dialog.tsx';
import { Pictures } from './pictures.tsx';
import { openList, openRows, useSeriesView } from '../../../series/view.ts';

const MOST_SHOWN = 40;

/** Rows of a sheet in short, such as 1 to 4, 7. */
export function rowsText(sheet: Pick<SheetPlan, 'placements'>): string {
  const rows = [...new Set(sheet.placements.flatMap(({ part }) => /^row-(\d+)/.exec(part)?.[1] ?? []).map(Number))].sort((a, b) => a - b);
  if (rows.length === 0) return 'none of the rows';
  const runs: [number, number][] = [];
  for (const row of rows) {
    const last = runs.at(-1);
    if (last && row === last[1] + 1) last[1] = row;
    else runs.push([row, row]);
  }
  const parts = runs.slice(0, 6).map(([from, to]) => (from === to ? String(from) : `${from}–${to}`));
  return `${rows.length === 1 ? 'row' : 'rows'} ${parts.join(', ')}${runs.length > 6 ? ' …' : ''}`;
}

/** What became of a sheet on machines: made as it is, or made before it was changed. */
function madeOf(sheet: SheetPlan, runs: readonly Run[], jobId: string | undefined): string | undefined {
  const done = runs.filter((run) => run.jobId === jobId && run.sheet === sheet.id && run.state === 'done');
  if (done.length === 0) return undefined;
  const word = done.some(({ kind }) => kind === 'print')
    ? done.some(({ kind }) => kind === 'cut')
      ? 'printed and cut'
      : 'printed'
    : 'cut';
  const code = sheet.code?.text;
  return code === undefined || done.some((run) => run.code === code) ? word : `${word}, changed since`;
}

function Sheets({ sheets }: { sheets: readonly SheetPlan[] }) {
  const runs = useShop((state) => state.runs) ?? [];
  const jobId = useDocument((state) => state.job?.id);
  return (
    <ul className="grid max-h-80 grid-cols-2 gap-1.5 overflow-y-auto" aria-label="Sheets of the series">
      {sheets.slice(0, MOST_SHOWN).map((sheet) => {
        const made = madeOf(sheet, runs, jobId);
        return (
          <li key={sheet.id} className="min-w-0 text-xs">
            <SheetPicture sheet={sheet} />
            <span className="block truncate" title={rowsText(sheet)}>
              {sheet.number + 1}: {rowsText(sheet)}
            </span>
            {made ? <span className="block font-semibold text-teal">{made}</span> : null}
          </li>
        );
      })}
      {sheets.length > MOST_SHOWN ? <li className="text-xs text-ink-soft">and {sheets.length - MOST_SHOWN} sheets more</li> : null}
    </ul>
  );
}

/** Up to here it is soon done, and figures that flicker are not read. */
const SHORT_SHARE = 0.1;

/** How many go on a sheet; the sheet is made as long as they need. */
function PerSheet({ sheet, unit, count }: { sheet: SheetPlan; unit: LengthUnit; count: number }) {
  const busy = useSheets((state) => state.busy);
  const share = useSheets((state) => state.share);
  const { series } = sheet.filled;
  if (!series) return null;
  const isCut = Boolean(sheet.layUp.sheetLengthMm);
  const lengthFor = (pieces: number): number => sheetLengthFor(series, pieces);
  return (
    <>
      <Switch
        label="Sheets of their own"
        checked={isCut}
        onChange={(on) => change(sheet.layer.id, { sheetLengthMm: on ? lengthFor(Math.min(count, 4 * series.perRow)) : null })}
      />
      {isCut ? (
        <NumberField
          wide
          label="Pieces a sheet"
          value={Math.min(series.perSheet, count)}
          step={series.perRow}
          decimals={0}
          min={1}
          max={2000}
          hint={`${series.perRow} lie side by side; a sheet is as long as it has to be`}
          onChange={(pieces) => change(sheet.layer.id, { sheetLengthMm: lengthFor(Math.round(pieces)) })}
        />
      ) : null}
      <Figure name="Laid up" strong>
        {busy && share > SHORT_SHARE
          ? workingText(share)
          : isCut
            ? `${Math.min(series.perSheet, count)} a sheet, ${sheet.of} ${sheet.of === 1 ? 'sheet' : 'sheets'} of ${describeLength(sheet.layUp.sheetLengthMm ?? 0, unit)}`
            : `${count} on one strip of ${describeLength(Math.round(sheet.usedLengthMm), unit)}`}
      </Figure>
    </>
  );
}

function About({ series, sheet, unit }: { series: Series; sheet: SheetPlan; unit: LengthUnit }) {
  const all = useSheets((state) => state.sheets);
  const own = all.filter(({ layer }) => layer.id === sheet.layer.id);
  const count = sheet.parts.length;
  const rows = series.list?.rows.length ?? series.count;
  return (
    <>
      <Switch
        label="A piece for each row"
        checked={series.laid}
        onChange={(laid) => dispatch(setSeries, { fields: { laid } }, { origin: 'series.laid' })}
      />
      {series.fields.length === 0 ? (
        <Notice level="warning">
          Nothing differs from row to row yet. On Draw, select lettering or a picture and open its card “Series field”.
        </Notice>
      ) : null}
      {series.list ? (
        <Figure name="List">
          {series.list.fileName} · {rows} {rows === 1 ? 'row' : 'rows'}
        </Figure>
      ) : (
        <NumberField
          wide
          label="Pieces of the series"
          value={series.count}
          decimals={0}
          min={1}
          max={2000}
          onChange={(pieces) => dispatch(setSeries, { fields: { count: Math.round(pieces) } }, { origin: 'series.count' })}
        />
      )}
      {series.laid && series.fields.length > 0 ? <PerSheet sheet={sheet} unit={unit} count={count} /> : null}
      {series.only ? (
        <Notice level="note">
          Only {series.only.length === 1 ? `row ${(series.only[0] ?? 0) + 1}` : `${series.only.length} rows`} now. “Rows…” takes all again.
        </Notice>
      ) : null}
      {series.laid && series.fields.length > 0 && own.length > 0 ? <Sheets sheets={own} /> : null}
    </>
  );
}

export function SeriesCard({ sheet, unit }: { sheet: SheetPlan; unit: LengthUnit }) {
  const series = useDocument((state) => seriesOf(state.drawing));
  const isOpen = useSeriesView((state) => state.listOpen);
  const rowsOpen = useSeriesView((state) => state.rowsOpen);
  const counts = series?.fields.some(({ pattern }) => /\{\s*n\s*\}/i.test(pattern)) ?? false;
  return (
    <Card title="Series" startsOpen={false}>
      {series ? (
        <About series={series} sheet={sheet} unit={unit} />
      ) : (
        <p className="text-[13px]">One design, and for each row of a customer’s list, or each number, a piece of its own.</p>
      )}
      <div className="flex flex-wrap gap-1.5">
        <Button size="small" onClick={() => openList(true)}>
          <ListPlus size={14} /> {series?.list ? 'Read a newer list…' : 'Read a list…'}
        </Button>
        {series ? (
          <Button size="small" aria-pressed={rowsOpen} onClick={() => openRows(!rowsOpen)}>
            <ListOrdered size={14} /> {rowsOpen ? 'Close the rows' : 'Rows…'}
          </Button>
        ) : null}
        {series ? (
          <Button size="small" onClick={() => dispatch(removeSeries, {}, { origin: 'series.remove' })}>
            End the series
          </Button>
        ) : null}
      </div>
      {series && counts ? <CounterFields /> : null}
      {series ? <Pictures series={series} /> : null}
      <ListDialog open={isOpen} onClose={() => openList(false)} />
    </Card>
  );
}
