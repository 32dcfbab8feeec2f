/** The Draw station's ticket: the cards of what is selected, or of the drawing when nothing is. */
import {
  filmsOf,
  groupItems,
  itemOf,
  leavesOf,
  pageOf,
  removeItems,
  reorderItems,
  setFilmOfItems,
  setItemFields,
  setSurface,
  setUnit,
  ungroupItems,
  type BoxItem,
  type Item,
  type OvalItem,
} from '@lorvek/model';
import { nodeCount } from '@lorvek/core/geometry';
import { BringToFront, Copy, Group, SendToBack, Trash2, Ungroup } from 'lucide-react';
import { duplicateSelection } from '../../document/clipboard.ts';
import { dispatch, newId, useDocument } from '../../document/store.ts';
import { IconButton } from '../../ui/button.tsx';
import { Card, Figure, Notice } from '../../ui/card.tsx';
import { Pick, PickRow } from '../../ui/choices.tsx';
import { LengthField } from '../../ui/fields.tsx';
import { outlineOf, useDerivedVersion } from '../../worker/derived.ts';
import { LetteringCard } from './lettering-card.tsx';
import { PlacingCard } from './placing-card.tsx';
import { WeldCard } from './weld-card.tsx';

const NO_FILM = 'none';
/** Beyond this many items the previews of joining would be in the way. */
const MOST_WELDED = 40;

function FilmPick({ ids, value }: { ids: readonly string[]; value: string | undefined }) {
  const drawing = useDocument((state) => state.drawing);
  const films = [...filmsOf(drawing)].reverse();
  const swatch = (hex: string, text: string) => (
    <span className="flex items-center gap-2">
      <span className="size-4 shrink-0 border border-line-strong" style={{ background: hex }} />
      {text}
    </span>
  );
  return (
    <Pick
      label="Cut from"
      value={value}
      placeholder="Several films"
      options={[
        ...films.map((film) => ({ value: film.id, text: swatch(film.hex, `${film.name} · ${film.series}`) })),
        { value: NO_FILM, text: swatch('transparent', 'No film: not cut') },
      ]}
      onChange={(film) => dispatch(setFilmOfItems, { ids, film: film === NO_FILM ? null : film }, { origin: 'item.film' })}
    />
  );
}

function ShapeCard({ item }: { item: BoxItem | OvalItem }) {
  const { unit } = pageOf(useDocument((state) => state.drawing));
  const set = (fields: Record<string, number>): void =>
    void dispatch(setItemFields, { id: item.id, fields }, { origin: `${item.kind}.set` });
  return (
    <Card title={item.kind === 'box' ? 'Box' : 'Oval'}>
      <div className="grid grid-cols-2 gap-2">
        <LengthField label="Shape width" short="W" mm={item.widthMm} unit={unit} minMm={0.01} onChange={(widthMm) => set({ widthMm })} />
        <LengthField
          label="Shape height"
          short="H"
          mm={item.heightMm}
          unit={unit}
          minMm={0.01}
          onChange={(heightMm) => set({ heightMm })}
        />
      </div>
      {item.kind === 'box' ? (
        <LengthField wide label="Rounded corners" mm={item.cornerMm} unit={unit} minMm={0} onChange={(cornerMm) => set({ cornerMm })} />
      ) : null}
    </Card>
  );
}

function ItemCard({ items, ids }: { items: readonly Item[]; ids: readonly string[] }) {
  const drawing = useDocument((state) => state.drawing);
  useDerivedVersion();
  const leaves = leavesOf(drawing, ids);
  const films = [...new Set(leaves.map((leaf) => leaf.film ?? NO_FILM))];
  const nodes = leaves.reduce((sum, leaf) => sum + nodeCount(outlineOf(leaf) ?? { contours: [] }), 0);
  const [only] = items;
  return (
    <Card title={items.length === 1 && only ? (only.kind === 'group' ? 'Group' : 'Item') : `${items.length} items`}>
      {items.length === 1 && only ? (
        <input
          key={`${only.id} ${only.name}`}
          aria-label="Name"
          defaultValue={only.name}
          onKeyDown={(event) => {
            event.stopPropagation();
            if (event.key === 'Enter') event.currentTarget.blur();
          }}
          onBlur={(event) =>
            event.target.value !== only.name &&
            dispatch(setItemFields, { id: only.id, fields: { name: event.target.value } }, { origin: 'item.name' })
          }
          className="h-7 border border-line-strong bg-sheet px-2"
        />
      ) : null}
      <FilmPick ids={ids} value={films.length === 1 ? films[0] : undefined} />
      <Figure name="Nodes">{nodes}</Figure>
      <div className="-mx-1 flex justify-between">
        <IconButton
          label="To the front of its film"
          keys="]"
          onClick={() => dispatch(reorderItems, { ids, to: 'front' }, { origin: 'item.front' })}
        >
          <BringToFront size={16} />
        </IconButton>
        <IconButton
          label="To the back of its film"
          keys="["
          onClick={() => dispatch(reorderItems, { ids, to: 'back' }, { origin: 'item.back' })}
        >
          <SendToBack size={16} />
        </IconButton>
        <IconButton
          label="Group"
          keys="Ctrl G"
          disabled={items.length < 2}
          onClick={() => dispatch(groupItems, { ids, groupId: newId('item') }, { origin: 'item.group' })}
        >
          <Group size={16} />
        </IconButton>
        <IconButton
          label="Ungroup"
          keys="Ctrl Shift G"
          disabled={!items.some((item) => item.kind === 'group')}
          onClick={() => dispatch(ungroupItems, { ids }, { origin: 'item.ungroup' })}
        >
          <Ungroup size={16} />
        </IconButton>
        <IconButton label="Duplicate" keys="Ctrl D" onClick={duplicateSelection}>
          <Copy size={16} />
        </IconButton>
        <IconButton
          label="Delete"
          keys="Del"
          className="text-brick"
          onClick={() => dispatch(removeItems, { ids }, { origin: 'item.remove' })}
        >
          <Trash2 size={16} />
        </IconButton>
      </div>
    </Card>
  );
}

function DrawingCards() {
  const drawing = useDocument((state) => state.drawing);
  const { surface, unit } = pageOf(drawing);
  const count = leavesOf(drawing).length;
  return (
    <>
      {count === 0 ? (
        <Card title="Begin">
          <p>
            Take a film from Stock at the left, then press <kbd className="numerals font-medium">L</kbd>, click on the surface and write.
          </p>
        </Card>
      ) : null}
      <Card title="Surface">
        <input
          key={surface.name}
          aria-label="Name of the surface"
          defaultValue={surface.name}
          maxLength={200}
          onKeyDown={(event) => {
            event.stopPropagation();
            if (event.key === 'Enter') event.currentTarget.blur();
          }}
          onBlur={(event) =>
            event.target.value !== surface.name &&
            dispatch(setSurface, { fields: { name: event.target.value } }, { origin: 'page.surface' })
          }
          className="h-7 border border-line-strong bg-sheet px-2"
        />
        <div className="grid grid-cols-2 gap-2">
          <LengthField
            label="Width of the surface"
            short="W"
            mm={surface.widthMm}
            unit={unit}
            minMm={1}
            onChange={(widthMm) => dispatch(setSurface, { fields: { widthMm } }, { origin: 'page.surface' })}
          />
          <LengthField
            label="Height of the surface"
            short="H"
            mm={surface.heightMm}
            unit={unit}
            minMm={1}
            onChange={(heightMm) => dispatch(setSurface, { fields: { heightMm } }, { origin: 'page.surface' })}
          />
        </div>
        <label className="flex items-center justify-between">
          Colour
          <input
            type="color"
            value={surface.hex}
            onChange={(event) =>
              dispatch(setSurface, { fields: { hex: event.target.value } }, { origin: 'page.surface', group: 'surface-colour' })
            }
            className="h-7 w-14 border border-line-strong bg-sheet p-0.5"
          />
        </label>
      </Card>
      <Card title="Units">
        <PickRow
          label="Unit"
          value={unit}
          options={[
            { value: 'mm', label: 'Millimetres', content: 'mm' },
            { value: 'cm', label: 'Centimetres', content: 'cm' },
            { value: 'in', label: 'Inches, decimal', content: 'in' },
            { value: 'in-fraction', label: 'Inches with fractions', content: 'in ⅜' },
          ]}
          onChange={(next) => dispatch(setUnit, { unit: next }, { origin: 'page.unit' })}
        />
        <p className="text-[13px] text-ink-soft">
          Every field also takes another unit and arithmetic: <span className="numerals">3*16 + 2 in</span>
        </p>
      </Card>
    </>
  );
}

export function DrawTicket() {
  const drawing = useDocument((state) => state.drawing);
  const selection = useDocument((state) => state.selection);
  const items = selection.flatMap((id) => itemOf(drawing, id) ?? []);
  const [only] = items;
  if (items.length === 0) return <DrawingCards />;
  return (
    <>
      {items.length === 1 && only?.kind === 'lettering' ? <LetteringCard item={only} /> : null}
      {items.length === 1 && (only?.kind === 'box' || only?.kind === 'oval') ? <ShapeCard item={only} /> : null}
      <ItemCard items={items} ids={selection} />
      <PlacingCard ids={selection} />
      {items.length > 1 && items.length <= MOST_WELDED ? <WeldCard ids={selection} /> : null}
      {items.length === 1 && only?.kind === 'group' ? (
        <Notice level="note">Double click goes into the group; Esc comes out again.</Notice>
      ) : null}
    </>
  );
}
