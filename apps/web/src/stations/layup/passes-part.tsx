/** A print in passes: colour and white one after another, each with all art or with some of it, a page of the file for each. */
import type { Box } from '@lorvek/core/geometry';
import { describeLength, type LengthUnit } from '@lorvek/core/units';
import {
  isPrint,
  itemOf,
  layerOf,
  leavesOf,
  moveEach,
  pageOf,
  setFilmFields,
  USUAL_WHITE,
  usualPasses,
  type Drawing,
  type Item,
  type PassRule,
} from '@lorvek/model';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { ArrowDown, ArrowUp, FlipHorizontal2, Layers2, Plus, Trash2 } from 'lucide-react';
import { toast } from 'sonner';
import { asOne, dispatch, useDocument } from '../../document/store.ts';
import { boxOf } from '../../drawing/selection.ts';
import { Button, IconButton } from '../../ui/button.tsx';
import { Switch } from '../../ui/choices.tsx';
import { Pick } from '../../ui/pick.tsx';

const ALL = 'all-art';
const MOST = 8;

/** Items and groups of the first level that have art of a layer. */
function topItems(drawing: Drawing, layerId: string): Item[] {
  return pageOf(drawing).root.flatMap((id) => {
    const item = itemOf(drawing, id);
    return item && leavesOf(drawing, [id]).some(({ layer }) => layer === layerId) ? [item] : [];
  });
}

/** What a print can be split into: the parts of its one group, or else its items of the first level. */
function splitOf(drawing: Drawing, layerId: string): Item[] {
  const tops = topItems(drawing, layerId);
  const [only] = tops;
  if (tops.length !== 1 || only?.kind !== 'group') return tops;
  return only.children.flatMap((id) => {
    const item = itemOf(drawing, id);
    return item && leavesOf(drawing, [id]).some(({ layer }) => layer === layerId) ? [item] : [];
  });
}

/** Sizes that differ by more are not of one print, mm. */
const SAME_MM = 0.1;

/**
 * A pass for each of some items, the lowest first; what is called white is laid down white. Files of one size are put on one
 * another; others are refused with both sizes.
 */
function splitIntoPasses(drawing: Drawing, layerId: string, unit: LengthUnit): void {
  const parts = splitOf(drawing, layerId);
  const layer = layerOf(drawing, layerId);
  const rules = parts.map(({ id, name }): PassRule => ({
    kind: /white|weiß|weiss|blanc/i.test(name) ? 'white' : 'colour',
    items: [id],
    mirror: false,
  }));
  const isOneFile = pageOf(drawing).root.every((id) => !parts.some((part) => part.id === id));
  const boxes = parts.flatMap(({ id }) => boxOf(drawing, [id]) ?? []);
  if (boxes.length < parts.length) return void toast.info('One of them is still being worked out.');
  const [first] = boxes;
  const sizeOf = ({ minX, minY, maxX, maxY }: Box): [number, number] => [maxX - minX, maxY - minY];
  const say = (box: Box): string =>
    sizeOf(box)
      .map((mm) => describeLength(Math.round(mm * 10) / 10, unit))
      .join(' × ');
  const other = first && boxes.findIndex((box) => sizeOf(box).some((mm, i) => Math.abs(mm - (sizeOf(first)[i] ?? 0)) > SAME_MM));
  if (first && !isOneFile && other !== undefined && other >= 0)
    return void toast.error(
      `Files that are printed on one another have one size: “${parts[0]?.name}” is ${say(first)}, “${parts[other]?.name}” is ${say(boxes[other] as Box)}.`,
    );
  asOne({ origin: 'print.passes' }, () => {
    const moves = parts.map(({ id }, i) => {
      const box = boxes[i] as Box;
      return { id, dx: (first?.minX ?? 0) - box.minX, dy: (first?.minY ?? 0) - box.minY };
    });
    const going = isOneFile ? [] : moves.filter(({ dx, dy }) => Math.hypot(dx, dy) > 1e-4);
    if (going.length > 0) dispatch(moveEach, { moves: going }, { origin: 'print.passes' });
    // a pass of white needs a rule that says how much of it
    const white = rules.some(({ kind }) => kind === 'white') && isPrint(layer) && !layer.white ? { white: USUAL_WHITE } : {};
    dispatch(setFilmFields, { id: layerId, fields: { passes: rules, ...white } }, { origin: 'print.passes' });
  });
}

interface PassRowProps {
  readonly pass: PassRule;
  readonly index: number;
  readonly of: number;
  readonly items: readonly Item[];
  change(pass: PassRule): void;
  move(by: 1 | -1): void;
  remove(): void;
}

function PassRow({ pass, index, of, items, change, move, remove }: PassRowProps) {
  const name = `pass ${index + 1}`;
  return (
    <li className="flex flex-col gap-1 border-t py-1.5 first:border-t-0">
      <div className="flex items-center gap-1">
        <span className="numerals w-4 text-ink-soft">{index + 1}</span>
        <div className="w-24">
          <Pick
            label={`Kind of ${name}`}
            hideLabel
            value={pass.kind}
            options={[
              { value: 'colour', text: 'Colour' },
              { value: 'white', text: 'White' },
            ]}
            onChange={(kind) => change({ ...pass, kind })}
          />
        </div>
        <IconButton
          label={`Turn ${name} over, left to right`}
          className="size-7!"
          aria-pressed={pass.mirror}
          onClick={() => change({ ...pass, mirror: !pass.mirror })}
        >
          <FlipHorizontal2 size={14} className={pass.mirror ? 'text-teal' : ''} />
        </IconButton>
        <span className="flex-1" />
        <IconButton label={`Print ${name} earlier`} className="size-6!" disabled={index === 0} onClick={() => move(-1)}>
          <ArrowUp size={13} />
        </IconButton>
        <IconButton label={`Print ${name} later`} className="size-6!" disabled={index === of - 1} onClick={() => move(1)}>
          <ArrowDown size={13} />
        </IconButton>
        <IconButton label={`Take ${name} away`} className="size-6!" disabled={of === 1} onClick={remove}>
          <Trash2 size={13} />
        </IconButton>
      </div>
      <Pick
        label={`Art of ${name}`}
        hideLabel
        value={pass.items?.[0] ?? ALL}
        options={[
          { value: ALL, text: pass.mirror ? 'All art, turned over' : 'All art' },
          ...items.map(({ id, name: text }) => ({ value: id, text })),
          // what was there and is not any more is still said
          ...(pass.items?.[0] && !items.some(({ id }) => id === pass.items?.[0])
            ? [{ value: pass.items[0], text: 'An item that is gone' }]
            : []),
        ]}
        onChange={(id) => change({ ...pass, items: id === ALL ? null : [id] })}
      />
    </li>
  );
}

interface PassListProps {
  readonly passes: readonly PassRule[];
  /** What a pass can be of alone. */
  readonly items: readonly Item[];
  put(passes: PassRule[]): void;
}

/** The passes in the order of printing. */
function PassList({ passes, items, put }: PassListProps) {
  const changed = (at: number, ...instead: PassRule[]): PassRule[] => passes.flatMap((pass, i) => (i === at ? instead : [pass]));
  const moved = (at: number, by: 1 | -1): PassRule[] => {
    const next = [...passes];
    const [pass] = next.splice(at, 1);
    if (pass) next.splice(at + by, 0, pass);
    return next;
  };
  const add = (kind: PassRule['kind']): void => put([...passes, { kind, items: null, mirror: false }]);
  return (
    <>
      <ol aria-label="Passes in the order of printing">
        {passes.map((pass, i) => (
          <PassRow
            key={i}
            pass={pass}
            index={i}
            of={passes.length}
            items={items}
            change={(next) => put(changed(i, next))}
            move={(by) => put(moved(i, by))}
            remove={() => put(changed(i))}
          />
        ))}
      </ol>
      <div className="flex gap-2">
        <Button size="small" disabled={passes.length >= MOST} onClick={() => add('colour')}>
          <Plus size={13} /> Colour
        </Button>
        <Button size="small" disabled={passes.length >= MOST} onClick={() => add('white')}>
          <Plus size={13} /> White
        </Button>
      </div>
    </>
  );
}

export function PassesPart({ sheet }: { sheet: SheetPlan }) {
  const drawing = useDocument((state) => state.drawing);
  const { unit } = pageOf(drawing);
  const { layer } = sheet;
  if (!isPrint(layer)) return null;
  const isOf = layer.white?.where === 'between';
  const passes = layer.passes ?? (isOf ? usualPasses(layer) : undefined);
  const put = (next: PassRule[] | undefined): void =>
    void dispatch(setFilmFields, { id: layer.id, fields: { passes: next } }, { origin: 'print.passes' });
  const split = splitOf(drawing, layer.id);
  // also parts of a group can be passes of their own
  const items = [
    ...new Map([...topItems(drawing, layer.id), ...(split.length <= 40 ? split : [])].map((item) => [item.id, item])).values(),
  ];
  return (
    <div className="flex flex-col gap-1 border-t pt-2">
      <Switch
        label="In passes, a page for each"
        checked={passes !== undefined}
        onChange={(on) => put(on ? usualPasses(layer) : undefined)}
      />
      {split.length > 1 && split.length <= MOST ? (
        <Button size="small" onClick={() => splitIntoPasses(drawing, layer.id, unit)}>
          <Layers2 size={13} /> A pass for each of its {split.length} parts
        </Button>
      ) : null}
      {passes ? (
        <>
          <PassList passes={passes} items={items} put={put} />
          <p className="text-[13px] text-ink-soft">
            {isOf && !layer.passes
              ? 'Between two colours: the first one is turned over, so that both are read the right way round.'
              : 'Art that is chosen for passes has one size.'}
          </p>
        </>
      ) : (
        <p className="text-[13px] text-ink-soft">
          One page holds the colour and white as a plate of its own; the printer is set for their order.
        </p>
      )}
    </div>
  );
}
