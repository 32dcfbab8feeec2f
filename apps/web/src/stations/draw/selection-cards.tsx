/** The cards of what is selected on Draw; fetched apart from the drawing, for at first nothing is. */
import {
  groupItems,
  isPrint,
  isHelper,
  isShaped,
  layersOf,
  itemOf,
  leavesOf,
  reorderItems,
  setFilmOfItems,
  setItemFields,
  ungroupItems,
  type Item,
} from '@lorvek/model';
import { nodeCount } from '@lorvek/core/geometry';
import { BringToFront, Copy, Group, SendToBack, Trash2, Ungroup } from 'lucide-react';
import { duplicateSelection } from '../../document/clipboard.ts';
import { dispatch, newId, useDocument } from '../../document/store.ts';
import { remove } from '../../drawing/remove.ts';
import { useView } from '../../drawing/view.ts';
import { TextCell } from '../../ui/text-cell.tsx';
import { Button, IconButton } from '../../ui/button.tsx';
import { Card, Notice } from '../../ui/card.tsx';
import { Switch } from '../../ui/choices.tsx';
import { Pick } from '../../ui/pick.tsx';
import { outlineOf, useDerivedVersion } from '../../worker/derived.ts';
import { LetteringCard } from './lettering-card.tsx';
import { FieldCard } from './field-card.tsx';
import { PlacingCard } from './placing-card.tsx';
import { GiveTreatmentsCard, TreatmentsCard } from './treatments/treatments-card.tsx';
import { CleanCard } from './clean-card.tsx';
import { GradientCard } from './gradient-card.tsx';
import { ImportCard } from './bring-in/import-card.tsx';
import { LayUpCard } from './lay-up-card.tsx';
import { PictureCard } from './picture-card.tsx';
import { RepeatCard } from './repeat-card.tsx';
import { RowCard } from './row-card.tsx';
import { CutRoundCard, EdgeCutCard, LookedAtNotice, PaintCard } from './print-cards.tsx';
import { DimensionCard, makePlain, NodesCard, ShapeCard } from './shape-cards.tsx';
import { splitIntoParts, WeldCard } from './weld-card.tsx';

const NO_FILM = 'none';

function FilmPick({ ids, value, isPicture }: { ids: readonly string[]; value: string | undefined; isPicture: boolean }) {
  const drawing = useDocument((state) => state.drawing);
  // a picture is printed, never cut from a film
  const films = [...layersOf(drawing)].reverse().filter((layer) => !isPicture || isPrint(layer));
  const swatch = (hex: string, text: string) => (
    <span className="flex items-center gap-2">
      <span className="size-4 shrink-0 border border-line-strong" style={{ background: hex }} />
      {text}
    </span>
  );
  return (
    <Pick
      label={films.some(isPrint) ? 'Goes on' : 'Cut from'}
      value={value}
      placeholder="Several films"
      options={[
        ...films.map((film) => ({
          value: film.id,
          text: swatch(film.hex, `${isPrint(film) ? 'Print: ' : ''}${film.name} · ${film.series}`),
        })),
        { value: NO_FILM, text: swatch('transparent', isPicture ? 'No print: only looked at' : 'No film: not cut') },
      ]}
      onChange={(film) => dispatch(setFilmOfItems, { ids, film: film === NO_FILM ? null : film }, { origin: 'item.film' })}
    />
  );
}

/** What can be done with items of any kind. */
function ItemButtons({ items, ids }: { items: readonly Item[]; ids: readonly string[] }) {
  return (
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
      <IconButton label="Delete" keys="Del" className="text-brick" onClick={() => remove(ids, { origin: 'item.remove' })}>
        <Trash2 size={16} />
      </IconButton>
    </div>
  );
}

function ItemCard({ items, ids }: { items: readonly Item[]; ids: readonly string[] }) {
  const drawing = useDocument((state) => state.drawing);
  useDerivedVersion();
  const leaves = leavesOf(drawing, ids);
  const films = [...new Set(leaves.map((leaf) => leaf.layer ?? NO_FILM))];
  const nodes = leaves.filter(isShaped).reduce((sum, leaf) => sum + nodeCount(outlineOf(leaf) ?? { contours: [] }), 0);
  const [only] = items;
  return (
    <Card title={items.length === 1 && only ? (only.kind === 'group' ? 'Group' : 'Item') : `${items.length} items`}>
      {items.length === 1 && only ? (
        <TextCell
          key={only.id}
          label="Name"
          value={only.name}
          onChange={(text) => dispatch(setItemFields, { id: only.id, fields: { name: text } }, { origin: 'item.name' })}
        />
      ) : null}
      {leaves.some((leaf) => isShaped(leaf) || leaf.kind === 'picture') ? (
        <FilmPick ids={ids} value={films.length === 1 ? films[0] : undefined} isPicture={leaves.every(({ kind }) => kind === 'picture')} />
      ) : null}
      {leaves.length === 1 && leaves[0] && isHelper(leaves[0]) ? (
        <Switch
          label="Helper line: not cut"
          checked
          onChange={() => dispatch(setItemFields, { id: leaves[0]?.id ?? '', fields: { helper: false } }, { origin: 'item.helper' })}
        />
      ) : null}
      {leaves.some(isShaped) ? (
        <div className="flex items-center justify-between">
          <span className="text-ink-soft">Nodes</span>
          <span className="numerals">{nodes}</span>
          <Button size="small" onClick={() => void splitIntoParts(ids)} title="Each outer line with its holes becomes an item of its own">
            Split into parts
          </Button>
        </div>
      ) : null}
      <ItemButtons items={items} ids={ids} />
    </Card>
  );
}

/** The cards of an item's own kind. */
function KindCards({ item }: { item: Item }) {
  const tool = useView((state) => state.tool);
  switch (item.kind) {
    case 'box':
    case 'oval':
    case 'polygon':
    case 'arc':
      return (
        <>
          <ShapeCard item={item} />
          {tool === 'nodes' ? <MakePlainCard item={item} /> : null}
        </>
      );
    case 'lettering':
      return tool === 'nodes' ? <MakePlainCard item={item} /> : null;
    case 'shape':
      return tool === 'nodes' ? <NodesCard item={item} /> : null;
    case 'picture':
      return (
        <>
          <LookedAtNotice item={item} />
          <PictureCard item={item} />
        </>
      );
    case 'edge-cut':
      return <EdgeCutCard item={item} />;
    case 'dimension':
      return <DimensionCard item={item} />;
    case 'group':
      return null;
  }
}

function MakePlainCard({ item }: { item: Item }) {
  return (
    <Card title="Nodes">
      <p className="text-[13px]">
        {item.kind === 'lettering'
          ? 'Nodes can be worked on when the lettering is a plain shape; its words can then no longer be written.'
          : 'Nodes can be worked on when this is a plain shape; its sizes are then no longer fields.'}
      </p>
      <Button size="small" onClick={() => makePlain(item.id)}>
        Make it a plain shape
      </Button>
    </Card>
  );
}

/** What only one item alone has. */
function OneItemCards({ item }: { item: Item }) {
  const canDiffer = item.kind === 'lettering' || (item.kind === 'picture' && item.layer !== null);
  return (
    <>
      {item.kind === 'lettering' ? <LetteringCard item={item} /> : null}
      {item.kind === 'group' && item.row ? <RowCard group={item} row={item.row} /> : null}
      <ImportCard id={item.id} />
      <KindCards item={item} />
      {canDiffer ? <FieldCard item={item} /> : null}
      {item.kind !== 'group' && isShaped(item) ? <TreatmentsCard item={item} /> : null}
    </>
  );
}

/** The cards of what is selected. */
export function SelectionCards() {
  const drawing = useDocument((state) => state.drawing);
  const selection = useDocument((state) => state.selection);
  const items = selection.flatMap((id) => itemOf(drawing, id) ?? []);
  const [only] = items;
  return (
    <>
      {items.length === 1 && only ? <OneItemCards item={only} /> : null}
      <PaintCard ids={selection} />
      <CutRoundCard ids={selection} />
      <GradientCard ids={selection} />
      <CleanCard ids={selection} />
      <ItemCard items={items} ids={selection} />
      {items.length > 1 ? <GiveTreatmentsCard ids={selection} /> : null}
      {items.some((item) => item.kind !== 'dimension') ? <PlacingCard ids={selection} /> : null}
      {items.some(isShaped) ? <RepeatCard ids={selection} /> : null}
      {items.some((item) => item.kind !== 'dimension') ? <LayUpCard ids={selection} /> : null}
      {leavesOf(drawing, selection).filter(isShaped).length > 1 ? <WeldCard ids={selection} /> : null}
      {items.length === 1 && only?.kind === 'group' ? (
        <Notice level="note">Double click goes into the group; Esc comes out again.</Notice>
      ) : null}
    </>
  );
}
