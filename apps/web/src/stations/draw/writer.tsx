/**
 * Writing on the drawing: the letters on screen are the outlines themselves; an unseen text box takes the keys,
 * the caret and the marked letters are drawn from the pen positions of the lettering.
 */
import { invert, mapPoint, type Matrix, type Point } from '@lorvek/core/geometry';
import type { LetteringLine } from '@lorvek/core/lettering';
import { itemOf, removeItems, tweakLetter, writeText, type LetteringItem } from '@lorvek/model';
import { useEffect, useRef, useState } from 'react';
import { dispatch, newId, useDocument } from '../../document/store.ts';
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

/** The corners of the marked letters of one line, on the screen: along the feet and back along the heads. */
function stretch(view: View, matrix: Matrix, line: LetteringLine, from: number, to: number, low: number, high: number): string {
  const places = Array.from({ length: to - from + 1 }, (_, i) => placeOf(line, from + i - line.start));
  const feet = places.map((place) => mapPoint(place, { x: 0, y: low }));
  const heads = places.map((place) => mapPoint(place, { x: 0, y: high })).reverse();
  return [...feet, ...heads]
    .map((p) => toScreen(view, mapPoint(matrix, p)))
    .map((p) => `${p.x},${p.y}`)
    .join(' ');
}

export function Writer({ id, view, group }: { id: string; view: View; group: string }) {
  const drawing = useDocument((state) => state.drawing);
  useDerivedVersion();
  const area = useRef<HTMLTextAreaElement>(null);
  const [range, setRange] = useState({ from: 0, to: 0 });
  const record = itemOf(drawing, id);
  const item = record?.kind === 'lettering' ? record : undefined;
  const text = item?.text ?? '';

  useEffect(() => {
    const box = area.current;
    box?.focus({ preventScroll: true });
    box?.setSelectionRange(box.value.length, box.value.length);
    setRange({ from: box?.value.length ?? 0, to: box?.value.length ?? 0 });
  }, [id]);

  useEffect(() => {
    const set = (event: Event): void => {
      const index = (event as CustomEvent<number>).detail;
      area.current?.focus({ preventScroll: true });
      area.current?.setSelectionRange(index, index);
      setRange({ from: index, to: index });
    };
    window.addEventListener('lorvek:caret', set);
    return () => window.removeEventListener('lorvek:caret', set);
  }, []);

  if (!item) return null;
  const result = resultOf(item);
  const lines = result && result.error === undefined ? result.lines : [];
  const caret = caretAt(lines, range.to);
  const low = -0.28 * item.capHeightMm;
  const high = 1.18 * item.capHeightMm;
  const foot = toScreen(view, mapPoint(item.matrix, mapPoint(caret, { x: 0, y: low })));
  const head = toScreen(view, mapPoint(item.matrix, mapPoint(caret, { x: 0, y: high })));
  const readRange = (): void => {
    const box = area.current;
    if (!box) return;
    setRange({ from: box.selectionStart, to: box.selectionEnd });
    useView.setState({ letter: { item: id, index: box.selectionStart, end: box.selectionEnd } });
  };
  const finish = (): void => {
    if (useView.getState().writing === id) useView.setState({ writing: undefined, tool: 'select' });
    const now = itemOf(useDocument.getState().drawing, id);
    if (now?.kind === 'lettering' && now.text.trim() === '') dispatch(removeItems, { ids: [id] }, { origin: 'item.remove', group });
  };
  return (
    <>
      <svg className="pointer-events-none absolute inset-0 h-full w-full">
        {range.from !== range.to
          ? lines.map((line) => {
              const [a, b] = [Math.max(range.from, line.start), Math.min(range.to, line.end)];
              if (a >= b) return null;
              return <polygon key={line.start} points={stretch(view, item.matrix, line, a, b, low, high)} fill="#3fa39f" opacity={0.35} />;
            })
          : null}
        <line x1={foot.x} y1={foot.y} x2={head.x} y2={head.y} stroke="#fdfbf6" strokeWidth={4} opacity={0.9} />
        <line x1={foot.x} y1={foot.y} x2={head.x} y2={head.y} stroke="#0d5c5f" strokeWidth={2} data-testid="caret">
          <animate attributeName="opacity" values="1;1;0.15;1" dur="1.1s" repeatCount="indefinite" />
        </line>
      </svg>
      <textarea
        ref={area}
        aria-label="Words of the lettering"
        value={text}
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
          } else if (event.altKey && (event.key === 'ArrowLeft' || event.key === 'ArrowRight')) {
            event.preventDefault();
            const step = (event.key === 'ArrowRight' ? 1 : -1) * (event.shiftKey ? 0.1 : 0.01) * item.capHeightMm;
            const kernMm = Math.round(((item.tweaks?.[range.to]?.kernMm ?? 0) + step) * 100) / 100;
            dispatch(tweakLetter, { id, index: range.to, fields: { kernMm } }, { origin: 'lettering.kern', group });
          }
        }}
        onBlur={finish}
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
