/** A live row: its pieces are spaced again at each change of pitch or gap, until the row is set. */
import { distribute, type Axis, type Spacing } from '@lorvek/core/placing';
import { describeLength, type LengthUnit } from '@lorvek/core/units';
import {
  addToRow,
  copyItems,
  endRow,
  groupItems,
  mapItem,
  pageOf,
  setItemFields,
  setRow,
  shortenRow,
  type GroupItem,
  type Item,
  type Row,
} from '@lorvek/model';
import { toast } from 'sonner';
import { gestureOf } from '../../document/gesture.ts';
import { asOne, dispatch, newId, select, useDocument } from '../../document/store.ts';
import { boxOf } from '../../drawing/selection.ts';
import { Button } from '../../ui/button.tsx';
import { Card, Figure, Notice } from '../../ui/card.tsx';
import { PickRow } from '../../ui/choices.tsx';
import { LengthField, NumberField } from '../../ui/fields.tsx';
import { useDerivedVersion } from '../../worker/derived.ts';

const MOST_PIECES = 2000;
/** Pieces that stand otherwise than their row says by less are where they should be, mm. */
const OFF_MM = 0.005;

/** The boxes of a row's pieces on the drawing as it is now; undefined while one is not worked out. */
function boxesOf(children: readonly string[]) {
  const { drawing } = useDocument.getState();
  const boxes = children.map((id) => boxOf(drawing, [id]));
  return boxes.every((box) => box !== undefined) ? boxes : undefined;
}

function movesFor(children: readonly string[], { axis, spacing, distanceMm }: Row) {
  const boxes = boxesOf(children);
  if (!boxes) return undefined;
  const { shifts, overallMm } = distribute(boxes, axis, spacing, distanceMm);
  const moves = children.map((id, i) => ({ id, dx: axis === 'x' ? (shifts[i] ?? 0) : 0, dy: axis === 'y' ? (shifts[i] ?? 0) : 0 }));
  return { moves, overallMm, boxes };
}

/** Items become a row, and are spaced as it says. */
export function makeRow(ids: readonly string[], row: Row, more: () => readonly string[] = () => []): void {
  const groupId = newId('item');
  const made = asOne({ origin: 'row.make' }, () => {
    const all = [...ids, ...more()];
    const moves = movesFor(all, row)?.moves ?? [];
    if (!dispatch(groupItems, { ids: all, groupId }, { origin: 'row.make' })) return;
    dispatch(setItemFields, { id: groupId, fields: { name: `Row of ${all.length}` } }, { origin: 'row.make' });
    dispatch(setRow, { id: groupId, row, moves }, { origin: 'row.make' });
  });
  if (made) select([groupId]);
}

const NAMES: Readonly<Record<Spacing, string>> = { gap: 'Gap', 'edge-pitch': 'Pitch', 'centre-pitch': 'Centre pitch' };

/** The same distance said in another way, so that nothing moves when the way is changed: by the first two pieces. */
function saidAs(children: readonly string[], { axis }: Row, spacing: Spacing): number | undefined {
  const boxes = boxesOf(children);
  if (!boxes) return undefined;
  const low = (k: number): number => (axis === 'x' ? (boxes[k]?.minX ?? 0) : (boxes[k]?.minY ?? 0));
  const high = (k: number): number => (axis === 'x' ? (boxes[k]?.maxX ?? 0) : (boxes[k]?.maxY ?? 0));
  const order = boxes.map((_, k) => k).sort((a, b) => low(a) + high(a) - low(b) - high(b));
  const [a = 0, b = 0] = order;
  const mm = spacing === 'gap' ? low(b) - high(a) : spacing === 'edge-pitch' ? low(b) - low(a) : (low(b) + high(b) - low(a) - high(a)) / 2;
  return Math.round(mm * 1000) / 1000;
}

/** Changes how a row is spaced, and moves its pieces. */
function changeRow({ id, children }: GroupItem, row: Row, fields: Partial<Row>): void {
  const next = { ...row, ...fields };
  const laid = movesFor(children, next);
  const group = gestureOf(`row ${Object.keys(fields).join()}`);
  if (laid) dispatch(setRow, { id, row: next, moves: laid.moves }, { origin: 'row.set', group });
  else toast.info('One of its pieces is still being worked out.');
}

function setCount(group: GroupItem, row: Row, count: number): void {
  const more = count - group.children.length;
  if (more < 0) dispatch(shortenRow, { id: group.id, count }, { origin: 'row.count' });
  else if (more > 0) lengthen(group, row, more);
}

function RowFields({ group, row, unit }: { group: GroupItem; row: Row; unit: LengthUnit }) {
  const { children } = group;
  const change = (fields: Partial<Row>): void => changeRow(group, row, fields);
  return (
    <>
      <div className="grid grid-cols-2 gap-2">
        <NumberField
          label="Pieces"
          value={children.length}
          decimals={0}
          min={2}
          max={MOST_PIECES}
          onChange={(count) => setCount(group, row, count)}
        />
        <LengthField
          label={NAMES[row.spacing]}
          mm={row.distanceMm}
          unit={unit}
          {...(row.spacing === 'gap' ? {} : { minMm: 0.01 })}
          onChange={(distanceMm) => change({ distanceMm })}
        />
      </div>
      <PickRow
        label="Distances are"
        value={row.spacing}
        options={[
          { value: 'gap', label: 'Gap: the clear way between neighbours', content: 'Gap' },
          { value: 'edge-pitch', label: 'Pitch: from one edge to the same edge of the next', content: 'Pitch' },
          { value: 'centre-pitch', label: 'Centre pitch: from centre to centre', content: 'Centres' },
        ]}
        onChange={(spacing) => change({ spacing, distanceMm: saidAs(children, row, spacing) ?? row.distanceMm })}
      />
    </>
  );
}

export function RowCard({ group, row }: { group: GroupItem; row: Row }) {
  useDerivedVersion();
  const { unit } = pageOf(useDocument((state) => state.drawing));
  const { children } = group;
  const now = movesFor(children, row);
  const say = (mm: number | undefined): string => (mm === undefined ? '…' : describeLength(Math.round(mm * 1000) / 1000, unit));
  const isOff = now?.moves.some(({ dx, dy }) => Math.hypot(dx, dy) > OFF_MM) ?? false;
  return (
    <Card title="Row">
      <RowFields group={group} row={row} unit={unit} />
      <Figure name="Gap">{say(saidAs(children, row, 'gap'))}</Figure>
      <Figure name="Pitch">{say(saidAs(children, row, 'edge-pitch'))}</Figure>
      <Figure name="Overall size" strong>
        {say(now?.overallMm)}
      </Figure>
      {isOff ? (
        <Notice level="note">
          Its pieces no longer stand as the row says.
          <Button size="small" className="mt-1" onClick={() => changeRow(group, row, {})}>
            Space them again
          </Button>
        </Notice>
      ) : null}
      <Button
        size="small"
        onClick={() => {
          const pieces = [...children];
          if (dispatch(endRow, { id: group.id }, { origin: 'row.end' })) select(pieces);
        }}
      >
        Set: make them pieces of their own
      </Button>
    </Card>
  );
}

/** Copies of the last piece go on at the end. */
function lengthen(group: GroupItem, row: Row, count: number): void {
  const { drawing } = useDocument.getState();
  const last = group.children.at(-1);
  const box = last === undefined ? undefined : boxOf(drawing, [last]);
  if (last === undefined || !box) return;
  const size = row.axis === 'x' ? box.maxX - box.minX : box.maxY - box.minY;
  const pitch = row.spacing === 'gap' ? size + row.distanceMm : row.distanceMm;
  const items: Item[] = [];
  const roots: string[] = [];
  for (let k = 1; k <= count; k++) {
    const copy = copyItems(drawing, [last], () => newId('item'));
    const map = row.axis === 'x' ? ([1, 0, 0, 1, k * pitch, 0] as const) : ([1, 0, 0, 1, 0, k * pitch] as const);
    items.push(...copy.items.map((item) => (item.kind === 'group' ? item : mapItem(item, map))));
    roots.push(...copy.roots);
  }
  dispatch(addToRow, { id: group.id, items, roots }, { origin: 'row.count' });
}

export const axisOf = (dx: number, dy: number): Axis | undefined => (dy === 0 ? 'x' : dx === 0 ? 'y' : undefined);
