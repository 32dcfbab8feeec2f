/** Lettering or a picture that differs from piece to piece of a series: its pattern, and what becomes of long words. */
import {
  goneColumns,
  newField,
  rowsToLay,
  seriesOf,
  setField,
  USUAL_COUNTER,
  setSeries,
  writtenOf,
  type Field,
  type Series,
  pageOf,
  type LetteringItem,
  type PictureItem,
} from '@lorvek/model';
import { ListPlus } from 'lucide-react';
import { asOne, dispatch, useDocument } from '../../document/store.ts';
import { Button } from '../../ui/button.tsx';
import { Card, Notice } from '../../ui/card.tsx';
import { Switch } from '../../ui/choices.tsx';
import { Pick } from '../../ui/pick.tsx';
import { LengthField, NumberField } from '../../ui/fields.tsx';
import { localBoxOf, outlineOf } from '../../worker/derived.ts';
import { ListDialog } from '../../series/list-dialog.tsx';
import { openList, useSeriesView } from '../../series/view.ts';

const LONG = [
  { value: 'as-is', text: 'Left as it is' },
  { value: 'smaller', text: 'Smaller letters' },
  { value: 'narrower', text: 'Narrower letters' },
  { value: 'two-lines', text: 'Broken in two lines' },
] as const;

/** What the field says on the first pieces. */
function Sample({ series, field }: { series: Series; field: Field }) {
  let texts: string[];
  try {
    texts = rowsToLay(series)
      .slice(0, 3)
      .map((row) => writtenOf(field.pattern, series, row).text);
  } catch (error) {
    return <Notice level="stop">{error instanceof Error ? error.message : String(error)}</Notice>;
  }
  const gone = goneColumns(series).filter(({ item }) => item === field.item);
  return (
    <>
      {gone.length > 0 ? <Notice level="stop">The list has no column {gone.map(({ column }) => `“${column}”`).join(', ')}.</Notice> : null}
      <p className="text-[13px] text-ink-soft" dir="auto">
        {texts.length > 0 ? `${texts.join(' / ')} …` : 'No row is on.'}
      </p>
    </>
  );
}

/** Width of the ink as drawn, on the drawing, mm. */
function widthOf(item: LetteringItem): number {
  const outline = outlineOf(item);
  if (!outline || outline.contours.length === 0) return 100;
  const { minX, maxX } = localBoxOf(outline);
  return Math.round((maxX - minX) * Math.hypot(item.matrix[0], item.matrix[1]) * 10) / 10;
}

function LongFields({ item, field, set }: { item: LetteringItem; field: Field; set(fields: Partial<Field>, group?: string): void }) {
  const { unit } = pageOf(useDocument((state) => state.drawing));
  return (
    <>
      <Pick
        label="Text longer than its place"
        value={field.long}
        options={LONG.map((one) => ({ ...one }))}
        onChange={(long) => set({ long })}
      />
      {field.long === 'smaller' || field.long === 'narrower' ? (
        <NumberField
          wide
          label={field.long === 'smaller' ? 'Not smaller than' : 'Not narrower than'}
          value={field.leastPct}
          suffix="%"
          decimals={0}
          min={10}
          max={100}
          onChange={(leastPct) => set({ leastPct })}
        />
      ) : null}
      <Switch
        label="Place as wide as drawn"
        checked={field.widthMm === null}
        onChange={(asDrawn) => set({ widthMm: asDrawn ? null : widthOf(item) })}
      />
      {field.widthMm !== null ? (
        <LengthField wide label="Width of its place" mm={field.widthMm} unit={unit} minMm={1} onChange={(widthMm) => set({ widthMm })} />
      ) : null}
    </>
  );
}

/** A column's name, short enough for a button. */
const shortName = (name: string): string => (name.length > 18 ? `${name.slice(0, 17)}…` : name);

interface FieldProps {
  readonly item: LetteringItem | PictureItem;
  readonly series: Series;
  readonly field: Field;
}

/** What differs from piece to piece. */
function FieldFields({ item, series, field }: FieldProps) {
  const isLettering = item.kind === 'lettering';
  const columns = series.list?.columns ?? [];
  const set = (fields: Partial<Field>, group = ''): void =>
    void dispatch(setField, { item: item.id, field: { ...field, ...fields } }, { origin: 'series.field', group });
  return (
    <>
      <label className="flex flex-col gap-1">
        <span className="rule-label">{isLettering ? 'Words of each piece' : 'File name of each picture'}</span>
        <input
          aria-label={isLettering ? 'Words of each piece' : 'File name of each picture'}
          dir="auto"
          value={field.pattern}
          maxLength={2000}
          onKeyDown={(event) => event.stopPropagation()}
          onChange={(event) => set({ pattern: event.target.value }, `pattern ${item.id}`)}
          className="h-8 border border-line-strong bg-sheet px-2"
        />
      </label>
      <div className="flex flex-wrap gap-1">
        {['n', ...columns.slice(0, 20)].map((name) => (
          <Button
            key={name}
            size="small"
            title={name === 'n' ? 'The counter' : `The column ${name}`}
            onClick={() => set({ pattern: `${field.pattern}{${name}}` })}
          >
            {name === 'n' ? '+ counter' : `+ ${shortName(name)}`}
          </Button>
        ))}
      </div>
      <Sample series={series} field={field} />
      {isLettering ? <LongFields item={item} field={field} set={set} /> : null}
      <div className="flex flex-wrap gap-1.5">
        <Button size="small" onClick={() => openList(true)}>
          <ListPlus size={14} /> {series.list ? 'Read a newer list…' : 'Read a list…'}
        </Button>
        <Button size="small" onClick={() => dispatch(setField, { item: item.id, field: null }, { origin: 'series.field' })}>
          The same on every piece
        </Button>
      </div>
      <p className="text-[13px] text-ink-soft">What stands on the drawing is the sample. Lay up makes a piece for each row.</p>
    </>
  );
}

/** Lets an item differ from piece to piece. */
function BeginField({ item, series }: { item: LetteringItem | PictureItem; series: Series | undefined }) {
  const isLettering = item.kind === 'lettering';
  const columns = series?.list?.columns ?? [];
  const begin = (pattern: string): void =>
    void asOne({ origin: 'series.field' }, () => {
      dispatch(setField, { item: item.id, field: newField(item.id, pattern) }, { origin: 'series.field' });
      if (pattern.includes('{n}') && !series?.counter)
        dispatch(setSeries, { fields: { counter: USUAL_COUNTER } }, { origin: 'series.counter' });
    });
  return (
    <>
      <p className="text-[13px]">
        {isLettering
          ? 'Let these words differ from piece to piece: names from a customer’s list, numbers that count up.'
          : 'Let this picture differ from piece to piece: by file names in a customer’s list.'}
      </p>
      <div className="flex flex-wrap gap-1.5">
        {columns.slice(0, 12).map((name) => (
          <Button key={name} size="small" onClick={() => begin(`{${name}}`)}>
            Take “{shortName(name)}”
          </Button>
        ))}
        {isLettering ? (
          <Button size="small" onClick={() => begin('{n}')}>
            Count up
          </Button>
        ) : null}
        {columns.length === 0 ? (
          <Button size="small" onClick={() => openList(true)}>
            <ListPlus size={14} /> Read a list…
          </Button>
        ) : null}
      </div>
    </>
  );
}

export function FieldCard({ item }: { item: LetteringItem | PictureItem }) {
  const series = useDocument((state) => seriesOf(state.drawing));
  const isOpen = useSeriesView((state) => state.listOpen);
  const field = series?.fields.find((one) => one.item === item.id);
  return (
    <Card title="Series field" startsOpen={field !== undefined}>
      {field && series ? <FieldFields item={item} series={series} field={field} /> : <BeginField item={item} series={series} />}
      <ListDialog open={isOpen} onClose={() => openList(false)} />
    </Card>
  );
}
