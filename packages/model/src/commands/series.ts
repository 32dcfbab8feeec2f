/** Commands on the series of a job: its fields, its list, its counter, single rows. */
import { describeIssue } from '../records/plain-issue.ts';
import { newSeries, SERIES_ID, seriesSchema, type Field, type ReadRows, type Series } from '../records/series.ts';
import { itemOf } from '../queries/queries.ts';
import { seriesOf, withList } from '../queries/series-rows.ts';
import { planOf, refuse, type Command, type EditorState, type Plan } from './plan.ts';

function put(state: EditorState, next: Series): Plan {
  const parsed = seriesSchema.safeParse(next);
  return parsed.success
    ? planOf(state, () => ({ ...state.drawing, [SERIES_ID]: parsed.data }))
    : refuse(`That cannot be: ${describeIssue(parsed.error.issues[0])}.`);
}

const now = (state: EditorState): Series => seriesOf(state.drawing) ?? newSeries();

/** Fields of the series; it is begun when there is none. */
export const setSeries: Command<{ fields: Partial<Omit<Series, 'type' | 'id'>> }> = (state, { fields }) =>
  put(state, { ...now(state), ...fields });

/** All rows again, after some alone were made again. */
export const layAllRows: Command<object> = (state) => {
  const { only: _only, ...rest } = now(state);
  return put(state, rest);
};

/** Makes an item differ from row to row; null: it stays the same again. */
export const setField: Command<{ item: string; field: Omit<Field, 'item'> | null }> = (state, { item, field }) => {
  const own = itemOf(state.drawing, item);
  if (field && own?.kind !== 'lettering' && own?.kind !== 'picture') return refuse('Lettering and pictures can differ from row to row.');
  const series = now(state);
  const others = series.fields.filter((one) => one.item !== item);
  const at = series.fields.findIndex((one) => one.item === item);
  const fields = field
    ? at >= 0
      ? series.fields.map((one, i) => (i === at ? { ...field, item } : one))
      : [...others, { ...field, item }]
    : others;
  return put(state, { ...series, fields });
};

/** Takes a list, or a newer one. */
export const takeList: Command<{ list: ReadRows }> = (state, { list }) => {
  if (list.rows.length === 0) return refuse('This list has no rows.');
  return put(state, withList(now(state), list));
};

/** Corrects one value by hand; the list's own value takes the correction back. */
export const correctCell: Command<{ row: number; column: number; text: string }> = (state, { row, column, text }) => {
  const series = now(state);
  const { [String(column)]: _was, ...others } = series.corrections[String(row)] ?? {};
  const own = text === (series.list?.rows[row]?.[column] ?? '') ? others : { ...others, [String(column)]: text };
  const { [String(row)]: _row, ...rest } = series.corrections;
  return put(state, { ...series, corrections: Object.keys(own).length > 0 ? { ...rest, [String(row)]: own } : rest });
};

/** Leaves rows out, or takes them in again. */
export const setRowsOn: Command<{ rows: readonly number[]; on: boolean }> = (state, { rows, on }) => {
  const series = now(state);
  const off = new Set(series.off);
  for (const row of rows)
    if (on) off.delete(row);
    else off.add(row);
  return put(state, { ...series, off: [...off].sort((a, b) => a - b) });
};

/** How often a row is made. */
export const setRowCopies: Command<{ row: number; copies: number }> = (state, { row, copies }) => {
  const series = now(state);
  const { [String(row)]: _was, ...rest } = series.copies;
  return put(state, { ...series, copies: copies === 1 ? rest : { ...rest, [String(row)]: copies } });
};

/** Ends the series: the design is laid up as it is drawn again. */
export const removeSeries: Command<object> = (state) => {
  const { [SERIES_ID]: series, ...rest } = state.drawing;
  return series ? planOf(state, () => rest) : refuse('There is no series.');
};
