/** Further tools of the lettering card: case, single letters, fitting, reading distance, axes, a missing font. */
import { readingDistance } from '@lorvek/core/lettering/reading-distance';
import {
  itemOf,
  leavesOf,
  pageOf,
  setItemFields,
  transformItems,
  tweakLetter,
  writeText,
  type FontEntry,
  type LetteringItem,
} from '@lorvek/model';
import { scaling, compose, translation } from '@lorvek/core/geometry';
import { useState } from 'react';
import { toast } from 'sonner';
import { useShop } from '../../api/shop.ts';
import { dispatch, newId, useDocument } from '../../document/store.ts';
import { boxOf } from '../../drawing/selection.ts';
import { useView } from '../../drawing/view.ts';
import { Button } from '../../ui/button.tsx';
import { Figure, Notice } from '../../ui/card.tsx';
import { LengthField, NumberField } from '../../ui/fields.tsx';

const set = (id: string, fields: Partial<LetteringItem>, origin = 'lettering.set'): boolean =>
  dispatch(setItemFields, { id, fields }, { origin });

const titled = (text: string): string =>
  text.toLowerCase().replace(/(^|[\s\-–(/„“"'’])(\p{L})/gu, (_, before: string, letter: string) => before + letter.toUpperCase());
const sentence = (text: string): string =>
  text.toLowerCase().replace(/(^\s*|[.!?]\s+|\n\s*)(\p{L})/gu, (_, before: string, letter: string) => before + letter.toUpperCase());

const CASES: readonly { name: string; says: string; change(text: string): string }[] = [
  { name: 'AB', says: 'All capitals', change: (text) => text.toUpperCase() },
  { name: 'ab', says: 'All small letters', change: (text) => text.toLowerCase() },
  { name: 'Ab Ab', says: 'Capital at each word', change: titled },
  { name: 'Ab ab', says: 'Capital at each sentence', change: sentence },
];

export function LetteringTools({ item }: { item: LetteringItem }) {
  const { unit } = pageOf(useDocument((state) => state.drawing));
  const distance = readingDistance(item.capHeightMm);
  const say = (mm: number): string =>
    unit === 'mm' || unit === 'cm' ? `${(mm / 1000).toFixed(mm < 20_000 ? 1 : 0)} m` : `${Math.round(mm / 304.8)} ft`;
  return (
    <>
      <div role="group" aria-label="Case" className="flex">
        {CASES.map(({ name, says, change }) => (
          <button
            key={name}
            type="button"
            title={says}
            aria-label={says}
            onClick={() => dispatch(writeText, { id: item.id, text: change(item.text) }, { origin: 'lettering.case' })}
            className="-ml-px h-7 flex-1 border border-line-strong bg-sheet text-[13px] first:ml-0 hover:bg-teal-wash"
          >
            {name}
          </button>
        ))}
      </div>
      <SingleLetter item={item} />
      <Fit item={item} />
      <div title="Capitals at 20 minutes of arc read well (ISO 9241-303), at 5 they are just made out by normal sight (ISO 8596). Script, thin strokes and poor light shorten both.">
        <Figure name="Reads well up to">{say(distance.wellMm)}</Figure>
        <Figure name="Just made out at">{say(distance.atMostMm)}</Figure>
        <p className="text-2xs text-ink-soft">Capitals at 20′ of arc (ISO 9241-303) and at 5′ (ISO 8596)</p>
      </div>
    </>
  );
}

/** Letters that are not as the font has them, to be taken back. */
function LettersByHand({ item }: { item: LetteringItem }) {
  const tweaked = Object.keys(item.tweaks ?? {}).length;
  if (tweaked === 0) return null;
  return (
    <div className="flex items-center justify-between gap-2 text-[13px]">
      <span className="text-ink-soft">
        {tweaked} {tweaked === 1 ? 'letter' : 'letters'} set by hand
      </span>
      <Button size="small" onClick={() => set(item.id, { tweaks: {} }, 'lettering.untweak')}>
        As the font has them
      </Button>
    </div>
  );
}

/** What is done to the letter after the caret, or to all that are marked. */
function SingleLetter({ item }: { item: LetteringItem }) {
  const letter = useView((state) => state.letter);
  const index = letter?.item === item.id ? letter.index : undefined;
  const char = index === undefined ? undefined : item.text[index];
  if (index === undefined || char === undefined || /\s/.test(char)) return <LettersByHand item={item} />;
  return <LetterFields item={item} index={index} marked={Math.max(1, (letter?.end ?? index) - index)} />;
}

function LetterFields({ item, index, marked }: { item: LetteringItem; index: number; marked: number }) {
  const { unit } = pageOf(useDocument((state) => state.drawing));
  const tweak = item.tweaks?.[index] ?? {};
  const change = (fields: typeof tweak): void => {
    const group = newId('letter');
    for (let i = 0; i < marked; i++)
      dispatch(tweakLetter, { id: item.id, index: index + i, fields }, { origin: 'lettering.letter', group });
  };
  return (
    <div className="flex flex-col gap-2 border-t pt-2">
      <span className="rule-label">
        {marked > 1 ? `Letters “${item.text.slice(index, index + marked)}”` : `Letter “${item.text[index]}”`}
      </span>
      <div className="grid grid-cols-2 gap-2">
        <LengthField label="Kerning before it" short="Kern" mm={tweak.kernMm ?? 0} unit={unit} onChange={(kernMm) => change({ kernMm })} />
        <NumberField
          label="Size of the letter"
          short="Size"
          value={tweak.sizePct ?? 100}
          suffix="%"
          min={1}
          max={1000}
          onChange={(sizePct) => change({ sizePct })}
        />
        <LengthField
          label="Letter to the right"
          short="→"
          mm={tweak.shiftXMm ?? 0}
          unit={unit}
          onChange={(shiftXMm) => change({ shiftXMm })}
        />
        <LengthField label="Letter upward" short="↑" mm={tweak.shiftYMm ?? 0} unit={unit} onChange={(shiftYMm) => change({ shiftYMm })} />
        <NumberField
          label="Turn of the letter"
          short="Turn"
          value={tweak.turnDeg ?? 0}
          suffix="°"
          min={-360}
          max={360}
          onChange={(turnDeg) => change({ turnDeg })}
        />
      </div>
    </div>
  );
}

/** Scales the lettering, ratio kept, into a room, and puts it in the room's middle. */
function fitInto(id: string, room: { minX: number; minY: number; maxX: number; maxY: number }, upDown: boolean): void {
  const { drawing } = useDocument.getState();
  const box = boxOf(drawing, [id]);
  if (!box) return;
  const [w, h] = [box.maxX - box.minX, box.maxY - box.minY];
  const ky = (room.maxY - room.minY) / h;
  const k = upDown ? ky : Math.min(ky, (room.maxX - room.minX) / w);
  const from = { x: (box.minX + box.maxX) / 2, y: (box.minY + box.maxY) / 2 };
  const to = upDown ? { x: from.x, y: (room.minY + room.maxY) / 2 } : { x: (room.minX + room.maxX) / 2, y: (room.minY + room.maxY) / 2 };
  const map = compose(translation(to.x, to.y), compose(scaling(k, k), translation(-from.x, -from.y)));
  dispatch(transformItems, { ids: [id], map }, { origin: 'lettering.fit' });
}

/** Between the level guides above and below its middle. */
function fitBetweenGuides(id: string): void {
  const { drawing } = useDocument.getState();
  const box = boxOf(drawing, [id]);
  const level = (pageOf(drawing).guides ?? []).filter((guide) => guide.axis === 'y').map((guide) => guide.mm);
  if (!box || level.length < 2) return void toast.warning('Set two level guides first: pull them out of the upper ruler.');
  const middle = (box.minY + box.maxY) / 2;
  const below = Math.max(...level.filter((mm) => mm < middle), -Infinity);
  const above = Math.min(...level.filter((mm) => mm >= middle), Infinity);
  if (!Number.isFinite(below) || !Number.isFinite(above))
    return void toast.warning('The lettering must stand between two level guides: one above and one below its middle.');
  fitInto(id, { minX: 0, maxX: 0, minY: below, maxY: above }, true);
}

/** Into the smallest shape that lies under its middle. */
function fitIntoShapeBelow(id: string): void {
  const { drawing } = useDocument.getState();
  const own = boxOf(drawing, [id]);
  const rooms = leavesOf(drawing)
    .filter((leaf) => leaf.id !== id && leaf.kind !== 'lettering' && leaf.kind !== 'dimension')
    .flatMap((leaf) => boxOf(drawing, [leaf.id]) ?? [])
    .filter(
      (box) =>
        own &&
        (own.minX + own.maxX) / 2 > box.minX &&
        (own.minX + own.maxX) / 2 < box.maxX &&
        (own.minY + own.maxY) / 2 > box.minY &&
        (own.minY + own.maxY) / 2 < box.maxY,
    )
    .sort((a, b) => (a.maxX - a.minX) * (a.maxY - a.minY) - (b.maxX - b.minX) * (b.maxY - b.minY));
  const [room] = rooms;
  if (!room) return void toast.warning('No shape lies under the middle of this lettering.');
  fitInto(id, room, false);
}

/** Into a room of a size, round its own middle. */
function fitIntoSize(id: string, width: number, height: number): void {
  const box = boxOf(useDocument.getState().drawing, [id]);
  if (!box) return;
  const [x, y] = [(box.minX + box.maxX) / 2, (box.minY + box.maxY) / 2];
  fitInto(id, { minX: x - width / 2, maxX: x + width / 2, minY: y - height / 2, maxY: y + height / 2 }, false);
}

function Fit({ item }: { item: LetteringItem }) {
  const [width, setWidth] = useState(600);
  const [height, setHeight] = useState(200);
  const [open, setOpen] = useState(false);
  const { unit } = pageOf(useDocument((state) => state.drawing));
  if (!itemOf(useDocument.getState().drawing, item.id)) return null;
  return (
    <div className="flex flex-col gap-2">
      <button type="button" aria-expanded={open} onClick={() => setOpen(!open)} className="self-start text-[13px] text-teal underline">
        Fit into a room
      </button>
      {open ? (
        <>
          <div className="grid grid-cols-2 gap-2">
            <LengthField label="Width of the room" short="W" mm={width} unit={unit} minMm={1} onChange={setWidth} />
            <LengthField label="Height of the room" short="H" mm={height} unit={unit} minMm={1} onChange={setHeight} />
          </div>
          <div className="flex flex-wrap gap-1.5">
            <Button size="small" onClick={() => fitIntoSize(item.id, width, height)}>
              Fit this size
            </Button>
            <Button size="small" onClick={() => fitIntoShapeBelow(item.id)}>
              Into the shape below
            </Button>
            <Button size="small" onClick={() => fitBetweenGuides(item.id)}>
              Between guides
            </Button>
          </div>
        </>
      ) : null}
    </div>
  );
}

export function FontAxes({ item }: { item: LetteringItem }) {
  const fonts = useShop((state) => state.fonts);
  const axes = fonts?.find((font) => font.id === item.fontId)?.axes ?? [];
  if (axes.length === 0) return null;
  return (
    <div className="grid grid-cols-2 gap-2">
      {axes.map(({ tag, name, min, normal, max }) => (
        <NumberField
          key={tag}
          label={`Axis ${name}`}
          short={name}
          value={item.axes?.[tag] ?? normal}
          min={min}
          max={max}
          step={(max - min) / 20}
          onChange={(value) => set(item.id, { axes: { ...item.axes, [tag]: value } }, 'lettering.axis')}
        />
      ))}
    </div>
  );
}

/** The font of the shop whose name is most like a name: shared pairs of letters. */
export function nearestFont(wanted: string, fonts: readonly FontEntry[]): FontEntry | undefined {
  const pairs = (text: string): Set<string> => {
    const t = text.toLowerCase().replace(/[^a-z0-9]/g, '');
    return new Set(Array.from({ length: Math.max(0, t.length - 1) }, (_, i) => t.slice(i, i + 2)));
  };
  const own = pairs(wanted);
  const score = (font: FontEntry): number => {
    const other = pairs(`${font.id} ${font.name}`);
    const shared = [...own].filter((pair) => other.has(pair)).length;
    return (2 * shared) / (own.size + other.size || 1);
  };
  return [...fonts].sort((a, b) => score(b) - score(a))[0];
}

/** Names a font that the shop does not have and offers the nearest. */
export function MissingFont({ item }: { item: LetteringItem }) {
  const fonts = useShop((state) => state.fonts);
  if (!fonts || fonts.some((font) => font.id === item.fontId)) return null;
  const nearest = nearestFont(item.fontId, fonts);
  return (
    <Notice level="warning">
      The font “{item.fontId}” is not in this shop. {item.substitutes.length > 0 ? 'A substitute is shown. ' : ''}
      {nearest ? (
        <button type="button" className="text-teal underline" onClick={() => set(item.id, { fontId: nearest.id }, 'lettering.font')}>
          Take {nearest.name}, the nearest by name
        </button>
      ) : null}
      {' or choose one above.'}
    </Notice>
  );
}
