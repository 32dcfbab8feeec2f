/** The treatments of an item: ordered cards, each on or off; copied to other items, kept as named styles, set. */
import { formatPath } from '@lorvek/core/geometry';
import {
  bendOf,
  giveTreatments,
  isPrint,
  layerOf,
  replaceItems,
  setSliver,
  setTreatments,
  sliverOf,
  pageOf,
  treatmentFor,
  treatmentPaint,
  type Drawing,
  type LeafItem,
  type ShapeItem,
  type TreatmentKind,
  type TreatmentRecord,
} from '@lorvek/model';
import { DndContext, KeyboardSensor, PointerSensor, useSensor, useSensors, type DragEndEvent } from '@dnd-kit/core';
import { arrayMove, SortableContext, sortableKeyboardCoordinates, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { ChevronDown, GripVertical, Plus, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import { create } from 'zustand';
import { dispatch, newId, useDocument } from '../../../document/store.ts';
import { Menu } from '../../../ui/menu.tsx';
import { Button, IconButton } from '../../../ui/button.tsx';
import { Card, Notice } from '../../../ui/card.tsx';
import { LengthField } from '../../../ui/fields.tsx';
import { localBoxOf, outlineOf, piecesOf, resultOf, useDerivedVersion, type Result } from '../../../worker/derived.ts';
import { BendFields, LayerOfTreatment, RingFields, ShadeFields, ToneFields } from './fields.tsx';
import { StyleMenu } from './style-menu.tsx';

export const KIND_NAMES: Record<TreatmentKind, string> = { bend: 'Bend', ring: 'Ring', shade: 'Shade', 'two-tone': 'Two-tone' };

/** Treatments that were copied, to be given to other items. */
const useCopied = create<{ copied: readonly TreatmentRecord[] }>(() => ({ copied: [] }));

const sizeOf = (item: LeafItem): number => {
  if (item.kind === 'lettering') return item.capHeightMm;
  const outline = outlineOf(item);
  if (!outline) return 50;
  const box = localBoxOf(outline);
  return Math.max(1, Math.min(box.maxX - box.minX, box.maxY - box.minY) / 2);
};

/** What the treatment says of itself in one line. */
function summary(t: TreatmentRecord): string {
  if (t.kind === 'bend') return { arch: 'arch', circle: 'circle', path: 'drawn line' }[t.line];
  if (t.kind === 'ring') return `${t.fill}, ${t.distanceMm} mm`;
  return t.kind === 'shade' ? `${t.shade}, ${t.meeting}` : t.edge;
}

/** Would the piece lie over the letters and hide them? */
function hides(drawing: Drawing, item: LeafItem, t: TreatmentRecord): boolean {
  if (t.kind !== 'ring' && t.kind !== 'shade') return false;
  const { layers: films } = pageOf(drawing);
  const isOver = t.layer !== null && item.layer !== null && films.indexOf(t.layer) > films.indexOf(item.layer);
  return isOver && (t.kind === 'ring' ? t.fill === 'backing' && t.distanceMm >= 0 : t.meeting === 'full');
}

/** What stands against a treatment: it leaves nothing, has no film, or hides what it belongs to. */
function Remarks({ t, item }: { t: TreatmentRecord; item: LeafItem }) {
  const drawing = useDocument((state) => state.drawing);
  const result = resultOf(item);
  const note = result?.error === undefined ? result?.notes?.[t.id] : undefined;
  return (
    <>
      {note ? <Notice level="warning">{note}</Notice> : null}
      {t.kind !== 'bend' && t.layer === null ? (
        <Notice level="note">No film or print yet: choose one, or take another from Stock at the left.</Notice>
      ) : null}
      {hides(drawing, item, t) ? (
        <Notice level="warning">Its film lies over the letters in the strip and hides them. Drag it below theirs.</Notice>
      ) : null}
    </>
  );
}

function Fields({ t, item, change }: { t: TreatmentRecord; item: LeafItem; change(fields: Partial<TreatmentRecord>): void }) {
  return (
    <div className="flex flex-col gap-2 border-t p-2">
      {t.kind === 'bend' ? <BendFields t={t} item={item} change={change} /> : null}
      {t.kind === 'ring' ? <RingFields t={t} change={change} /> : null}
      {t.kind === 'shade' ? <ShadeFields t={t} change={change} /> : null}
      {t.kind === 'two-tone' ? <ToneFields t={t} item={item} change={change} /> : null}
      {t.kind !== 'bend' ? <LayerOfTreatment t={t} change={change} /> : null}
    </div>
  );
}

function OneTreatment({
  t,
  item,
  open,
  onOpen,
  change,
  remove,
}: {
  t: TreatmentRecord;
  item: LeafItem;
  open: boolean;
  onOpen(): void;
  change(fields: Partial<TreatmentRecord>): void;
  remove(): void;
}) {
  const drawing = useDocument((state) => state.drawing);
  const { attributes, listeners, setNodeRef, transform, transition, isDragging } = useSortable({ id: t.id });
  const layer = t.kind === 'bend' ? undefined : layerOf(drawing, t.layer);
  const hex = t.kind !== 'bend' && isPrint(layer) ? (t.ink?.hex ?? layer.hex) : layer?.hex;
  return (
    <li
      ref={setNodeRef}
      data-treatment={t.kind}
      style={{ transform: CSS.Translate.toString(transform), transition, opacity: isDragging ? 0.7 : 1 }}
      className="border border-line-strong bg-sheet"
    >
      <div className="flex h-8 items-center gap-1 pr-1">
        <button
          type="button"
          {...attributes}
          {...listeners}
          aria-label={`Move ${KIND_NAMES[t.kind]} in the order`}
          className="cursor-grab px-1 text-ink-soft"
        >
          <GripVertical size={14} />
        </button>
        <button type="button" aria-expanded={open} onClick={onOpen} className="flex min-w-0 flex-1 items-center gap-1.5 text-left">
          <ChevronDown size={13} className={`shrink-0 text-ink-soft ${open ? '' : '-rotate-90'}`} aria-hidden />
          <span className="font-semibold">{KIND_NAMES[t.kind]}</span>
          <span className="truncate text-xs text-ink-soft">{summary(t)}</span>
        </button>
        {layer ? <span title={layer.name} className="size-4 shrink-0 border border-line-strong" style={{ background: hex }} /> : null}
        <input
          type="checkbox"
          aria-label={`${KIND_NAMES[t.kind]} is on`}
          checked={t.on}
          onChange={(event) => change({ on: event.target.checked })}
          className="size-4 accent-teal"
        />
        <IconButton label={`Remove ${KIND_NAMES[t.kind]}`} className="size-6!" onClick={remove}>
          <Trash2 size={13} />
        </IconButton>
      </div>
      {open ? <Fields t={t} item={item} change={change} /> : null}
      {t.on ? <Remarks t={t} item={item} /> : null}
    </li>
  );
}

/** The pieces of an item as plain shapes in the colours they had, the treatments' first, the face last. */
function plainPieces(drawing: Drawing, item: LeafItem): ShapeItem[] {
  return piecesOf(item).map((piece) => {
    const t = item.treatments?.find((one) => one.id === piece.treatment);
    const isFace = piece.treatment === undefined;
    const paint = piece.treatment === undefined ? item.paint : treatmentPaint(item, piece.treatment, layerOf(drawing, piece.layer));
    return {
      type: 'item',
      kind: 'shape',
      id: newId('item'),
      name: t ? `${KIND_NAMES[t.kind]} of ${item.name}` : item.name,
      layer: piece.layer,
      matrix: [...item.matrix] as unknown as ShapeItem['matrix'],
      path: formatPath(piece.outline, 5),
      ...(paint ? { paint } : {}),
      ...(isFace && item.kind === 'shape' && item.gradient ? { gradient: item.gradient, printed: item.printed } : {}),
    };
  });
}

const WAIT_MS = 40;
const LONGEST_WAIT_MS = 10_000;

/** The result of an item, waited for while it is being worked out. */
async function awaited(item: LeafItem): Promise<Result | undefined> {
  for (let waited = 0; waited < LONGEST_WAIT_MS; waited += WAIT_MS) {
    const result = resultOf(item);
    if (result) return result;
    await new Promise((resolve) => setTimeout(resolve, WAIT_MS));
  }
  return undefined;
}

export async function setIntoShapes(item: LeafItem): Promise<void> {
  const result = await awaited(item);
  if (!result || result.error !== undefined) {
    toast.warning(result?.error ?? 'The outline is not worked out yet. Try again in a moment.');
    return;
  }
  const items = plainPieces(useDocument.getState().drawing, item);
  if (dispatch(replaceItems, { ids: [item.id], items }, { origin: 'treatment.set' }))
    toast.success(`“${item.name}” is ${items.length === 1 ? 'one plain shape' : `${items.length} plain shapes`} now.`);
}

function AddMenu({ kinds, onAdd }: { kinds: readonly TreatmentKind[]; onAdd(kind: TreatmentKind): void }) {
  return (
    <Menu
      align="start"
      trigger={
        <Button size="small">
          <Plus size={13} /> Add
        </Button>
      }
      entries={kinds.map((kind) => ({ id: kind, content: KIND_NAMES[kind], onSelect: () => onAdd(kind) }))}
    />
  );
}

type Put = (treatments: readonly TreatmentRecord[], what: string) => boolean;

interface ListProps {
  readonly item: LeafItem;
  readonly list: readonly TreatmentRecord[];
  readonly opened: string | undefined;
  onOpen(id: string | undefined): void;
  readonly put: Put;
}

/** The treatments in their order, to be opened and moved. */
function TreatmentList({ item, list, opened, onOpen, put }: ListProps) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const onDragEnd = ({ active, over }: DragEndEvent): void => {
    if (!over || active.id === over.id) return;
    const [from, to] = [active.id, over.id].map((id) => list.findIndex((t) => t.id === id)) as [number, number];
    put(arrayMove([...list], from, to), 'order');
  };
  const changed = (t: TreatmentRecord, fields: object): readonly TreatmentRecord[] =>
    list.map((one) => (one.id === t.id ? ({ ...one, ...fields } as TreatmentRecord) : one));
  if (list.length === 0) return null;
  return (
    <DndContext sensors={sensors} onDragEnd={onDragEnd}>
      <SortableContext items={list.map((t) => t.id)} strategy={verticalListSortingStrategy}>
        <ol className="flex flex-col gap-1.5">
          {list.map((t) => (
            <OneTreatment
              key={t.id}
              t={t}
              item={item}
              open={opened === t.id}
              onOpen={() => onOpen(opened === t.id ? undefined : t.id)}
              change={(fields) => void put(changed(t, fields), 'change')}
              remove={() =>
                void put(
                  list.filter((one) => one.id !== t.id),
                  'remove',
                )
              }
            />
          ))}
        </ol>
      </SortableContext>
    </DndContext>
  );
}

/** Which kinds of treatments an item can be given. */
const kindsFor = (item: LeafItem): TreatmentKind[] =>
  (Object.keys(KIND_NAMES) as TreatmentKind[]).filter((kind) => kind !== 'bend' || (item.kind === 'lettering' && !bendOf(item)));

export function TreatmentsCard({ item }: { item: LeafItem }) {
  useDerivedVersion();
  const drawing = useDocument((state) => state.drawing);
  const copied = useCopied((state) => state.copied);
  const [opened, setOpened] = useState<string>();
  const list = item.treatments ?? [];
  const put: Put = (treatments, what) => dispatch(setTreatments, { id: item.id, treatments }, { origin: `treatment.${what}` });
  const add = (kind: TreatmentKind): void => {
    const t = treatmentFor(drawing, item, kind, newId('treatment'), sizeOf(item));
    if (put(kind === 'bend' ? [t, ...list] : [...list, t], 'add')) setOpened(t.id);
  };
  return (
    <Card title="Treatments">
      <TreatmentList item={item} list={list} opened={opened} onOpen={setOpened} put={put} />
      <div className="flex flex-wrap gap-1.5">
        <AddMenu kinds={kindsFor(item)} onAdd={add} />
        <StyleMenu treatments={list} onTake={(treatments) => give([item.id], treatments)} />
        {list.length > 0 ? (
          <>
            <Button size="small" onClick={() => useCopied.setState({ copied: list })}>
              Copy
            </Button>
            <Button size="small" onClick={() => void setIntoShapes(item)} title="Turns the result into plain shapes, one item a piece">
              Set
            </Button>
          </>
        ) : null}
        {copied.length > 0 && copied !== list ? (
          <Button size="small" onClick={() => give([item.id], copied)}>
            Give copied
          </Button>
        ) : null}
      </div>
      {list.some((t) => t.kind !== 'bend') ? (
        <LengthField
          wide
          label="Take off thinner than"
          mm={sliverOf(drawing)}
          unit={pageOf(drawing).unit}
          minMm={0}
          hint="Parts of treatments thinner than this cannot be weeded and are left out, in this whole job"
          onChange={(mm) => dispatch(setSliver, { mm }, { origin: 'page.sliver' })}
        />
      ) : null}
    </Card>
  );
}

const give = (ids: readonly string[], treatments: readonly TreatmentRecord[]): void =>
  void dispatch(giveTreatments, { ids, treatments, newId: () => newId('treatment') }, { origin: 'treatment.give' });

/** For several items at once: the copied treatments, or a style. */
export function GiveTreatmentsCard({ ids }: { ids: readonly string[] }) {
  const copied = useCopied((state) => state.copied);
  return (
    <Card title="Treatments" startsOpen={false}>
      <div className="flex flex-wrap gap-1.5">
        <StyleMenu treatments={[]} onTake={(treatments) => give(ids, treatments)} />
        <Button size="small" disabled={copied.length === 0} onClick={() => give(ids, copied)}>
          Give copied
        </Button>
        <Button size="small" onClick={() => give(ids, [])}>
          Take off
        </Button>
      </div>
    </Card>
  );
}
