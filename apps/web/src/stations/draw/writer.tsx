/**
 * Writing on the drawing: the letters on screen are the outlines themselves; an unseen text box takes the keys,
 * the caret and the marked letters are drawn from the pen positions of the lettering.
 */
import { invert, mapPoint, type Matrix, type Point } from '@lorvek/core/geometry';
import type { LetteringLine } from '@lorvek/core/lettering';
import { itemOf, tweakLetter, writeText, type LetteringItem } from '@lorvek/model';
import { useCallback, useEffect, useRef, useState, type KeyboardEvent, type RefObject } from 'react';
import { dispatch, newId, useDocument } from '../../document/store.ts';
import { remove } from '../../drawing/remove.ts';
import { toScreen, useView, type View } from '../../drawing/view.ts';
import { resultOf, useDerivedVersion } from '../../worker/derived.ts';

/** Where an upright letter at an index of the text stands, in the item's space. */
function caretAt(lines: readonly LetteringLine[], index: number): Matrix {
  const line = lines.find((l) => index >= l.start && index <= l.end) ?? lines.at(-1);
  return line ? placeOf(line, index - line.start) : [1, 0, 0, 1, 0, 0];
}

function placeOf(line: LetteringLine, at: number): Matrix {
  const i = Math.max(0, Math.min(at, line.carets.length - 1));
  return line.places?.[i] ?? [1, 0, 0, 1, line.carets[i] ?? 0, line.baselineY];
}

/** The index in the text nearest to a place on the drawing. */
export function indexAt(item: LetteringItem, at: Point): number {
  const result = resultOf(item);
  const back = invert(item.matrix);
  if (!result || result.error !== undefined || !back) return item.text.length;
  const p = mapPoint(back, at);
  let [best, least] = [item.text.length, Infinity];
  for (const line of result.lines) {
    for (let i = 0; i < line.carets.length; i++) {
      const middle = mapPoint(placeOf(line, i), { x: 0, y: item.capHeightMm / 2 });
      const far = Math.hypot(middle.x - p.x, middle.y - p.y);
      if (far < least) [best, least] = [line.start + i, far];
    }
  }
  return best;
}

/** Feet and heads of letters reach so far below the baseline and above it, in heights of the capitals. */
const REACH = { low: -0.28, high: 1.18 };

interface Range {
  readonly from: number;
  readonly to: number;
}

/** The corners of the marked letters of one line, on the screen: along the feet and back along the heads. */
function stretch(view: View, item: LetteringItem, line: LetteringLine, { from, to }: Range): string {
  const places = Array.from({ length: to - from + 1 }, (_, i) => placeOf(line, from + i - line.start));
  const feet = places.map((place) => mapPoint(place, { x: 0, y: REACH.low * item.capHeightMm }));
  const heads = places.map((place) => mapPoint(place, { x: 0, y: REACH.high * item.capHeightMm })).reverse();
  return [...feet, ...heads]
    .map((p) => toScreen(view, mapPoint(item.matrix, p)))
    .map((p) => `${p.x},${p.y}`)
    .join(' ');
}

/** The caret on the screen, foot and head. */
function caretOn(view: View, item: LetteringItem, lines: readonly LetteringLine[], index: number): { foot: Point; head: Point } {
  const caret = caretAt(lines, index);
  const on = (y: number): Point => toScreen(view, mapPoint(item.matrix, mapPoint(caret, { x: 0, y: y * item.capHeightMm })));
  return { foot: on(REACH.low), head: on(REACH.high) };
}

interface SignsProps {
  readonly view: View;
  readonly item: LetteringItem;
  readonly lines: readonly LetteringLine[];
  readonly range: Range;
}

/** The caret, and what is marked. */
function WritingSigns({ view, item, lines, range }: SignsProps) {
  const { foot, head } = caretOn(view, item, lines, range.to);
  return (
    <svg className="pointer-events-none absolute inset-0 h-full w-full">
      {range.from !== range.to
        ? lines.map((line) => {
            const marked = { from: Math.max(range.from, line.start), to: Math.min(range.to, line.end) };
            if (marked.from >= marked.to) return null;
            return <polygon key={line.start} points={stretch(view, item, line, marked)} fill="#3fa39f" opacity={0.35} />;
          })
        : null}
      <line x1={foot.x} y1={foot.y} x2={head.x} y2={head.y} stroke="#fdfbf6" strokeWidth={4} opacity={0.9} />
      <line x1={foot.x} y1={foot.y} x2={head.x} y2={head.y} stroke="#0d5c5f" strokeWidth={2} data-testid="caret">
        <animate attributeName="opacity" values="1;1;0.15;1" dur="1.1s" repeatCount="indefinite" />
      </line>
    </svg>
  );
}

/** What is marked in the box that takes the keys; a click into the words sets it too. */
function useCaret(id: string, area: RefObject<HTMLTextAreaElement | null>): { range: Range; readRange(): void } {
  const [range, setRange] = useState<Range>({ from: 0, to: 0 });
  const set = useCallback(
    (index: number): void => {
      area.current?.focus({ preventScroll: true });
      area.current?.setSelectionRange(index, index);
      setRange({ from: index, to: index });
    },
    [area],
  );
  useEffect(() => set(area.current?.value.length ?? 0), [id, area, set]);
  useEffect(() => {
    const onCaret = (event: Event): void => set((event as CustomEvent<number>).detail);
    window.addEventListener('lorvek:caret', onCaret);
    return () => window.removeEventListener('lorvek:caret', onCaret);
  }, [set]);
  const readRange = (): void => {
    const box = area.current;
    if (!box) return;
    setRange({ from: box.selectionStart, to: box.selectionEnd });
    useView.setState({ letter: { item: id, index: box.selectionStart, end: box.selectionEnd } });
  };
  return { range, readRange };
}

/** Alt with an arrow kerns the letter at the caret, finely without Shift. @returns whether it was such a key */
function kernByKey(event: KeyboardEvent, item: LetteringItem, index: number, group: string): boolean {
  if (!event.altKey || (event.key !== 'ArrowLeft' && event.key !== 'ArrowRight')) return false;
  const step = (event.key === 'ArrowRight' ? 1 : -1) * (event.shiftKey ? 0.1 : 0.01) * item.capHeightMm;
  const kernMm = Math.round(((item.tweaks?.[index]?.kernMm ?? 0) + step) * 100) / 100;
  dispatch(tweakLetter, { id: item.id, index, fields: { kernMm } }, { origin: 'lettering.kern', group });
  return true;
}

/** Writing is over; words that are none go away. */
function endWriting(id: string, group: string): void {
  if (useView.getState().writing === id) useView.setState({ writing: undefined, tool: 'select' });
  const now = itemOf(useDocument.getState().drawing, id);
  if (now?.kind === 'lettering' && now.text.trim() === '') remove([id], { origin: 'item.remove', group });
}

export function Writer({ id, view, group }: { id: string; view: View; group: string }) {
  const drawing = useDocument((state) => state.drawing);
  useDerivedVersion();
  const area = useRef<HTMLTextAreaElement>(null);
  const { range, readRange } = useCaret(id, area);
  const record = itemOf(drawing, id);
  const item = record?.kind === 'lettering' ? record : undefined;
  if (!item) return null;
  const result = resultOf(item);
  const lines = result && result.error === undefined ? result.lines : [];
  const { foot, head } = caretOn(view, item, lines, range.to);
  return (
    <>
      <WritingSigns view={view} item={item} lines={lines} range={range} />
      <textarea
        ref={area}
        aria-label="Words of the lettering"
        value={item.text}
        wrap="off"
        spellCheck={false}
        onChange={(event) => {
          dispatch(writeText, { id, text: event.target.value }, { origin: 'lettering.write', group });
          readRange();
        }}
        onSelect={readRange}
        onKeyDown={(event) => {
          event.stopPropagation();
          if (event.key === 'Escape') {
            event.preventDefault();
            event.currentTarget.blur();
          } else if (kernByKey(event, item, range.to, group)) event.preventDefault();
        }}
        onBlur={() => endWriting(id, group)}
        className="pointer-events-none absolute h-5 w-px resize-none overflow-hidden border-0 p-0 opacity-0"
        style={{ left: Math.max(0, foot.x), top: Math.max(0, Math.min(foot.y, head.y)), fontSize: 16 }}
      />
    </>
  );
}

/** Starts writing on an item. */
export function startWriting(id: string): void {
  useView.setState({ writing: id, tool: 'select' });
  useDocument.setState({ selection: [id] });
}

export const newWritingGroup = (): string => newId('write');
