/**
 * The film strip: a cross-section of the sign. The top film stands at the top, the surface at the bottom.
 * A bar is dragged within the strip to restack and onto an item to give it that film.
 */
import {
  addFilm,
  layersOfItem,
  inkOn,
  isAid,
  leavesOf,
  pageOf,
  removeFilm,
  restackFilms,
  setFilmFields,
  setFilmOfItems,
  type Drawing,
  isCutLine,
  isPrint,
  isShaped,
  layersOf,
  type Layer,
  type StockFilm,
} from '@lorvek/model';
import { area, pathLength, type Outline } from '@lorvek/core/geometry';
import { describeLength, type LengthUnit } from '@lorvek/core/units';
import { DndContext, KeyboardSensor, PointerSensor, useSensor, useSensors, type DragEndEvent } from '@dnd-kit/core';
import { SortableContext, sortableKeyboardCoordinates, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { Eye, EyeOff, Lock, LockOpen, MoreHorizontal, Plus } from 'lucide-react';
import { Popover } from 'radix-ui';
import { useMemo, useState } from 'react';
import { useShop } from '../api/shop.ts';
import { asOne, dispatch, select, useDocument } from '../document/store.ts';
import { itemAt } from '../drawing/hit.ts';
import { toDrawing, useView } from '../drawing/view.ts';
import { Hint, IconButton } from '../ui/button.tsx';
import { Menu } from '../ui/menu.tsx';
import { Price } from '../ui/price.tsx';
import { newLayer } from '../document/films.ts';
import { useSheets } from '../document/sheets.ts';
import { isWorkedOut, piecesOf, useDerivedVersion } from '../worker/derived.ts';

interface FilmFigures {
  areaMm2: number;
  cutMm: number;
  items: number;
  /** Something of it is still being worked out, or could not be: the sums are not all. */
  open: boolean;
}

const NO_FIGURES: FilmFigures = { areaMm2: 0, cutMm: 0, items: 0, open: false };

const measured = new WeakMap<Outline, { area: number; length: number }>();

function measure(outline: Outline): { area: number; length: number } {
  let known = measured.get(outline);
  if (!known) measured.set(outline, (known = { area: Math.abs(area(outline)), length: pathLength(outline) }));
  return known;
}

function figuresOf(drawing: Drawing): Map<string, FilmFigures> {
  const out = new Map<string, FilmFigures>();
  for (const leaf of leavesOf(drawing)) {
    if (isAid(leaf) || isCutLine(leaf)) continue;
    if (!isWorkedOut(leaf)) for (const film of layersOfItem(leaf)) out.set(film, { ...(out.get(film) ?? NO_FIGURES), open: true });
    const [a, b, c, d] = leaf.matrix;
    const det = Math.abs(a * d - b * c);
    for (const { layer: film, outline } of piecesOf(leaf)) {
      if (film === null) continue;
      const { area: own, length } = measure(outline);
      const sum = out.get(film) ?? NO_FIGURES;
      out.set(film, { ...sum, areaMm2: sum.areaMm2 + own * det, cutMm: sum.cutMm + length * Math.sqrt(det), items: sum.items + 1 });
    }
  }
  return out;
}

const squareMetres = (mm2: number): string =>
  mm2 >= 1e5 ? `${(mm2 / 1e6).toFixed(2)} m²` : `${(mm2 / 100).toFixed(mm2 > 1e4 ? 0 : 1)} cm²`;
const metres = (mm: number, unit: LengthUnit): string =>
  unit === 'mm' || unit === 'cm' ? `${(mm / 1000).toFixed(2)} m` : describeLength(mm, 'in');

/** Seen or hidden, locked or not, and more. */
function FilmButtons({ film, ink }: { film: Layer; ink: string }) {
  const selection = useDocument((state) => state.selection);
  return (
    <div className="flex pt-0.5" style={{ color: ink }}>
      <IconButton
        side="right"
        label={film.visible ? `Hide ${film.name}` : `Show ${film.name}`}
        className="size-6! hover:bg-white/25!"
        onClick={() => dispatch(setFilmFields, { id: film.id, fields: { visible: !film.visible } }, { origin: 'film.see' })}
      >
        {film.visible ? <Eye size={13} /> : <EyeOff size={13} />}
      </IconButton>
      <IconButton
        side="right"
        label={film.locked ? `Unlock ${film.name}` : `Lock ${film.name}`}
        className="size-6! hover:bg-white/25!"
        onClick={() => dispatch(setFilmFields, { id: film.id, fields: { locked: !film.locked } }, { origin: 'film.lock' })}
      >
        {film.locked ? <Lock size={13} /> : <LockOpen size={13} className="opacity-60" />}
      </IconButton>
      <FilmMenu film={film} selection={selection} />
    </div>
  );
}

/** How much is cut from it or printed on it; a dash of dots while that is not known. */
function FilmNumbers({ film, figures, unit }: { film: Layer; figures: FilmFigures | undefined; unit: LengthUnit }) {
  // what lies in another part of the same film is not covered twice
  const twiceMm2 = useSheets((state) => state.twiceMm2[film.id] ?? 0);
  const known = (text: (known: FilmFigures) => string, none: string): string => (figures ? (figures.open ? '…' : text(figures)) : none);
  return (
    <div className="numerals flex justify-between px-2.5 pb-1 text-[11px] opacity-90">
      <span title={isPrint(film) ? 'Area that is printed' : "Area of the film's pieces"}>
        {known(({ areaMm2 }) => squareMetres(Math.max(0, areaMm2 - twiceMm2)), '0 cm²')}
      </span>
      {isPrint(film) ? <span>printed</span> : <span title="Length of cut">{known(({ cutMm }) => metres(cutMm, unit), '0 m')}</span>}
    </div>
  );
}

function FilmBar({ film, figures, unit, active }: { film: Layer; figures: FilmFigures | undefined; unit: LengthUnit; active: boolean }) {
  const { attributes, listeners, setNodeRef, transform, transition, isDragging } = useSortable({ id: film.id });
  const ink = inkOn(film.hex);
  const name = `${film.series} ${film.name}`;
  return (
    <li
      ref={setNodeRef}
      style={{
        transform: CSS.Translate.toString(transform),
        transition,
        opacity: isDragging ? 0.75 : 1,
        zIndex: isDragging ? 30 : undefined,
      }}
      className="relative list-none"
      data-film={film.id}
    >
      <div
        className={`flex flex-col ${active ? 'outline-2 -outline-offset-2 outline-teal' : ''}`}
        style={{ background: film.hex, color: ink, borderTop: `1px solid ${ink}33`, opacity: film.visible ? 1 : 0.45 }}
      >
        <div className="flex items-start pr-0.5 pl-2.5">
          <button
            type="button"
            {...attributes}
            {...listeners}
            aria-label={`${name}: use for new items; drag onto an item to put it on this ${isPrint(film) ? 'print' : 'film'}, within the strip to restack`}
            aria-pressed={active}
            onClick={() => useView.setState({ film: film.id })}
            className="min-w-0 flex-1 cursor-grab pt-1.5 text-left"
          >
            <span className="block truncate leading-tight font-semibold" title={name}>
              {film.name}
            </span>
            <span className="block truncate text-2xs opacity-85">{isPrint(film) ? `Print · ${film.series}` : film.series}</span>
          </button>
          <FilmButtons film={film} ink={ink} />
        </div>
        <FilmNumbers film={film} figures={figures} unit={unit} />
      </div>
    </li>
  );
}

function FilmMenu({ film, selection }: { film: Layer; selection: readonly string[] }) {
  const drawing = useDocument((state) => state.drawing);
  const own = leavesOf(drawing).filter((leaf) => leaf.layer === film.id);
  return (
    <Menu
      align="start"
      trigger={
        <button
          type="button"
          aria-label={`More for ${film.name}`}
          className="inline-flex size-6 items-center justify-center hover:bg-white/25"
        >
          <MoreHorizontal size={14} />
        </button>
      }
      entries={[
        {
          id: 'take',
          content: isPrint(film) ? 'Print the selection on it' : 'Cut the selection from this film',
          disabled: selection.length === 0,
          onSelect: () => dispatch(setFilmOfItems, { ids: selection, film: film.id }, { origin: 'item.film' }),
        },
        {
          id: 'select',
          content: isPrint(film) ? 'Select what is printed on it' : 'Select what is cut from it',
          disabled: own.length === 0,
          onSelect: () => select(own.map((leaf) => leaf.id)),
        },
        {
          id: 'remove',
          content: 'Take out of the job',
          isApart: true,
          onSelect: () => dispatch(removeFilm, { id: film.id }, { origin: 'film.remove' }),
        },
      ]}
    />
  );
}

/** Takes a film into the job; what is selected and has none yet goes onto it. */
function takeFilm(film: StockFilm): void {
  const record = newLayer(film);
  const { drawing, selection } = useDocument.getState();
  const loose = leavesOf(drawing, selection).filter(
    (leaf) => leaf.layer === null && (isShaped(leaf) || (leaf.kind === 'picture' && isPrint(record))),
  );
  const taken = asOne({ origin: 'film.add' }, () => {
    dispatch(addFilm, { film: record }, { origin: 'film.add' });
    if (loose.length > 0) dispatch(setFilmOfItems, { ids: loose.map(({ id }) => id), film: record.id }, { origin: 'item.film' });
  });
  if (taken) useView.setState({ film: record.id });
}

function FoundFilm({ film, isTaken, onTake }: { film: StockFilm; isTaken: boolean; onTake(): void }) {
  return (
    <li>
      <button
        type="button"
        disabled={isTaken}
        onClick={onTake}
        className="flex w-full items-center gap-2.5 px-2 py-1.5 text-left hover:bg-teal-wash disabled:opacity-45"
      >
        <span className="h-8 w-10 shrink-0 border border-line-strong" style={{ background: film.hex }} />
        <span className="min-w-0 flex-1">
          <span className="block truncate font-medium">{film.name}</span>
          <span className="block truncate text-xs text-ink-soft">
            {film.medium === null ? '' : 'Print on '}
            {film.series} · {[...new Set(film.rolls.map((roll) => `${roll.widthMm}`))].join(', ') || 'no roll'} mm
          </span>
        </span>
        <span className="numerals text-xs">
          <Price of={film.pricePerMetre} />
          /m
        </span>
      </button>
    </li>
  );
}

function StockPicker({ taken }: { taken: ReadonlySet<string> }) {
  const stock = useShop((state) => state.stock);
  const [open, setOpen] = useState(false);
  const [wanted, setWanted] = useState('');
  const found = (stock ?? []).filter((film) => `${film.series} ${film.name}`.toLowerCase().includes(wanted.trim().toLowerCase()));
  const take = (film: StockFilm): void => {
    takeFilm(film);
    setOpen(false);
  };
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger className="flex h-8 w-full items-center justify-center gap-1.5 border-b border-dashed border-line-strong hover:bg-teal-wash">
        <Plus size={14} /> Film or print
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          side="right"
          align="start"
          sideOffset={4}
          className="z-50 flex max-h-[420px] w-80 flex-col border border-line-strong bg-sheet shadow-md"
          onKeyDown={(event) => event.stopPropagation()}
        >
          <input
            aria-label="Find a film"
            placeholder="Find a film"
            value={wanted}
            onChange={(event) => setWanted(event.target.value)}
            onKeyDown={(event) => {
              const [only] = found;
              if (event.key === 'Enter' && found.length === 1 && only && !taken.has(only.id)) take(only);
            }}
            className="m-2 h-8 shrink-0 border border-line-strong px-2"
          />
          <ul className="overflow-y-auto pb-1">
            {found.map((film) => (
              <FoundFilm key={film.id} film={film} isTaken={taken.has(film.id)} onTake={() => take(film)} />
            ))}
            {found.length === 0 ? (
              <li className="px-3 py-4 text-ink-soft">{stock ? 'No film like that in Stock.' : 'Looking in Stock…'}</li>
            ) : null}
          </ul>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** Where a film was let go over the drawing: the item there takes it. */
function dropOnDrawing(event: DragEndEvent, film: string): boolean {
  const start = event.activatorEvent as PointerEvent;
  const host = document.querySelector('[data-drawing="drawing"]');
  const view = useView.getState().views.drawing;
  if (!host || !view || start.clientX === undefined) return false;
  const box = host.getBoundingClientRect();
  const screen = { x: start.clientX + event.delta.x - box.left, y: start.clientY + event.delta.y - box.top };
  if (screen.x < 0 || screen.y < 0 || screen.x > box.width || screen.y > box.height) return false;
  const { drawing, selection } = useDocument.getState();
  const hit = itemAt(drawing, toDrawing(view, screen), view);
  if (hit !== undefined) dispatch(setFilmOfItems, { ids: selection.includes(hit) ? selection : [hit], film }, { origin: 'item.film' });
  return true;
}

/** Outlines that nothing is cut from. */
function LooseItems({ loose }: { loose: readonly string[] }) {
  if (loose.length === 0) return null;
  return (
    <Hint side="right" text="Outlines without a film are not cut. Drag a film onto them.">
      <button
        type="button"
        onClick={() => select(loose)}
        className="border-t border-dashed border-amber bg-amber-wash px-2.5 py-1.5 text-left text-[13px]"
      >
        {loose.length} {loose.length === 1 ? 'item' : 'items'} without a film
      </button>
    </Hint>
  );
}

export function FilmStrip() {
  const drawing = useDocument((state) => state.drawing);
  const version = useDerivedVersion((state) => state.version);
  const activeFilm = useView((state) => state.film);
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 5 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const figures = useMemo(() => figuresOf(drawing), [drawing, version]); // eslint-disable-line react-hooks/exhaustive-deps -- a new result changes the figures
  const { surface, unit } = pageOf(drawing);
  const films = [...layersOf(drawing)].reverse();
  const loose = leavesOf(drawing).filter((leaf) => leaf.layer === null && !isAid(leaf) && !isCutLine(leaf));
  const current = films.some((film) => film.id === activeFilm) ? activeFilm : films[0]?.id;

  const onDragEnd = (event: DragEndEvent): void => {
    const film = String(event.active.id);
    if (dropOnDrawing(event, film) || !event.over || event.over.id === film) return;
    const order = films.map((f) => f.id).filter((id) => id !== film);
    const target = films.findIndex((f) => f.id === event.over?.id);
    order.splice(target, 0, film);
    dispatch(restackFilms, { films: order.reverse() }, { origin: 'film.restack' });
  };

  return (
    <aside aria-label="Film strip" className="z-20 flex w-[196px] shrink-0 flex-col border-r bg-paper">
      <StockPicker taken={new Set(films.map((film) => film.stockId))} />
      <div className="flex min-h-0 flex-1 flex-col justify-end">
        {films.length === 0 ? (
          <p className="m-auto px-4 text-center text-[13px] text-ink-soft">
            No film yet. Take one from Stock; what you draw is cut from it.
          </p>
        ) : null}
        <DndContext sensors={sensors} onDragEnd={onDragEnd}>
          <SortableContext items={films.map((film) => film.id)} strategy={verticalListSortingStrategy}>
            <ul className={`flex flex-col ${films.length > 8 ? 'overflow-y-auto' : ''}`} aria-label="Films, the top one first">
              {films.map((film) => (
                <FilmBar key={film.id} film={film} figures={figures.get(film.id)} unit={unit} active={film.id === current} />
              ))}
            </ul>
          </SortableContext>
        </DndContext>
      </div>
      <LooseItems loose={loose.map((leaf) => leaf.id)} />
      <div className="flex h-14 items-center border-t-2 border-ink px-2.5" style={{ background: surface.hex, color: inkOn(surface.hex) }}>
        <div className="min-w-0">
          <span className="block truncate leading-tight font-semibold" title={surface.name}>
            {surface.name}
          </span>
          <span className="text-2xs opacity-85">surface</span>
        </div>
      </div>
    </aside>
  );
}
