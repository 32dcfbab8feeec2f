/** The weld family on the ticket: each operation shows what it would make before it is applied. */
import { mapOutline, parsePath, formatPath, bounds, joinBoxes, EMPTY_BOX, type Box } from '@lorvek/core/geometry';
import { AppError, CancelledError } from '@lorvek/core';
import { filmOf, itemOf, leavesOf, pageOf, replaceItems, type ShapeItem } from '@lorvek/model';
import { useEffect, useState } from 'react';
import { toast } from 'sonner';
import { sentenceOf } from '../../api/client.ts';
import { dispatch, newId, useDocument } from '../../document/store.ts';
import { weldFamily, type Made, type WeldKind } from '../../document/weld.ts';
import { underway } from '../../ui/underway.ts';
import { stopAside } from '../../worker/compute.ts';
import { Card } from '../../ui/card.tsx';
import { Hint } from '../../ui/button.tsx';
import { useDerivedVersion } from '../../worker/derived.ts';

const KINDS: readonly { kind: WeldKind; name: string; says: string }[] = [
  { kind: 'weld', name: 'Weld', says: 'One shape that covers what any of them covers' },
  { kind: 'knock-back', name: 'Knock out of back', says: 'The backmost item, less all in front of it' },
  { kind: 'knock-front', name: 'Knock out of front', says: 'The frontmost item, less all behind it' },
  { kind: 'keep', name: 'Keep overlap', says: 'Only where all of them lie over one another' },
  { kind: 'drop', name: 'Drop overlap', says: 'What an odd number of them covers' },
  { kind: 'split', name: 'Split', says: 'Every piece into which they divide one another' },
  { kind: 'flatten', name: 'Flatten colours', says: 'Inlay on one level: every colour keeps only what is visible of it' },
  { kind: 'compound', name: 'One compound', says: 'All lines in one shape, as they are; nothing is joined' },
];

/** Pieces in shades, so that a split is seen even when all are of one film. */
const SHADES = ['#0d5c5f', '#4a9a93', '#16202e', '#8a5200', '#6d7f8c', '#9bb8b2'];

/** Beyond this many items there are no pictures of what would come of them. */
const MOST_SHOWN = 40;

type Preview = { shapes: Made[] } | { why: string };

function PreviewPicture({ shapes }: { shapes: readonly Made[] }) {
  const drawing = useDocument((state) => state.drawing);
  const inFilms = new Set(shapes.map((shape) => shape.layer)).size > 1;
  const outlines = shapes.map((shape) => mapOutline([1, 0, 0, -1, shape.matrix[4], -shape.matrix[5]], parsePath(shape.path)));
  const box = outlines.reduce<Box>((sum, outline) => joinBoxes(sum, bounds(outline)), EMPTY_BOX);
  const [width, height] = [box.maxX - box.minX, box.maxY - box.minY];
  return (
    <svg viewBox={`${box.minX} ${box.minY} ${width} ${height}`} className="h-10 w-full" aria-hidden>
      {outlines.map((outline, i) => (
        <path
          key={i}
          d={formatPath(outline, 2)}
          fill={(inFilms ? filmOf(drawing, shapes[i]?.layer ?? null)?.hex : undefined) ?? SHADES[i % SHADES.length]}
        />
      ))}
    </svg>
  );
}

/** Previews one after another, a moment after the selection has settled. */
function usePreviews(ids: readonly string[]): Partial<Record<WeldKind, Preview>> {
  const drawing = useDocument((state) => state.drawing);
  const version = useDerivedVersion((state) => state.version);
  const [previews, setPreviews] = useState<Partial<Record<WeldKind, Preview>>>({});
  useEffect(() => {
    let current = true;
    setPreviews({});
    // pictures of many would hold up what is asked for
    if (leavesOf(drawing, ids).length > MOST_SHOWN) return undefined;
    const work = async (): Promise<void> => {
      for (const { kind } of KINDS) {
        if (!current) return;
        const preview = await weldFamily(kind, drawing, ids, pageOf(drawing).layers).then(
          (shapes): Preview => ({ shapes }),
          (error: unknown): Preview => ({ why: sentenceOf(error) }),
        );
        if (current) setPreviews((known) => ({ ...known, [kind]: preview }));
      }
    };
    const timer = setTimeout(() => void work(), 150);
    return () => {
      current = false;
      clearTimeout(timer);
    };
  }, [drawing, ids, version]);
  return previews;
}

async function apply(kind: WeldKind, name: string, ids: readonly string[]): Promise<void> {
  const { drawing } = useDocument.getState();
  try {
    const made = await underway(name, stopAside, (onShare) => weldFamily(kind, drawing, ids, pageOf(drawing).layers, onShare));
    if (useDocument.getState().drawing !== drawing) throw new AppError('stale', 'The drawing has changed meanwhile. Do it again.');
    const items = made.map((shape): ShapeItem => ({ ...shape, id: newId('item') }));
    const [only] = ids;
    const group = ids.length === 1 && only !== undefined ? itemOf(drawing, only) : undefined;
    // what comes of a group stays together under its name
    const whole =
      group?.kind === 'group' && items.length > 1 && kind !== 'parts'
        ? { ...group, id: newId('item'), children: items.map(({ id }) => id) }
        : undefined;
    dispatch(
      replaceItems,
      { ids, items: whole ? [...items, whole] : items, ...(whole ? { roots: [whole.id] } : {}) },
      { origin: `item.${kind}` },
    );
  } catch (error) {
    if (!(error instanceof CancelledError)) toast.warning(`${name}: ${sentenceOf(error)}`);
  }
}

/** Splits items into their parts: each outer line with its holes on its own. */
export const splitIntoParts = (ids: readonly string[]): Promise<void> => apply('parts', 'Split into parts', ids);

export function WeldCard({ ids }: { ids: readonly string[] }) {
  const previews = usePreviews(ids);
  const many = leavesOf(
    useDocument((state) => state.drawing),
    ids,
  ).length;
  return (
    <Card title="Join and cut up">
      {many > MOST_SHOWN ? (
        <p className="text-[13px] text-ink-soft">{many} items: what comes of them is not shown before. Undo takes it back.</p>
      ) : null}
      <div className="grid grid-cols-2 gap-1.5">
        {KINDS.map(({ kind, name, says }) => {
          const preview = previews[kind];
          const why = preview && 'why' in preview ? preview.why : undefined;
          return (
            <Hint key={kind} side="left" text={why ?? says}>
              <button
                type="button"
                aria-disabled={why !== undefined}
                onClick={() => (why === undefined ? void apply(kind, name, ids) : toast.warning(`${name}: ${why}`))}
                className="flex flex-col items-center gap-1 border border-line-strong bg-sheet px-1 pt-1.5 pb-1 hover:bg-teal-wash aria-disabled:opacity-45"
              >
                <span className="flex h-10 w-full items-center justify-center">
                  {preview && 'shapes' in preview ? <PreviewPicture shapes={preview.shapes} /> : null}
                </span>
                <span className="text-[13px]">{name}</span>
              </button>
            </Hint>
          );
        })}
      </div>
    </Card>
  );
}
