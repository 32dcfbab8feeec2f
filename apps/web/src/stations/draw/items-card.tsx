/**
 * All items of the drawing as a list with search, for drawings of thousands: groups open, a click selects and shows.
 * Search takes words of the name, a kind, a film, or a size: “capitals 60 mm”, “width 200”, “height 5 cm”.
 */
import { growBox, type Box } from '@lorvek/core/geometry';
import { parseLength } from '@lorvek/core/units';
import { layerOf, itemOf, pageOf, type Drawing, type Item } from '@lorvek/model';
import { useVirtualizer } from '@tanstack/react-virtual';
import { ChevronRight } from 'lucide-react';
import { useMemo, useRef, useState, type CSSProperties } from 'react';
import { select, useDocument } from '../../document/store.ts';
import { boxOf, frameOf } from '../../drawing/selection.ts';
import { fitBox, flashAt } from '../../drawing/view.ts';
import { Card } from '../../ui/card.tsx';

interface Row {
  readonly item: Item;
  readonly depth: number;
}

const KINDS: Record<Item['kind'], string> = {
  lettering: 'Lettering',
  box: 'Box',
  oval: 'Oval',
  polygon: 'Polygon',
  arc: 'Arc',
  shape: 'Shape',
  picture: 'Picture',
  dimension: 'Dimension',
  'edge-cut': 'Edge cut',
  group: 'Group',
};

type Test = (drawing: Drawing, item: Item) => boolean;

const SIZE = /^(capitals|cap|caps|width|height|w|h)\s+(.+)$/i;
/** A size is found when it is this near, mm. */
const NEAR_MM = 0.05;

/** What a search looks for; undefined when it finds everything. */
export function searchTest(text: string, unit: ReturnType<typeof pageOf>['unit']): Test | undefined {
  const wanted = text.trim().toLowerCase();
  if (wanted === '') return undefined;
  const size = SIZE.exec(wanted);
  if (size) {
    let mm: number;
    try {
      mm = parseLength(size[2] ?? '', unit);
    } catch {
      return () => false;
    }
    if (/^cap/.test(size[1] ?? '')) return (_, item) => item.kind === 'lettering' && Math.abs(item.capHeightMm - mm) <= NEAR_MM;
    const along = (box: Box): number => (/^w/.test(size[1] ?? '') ? box.maxX - box.minX : box.maxY - box.minY);
    return (drawing, item) => {
      const frame = frameOf(drawing, [item.id]);
      return frame !== undefined && Math.abs(along(frame.box) - mm) <= NEAR_MM;
    };
  }
  return (drawing, item) => {
    const film = layerOf(drawing, item.layer);
    return `${item.name} ${KINDS[item.kind]} ${film ? `${film.name} ${film.series}` : ''}`.toLowerCase().includes(wanted);
  };
}

function rowsOf(drawing: Drawing, open: ReadonlySet<string>, test: Test | undefined): Row[] {
  const rows: Row[] = [];
  const visit = (ids: readonly string[], depth: number): void => {
    for (const id of [...ids].reverse()) {
      const item = itemOf(drawing, id);
      if (!item) continue;
      if (!test || test(drawing, item)) rows.push({ item, depth: test ? 0 : depth });
      if (item.kind === 'group' && (test || open.has(id))) visit(item.children, depth + 1);
    }
  };
  visit(pageOf(drawing).root, 0);
  return rows;
}

const ROW_PX = 26;

/** Selects an item and shows it, or adds it to what is selected. */
function goTo(item: Item, add: boolean): void {
  const { drawing, selection } = useDocument.getState();
  select(add ? [...new Set([...selection, item.id])] : [item.id]);
  const box = boxOf(drawing, [item.id]);
  if (!box || add) return;
  fitBox('drawing', growBox(box, 0.6 * Math.max(box.maxX - box.minX, box.maxY - box.minY, 1)));
  flashAt(box);
}

interface ItemRowProps {
  readonly item: Item;
  readonly style: CSSProperties;
  /** Of a group whose items can be shown under it. */
  readonly isOpen: boolean | undefined;
  onToggle(): void;
  onGo(add: boolean): void;
}

function ItemRow({ item, style, isOpen, onToggle, onGo }: ItemRowProps) {
  const film = useDocument((state) => layerOf(state.drawing, item.layer));
  return (
    <div className="absolute right-0 left-0 flex items-center gap-1" style={style}>
      {isOpen === undefined ? (
        <span className="w-[13px]" />
      ) : (
        <button type="button" aria-label={isOpen ? `Close ${item.name}` : `Open ${item.name}`} onClick={onToggle}>
          <ChevronRight size={13} className={isOpen ? 'rotate-90' : ''} />
        </button>
      )}
      <span className="size-3 shrink-0 border border-line-strong" style={{ background: film?.hex ?? 'transparent' }} />
      <button
        type="button"
        onClick={(event) => onGo(event.shiftKey || event.ctrlKey)}
        className="flex min-w-0 flex-1 items-center justify-between gap-2 px-1 text-left text-[13px] hover:bg-teal-wash"
      >
        <span className="truncate">{item.name || KINDS[item.kind]}</span>
        <span className="shrink-0 text-2xs text-ink-soft">{KINDS[item.kind]}</span>
      </button>
    </div>
  );
}

export function ItemsCard() {
  const drawing = useDocument((state) => state.drawing);
  const [wanted, setWanted] = useState('');
  const [open, setOpen] = useState<ReadonlySet<string>>(new Set());
  const place = useRef<HTMLDivElement>(null);
  const { unit } = pageOf(drawing);
  const rows = useMemo(() => rowsOf(drawing, open, searchTest(wanted, unit)), [drawing, open, wanted, unit]);
  const list = useVirtualizer({ count: rows.length, getScrollElement: () => place.current, estimateSize: () => ROW_PX, overscan: 8 });
  const toggle = (id: string): void => {
    const next = new Set(open);
    if (!next.delete(id)) next.add(id);
    setOpen(next);
  };
  return (
    <Card title="Items" startsOpen={rows.length > 0}>
      <input
        aria-label="Find an item"
        placeholder="Name, kind, film or “capitals 60 mm”"
        value={wanted}
        onChange={(event) => setWanted(event.target.value)}
        onKeyDown={(event) => {
          event.stopPropagation();
          if (event.key === 'Enter' && rows.length > 0) select(rows.map((row) => row.item.id));
        }}
        className="h-7 border border-line-strong bg-sheet px-2 text-[13px]"
      />
      <div ref={place} className="overflow-y-auto" style={{ maxHeight: 240 }}>
        <div className="relative" style={{ height: list.getTotalSize() }}>
          {list.getVirtualItems().map(({ index, start }) => {
            const row = rows[index];
            if (!row) return null;
            const { item, depth } = row;
            return (
              <ItemRow
                key={item.id}
                item={item}
                style={{ top: start, height: ROW_PX, paddingLeft: depth * 14 }}
                isOpen={item.kind === 'group' && wanted === '' ? open.has(item.id) : undefined}
                onToggle={() => toggle(item.id)}
                onGo={(add) => goTo(item, add)}
              />
            );
          })}
        </div>
      </div>
      <p className="text-2xs text-ink-soft">
        {rows.length === 0 ? 'Nothing like that.' : `${rows.length} shown${wanted ? '; Enter selects them' : ''}`}
      </p>
    </Card>
  );
}
