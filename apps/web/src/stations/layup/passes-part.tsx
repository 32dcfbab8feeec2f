/** A print in passes: colour and white one after another, each with all art or with some of it, a page of the file for each. */
import { isPrint, itemOf, leavesOf, pageOf, setFilmFields, usualPasses, type Drawing, type Item, type PassRule } from '@lorvek/model';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { ArrowDown, ArrowUp, FlipHorizontal2, Plus, Trash2 } from 'lucide-react';
import { dispatch, useDocument } from '../../document/store.ts';
import { Button, IconButton } from '../../ui/button.tsx';
import { Pick, Switch } from '../../ui/choices.tsx';

const ALL = 'all-art';
const MOST = 8;

/** Items and groups of the first level that have art of a layer. */
function topItems(drawing: Drawing, layerId: string): Item[] {
  return pageOf(drawing).root.flatMap((id) => {
    const item = itemOf(drawing, id);
    return item && leavesOf(drawing, [id]).some(({ layer }) => layer === layerId) ? [item] : [];
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

export function PassesPart({ sheet }: { sheet: SheetPlan }) {
  const drawing = useDocument((state) => state.drawing);
  const { layer } = sheet;
  if (!isPrint(layer)) return null;
  const isOf = layer.white?.where === 'between';
  const passes = layer.passes ?? (isOf ? usualPasses(layer) : undefined);
  const put = (next: PassRule[] | undefined): void =>
    void dispatch(setFilmFields, { id: layer.id, fields: { passes: next } }, { origin: 'print.passes' });
  const items = topItems(drawing, layer.id);
  const changed = (at: number, ...instead: PassRule[]): PassRule[] => (passes ?? []).flatMap((pass, i) => (i === at ? instead : [pass]));
  const moved = (at: number, by: 1 | -1): PassRule[] => {
    const next = [...(passes ?? [])];
    const [pass] = next.splice(at, 1);
    if (pass) next.splice(at + by, 0, pass);
    return next;
  };
  return (
    <div className="flex flex-col gap-1 border-t pt-2">
      <Switch
        label="In passes, a page for each"
        checked={passes !== undefined}
        onChange={(on) => put(on ? usualPasses(layer) : undefined)}
      />
      {passes ? (
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
            <Button
              size="small"
              disabled={passes.length >= MOST}
              onClick={() => put([...passes, { kind: 'colour', items: null, mirror: false }])}
            >
              <Plus size={13} /> Colour
            </Button>
            <Button
              size="small"
              disabled={passes.length >= MOST}
              onClick={() => put([...passes, { kind: 'white', items: null, mirror: false }])}
            >
              <Plus size={13} /> White
            </Button>
          </div>
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
