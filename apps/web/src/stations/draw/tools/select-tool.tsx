/** The select tool: taking, moving, sizing, turning, marking out; guides are dragged with it too. */
import { describeLength, type LengthUnit } from '@lorvek/core/units';
import { compose, translation, type Box, type Matrix, type Point } from '@lorvek/core/geometry';
import { itemOf, leavesOf, pageOf, selectableOf, setGuides, transformItems, type Guide } from '@lorvek/model';
import { useRef, useState } from 'react';
import { dispatch, enterGroup, newId, select, useDocument } from '../../../document/store.ts';
import { handleAt, itemAt, itemsWithin } from '../../../drawing/hit.ts';
import { RULER_PX } from '../../../drawing/rulers.ts';
import { boxOf, type Frame } from '../../../drawing/selection.ts';
import { snapBox, snapPoint, snapTargets, type Snapped, type SnapTargets } from '../../../drawing/snap.ts';
import { useView, type View } from '../../../drawing/view.ts';
import type { PointerInfo } from '../../../drawing/viewport.tsx';
import { moveBy, sizeBy, turnBy, type Drag } from '../drag.ts';
import { MarkBox } from '../overlay.tsx';
import { CLICK_PX, type Tool, type ToolSetting } from './tool.ts';

const GUIDE_PX = 4;

function describeDrag(drag: Drag, preview: Matrix | undefined, frame: Frame | undefined, unit: LengthUnit): string {
  const say = (mm: number): string => describeLength(Math.round(mm * 100) / 100, unit);
  if (drag.kind === 'guide') return `${drag.guide.axis === 'x' ? 'X' : 'Y'} ${say(drag.mm)}`;
  if (!preview || drag.kind === 'mark') return '';
  if (drag.kind === 'move') return `→ ${say(preview[4])}  ↑ ${say(preview[5])}`;
  if (drag.kind === 'turn') return `${Math.round((Math.atan2(preview[1], preview[0]) * 1800) / Math.PI) / 10}°`;
  return frame ? `${say(frame.box.maxX - frame.box.minX)} × ${say(frame.box.maxY - frame.box.minY)}` : '';
}

function guideAt(drawing: ToolSetting['drawing'], view: View, at: Point): Guide | undefined {
  return pageOf(drawing).guides?.find((guide) => Math.abs((guide.axis === 'x' ? at.x : at.y) - guide.mm) * view.scale <= GUIDE_PX);
}

/** A guide as it was left: moved, made, or taken away when it was dropped on a ruler. */
function putGuide(guide: Guide, mm: number, screen: Point): void {
  const { drawing } = useDocument.getState();
  const others = (pageOf(drawing).guides ?? []).filter((one) => one.id !== guide.id);
  const onRuler = guide.axis === 'x' ? screen.x < RULER_PX : screen.y < RULER_PX;
  if (onRuler && others.length === (pageOf(drawing).guides ?? []).length) return;
  const guides = onRuler ? others : [...others, { ...guide, mm: Math.round(mm * 100) / 100 }];
  dispatch(setGuides, { guides }, { origin: onRuler ? 'guide.remove' : 'guide.place' });
}

/** What a drag snaps to; looked for once a drag, for nothing else moves meanwhile. */
function useSnapping({ drawing, view }: Pick<ToolSetting, 'drawing' | 'view'>) {
  const [snapped, setSnapped] = useState<Snapped>();
  const targets = useRef<SnapTargets | undefined>(undefined);
  const moving = (from: Point, { at, event }: PointerInfo): Matrix => {
    const map = moveBy(from, at, event);
    const box = boxOf(drawing, useDocument.getState().selection);
    if (event.ctrlKey || !view || !box) {
      setSnapped(undefined);
      return map;
    }
    targets.current ??= snapTargets(drawing, new Set(leavesOf(drawing, useDocument.getState().selection).map((leaf) => leaf.id)));
    const [dx, dy] = [map[4], map[5]];
    const found = snapBox(targets.current, { minX: box.minX + dx, maxX: box.maxX + dx, minY: box.minY + dy, maxY: box.maxY + dy }, view);
    const kept = event.shiftKey ? { x: dx === 0 ? 0 : found.at.x, y: dy === 0 ? 0 : found.at.y } : found.at;
    setSnapped(found);
    return compose(translation(kept.x, kept.y), map);
  };

  const snappedAt = ({ at, event }: PointerInfo, without: readonly string[]): Point => {
    if (event.ctrlKey || !view) return at;
    targets.current ??= snapTargets(drawing, new Set(leavesOf(drawing, without).map((leaf) => leaf.id)));
    const found = snapPoint(targets.current, at, view);
    setSnapped(found);
    return found.at;
  };
  const forget = (): void => {
    targets.current = undefined;
    setSnapped(undefined);
  };
  return { snapped, forget, moving, snappedAt };
}

const isOnRuler = ({ x, y }: Point): boolean => x < RULER_PX || y < RULER_PX;

/** A guide that is pulled out of a ruler. */
function guideOfRuler(at: Point, screen: Point): Drag | undefined {
  if (!isOnRuler(screen)) return undefined;
  const axis = screen.x < RULER_PX ? 'x' : 'y';
  return { kind: 'guide', guide: { id: newId('guide'), axis, mm: 0 }, mm: axis === 'x' ? at.x : at.y };
}

/** A handle of the frame that sizes or turns. */
function handleHeld(frame: Frame, view: View, at: Point, screen: Point): Drag | undefined {
  const handle = handleAt(frame, view, screen);
  if (!handle) return undefined;
  return handle.kind === 'turn' ? { kind: 'turn', from: at, frame } : { kind: 'size', from: at, frame, handle };
}

function cursorAt(frame: Frame | undefined, view: View | undefined, screen: Point): string {
  const handle = frame && view ? handleAt(frame, view, screen) : undefined;
  if (handle) return handle.kind === 'turn' ? 'grab' : 'nwse-resize';
  return isOnRuler(screen) ? 'copy' : 'default';
}

/** Selects what lies in the box that was marked out. */
function selectWithin({ from, to, add }: Extract<Drag, { kind: 'mark' }>): void {
  const { drawing, selection, entered } = useDocument.getState();
  const box: Box = {
    minX: Math.min(from.x, to.x),
    maxX: Math.max(from.x, to.x),
    minY: Math.min(from.y, to.y),
    maxY: Math.max(from.y, to.y),
  };
  const found = [...new Set(itemsWithin(drawing, box).map((id) => selectableOf(drawing, id, entered)))];
  if (found.length > 0) select(add ? [...new Set([...selection, ...found])] : found);
}

/** What a press takes hold of; it selects what it is on, and with Shift takes that in or out. */
function takeHold(
  { drawing, selection, view }: ToolSetting & { readonly view: View },
  frame: Frame | undefined,
  { at, screen, event }: PointerInfo,
): Drag | undefined {
  const held = guideOfRuler(at, screen) ?? (frame && handleHeld(frame, view, at, screen));
  if (held) return held;
  const hit = itemAt(drawing, at, view);
  const guide = guideAt(drawing, view, at);
  if (guide && (hit === undefined || itemOf(drawing, hit)?.kind === 'picture')) return { kind: 'guide', guide, mm: guide.mm };
  if (hit === undefined) {
    if (!event.shiftKey) select([]);
    enterGroup(undefined);
    return { kind: 'mark', from: at, to: at, add: event.shiftKey };
  }
  const id = selectableOf(drawing, hit, useDocument.getState().entered);
  const isSelected = selection.includes(id);
  if (event.shiftKey) {
    select(isSelected ? selection.filter((other) => other !== id) : [...selection, id]);
    return undefined;
  }
  if (!isSelected) select([id]);
  // a finger that only meant to move the view shall not move what lies under it
  return !isSelected && event.pointerType === 'touch' ? undefined : { kind: 'move', from: at, started: false };
}

export function useSelectTool({ drawing, selection, view }: ToolSetting, frame: Frame | undefined): Tool {
  const { preview, ratioLock, writing } = useView();
  const [drag, setDrag] = useState<Drag>();
  const [cursor, setCursor] = useState('default');
  const { snapped, forget, moving, snappedAt } = useSnapping({ drawing, view });
  const { unit } = pageOf(drawing);

  const down = (info: PointerInfo): void => {
    if (!view) return;
    forget();
    setDrag(takeHold({ drawing, selection, view }, writing ? undefined : frame, info));
  };

  const move = (info: PointerInfo): void => {
    const { at, screen, event } = info;
    if (!drag) return setCursor(cursorAt(writing ? undefined : frame, view, screen));
    if (drag.kind === 'move') {
      const far = view ? Math.hypot(at.x - drag.from.x, at.y - drag.from.y) * view.scale > CLICK_PX : false;
      if (!far && !drag.started) return;
      if (!drag.started) setDrag({ ...drag, started: true });
      useView.setState({ preview: moving(drag.from, info) });
    } else if (drag.kind === 'size')
      useView.setState({ preview: sizeBy(drag, drag.frame.turnDeg === 0 ? snappedAt(info, selection) : at, event, ratioLock) });
    else if (drag.kind === 'turn') useView.setState({ preview: turnBy(drag, at, event).map });
    else if (drag.kind === 'guide') {
      const p = snappedAt(info, []);
      setDrag({ ...drag, mm: drag.guide.axis === 'x' ? p.x : p.y });
    } else setDrag({ ...drag, to: at });
  };

  const up = ({ screen }: PointerInfo): void => {
    forget();
    if (!drag) return;
    setDrag(undefined);
    const map = useView.getState().preview;
    useView.setState({ preview: undefined });
    if (drag.kind === 'mark') selectWithin(drag);
    else if (drag.kind === 'guide') putGuide(drag.guide, drag.mm, screen);
    else if (map)
      dispatch(transformItems, { ids: useDocument.getState().selection, map }, { origin: `item.${drag.kind}`, group: newId('drag') });
  };

  return {
    cursor,
    snapped,
    note: drag ? describeDrag(drag, preview, frame, unit) : '',
    onDown: down,
    onMove: move,
    onUp: up,
    onCancel: () => {
      setDrag(undefined);
      forget();
      useView.setState({ preview: undefined });
    },
    overlay: (
      <>
        {view && drag?.kind === 'mark' ? <MarkBox view={view} from={drag.from} to={drag.to} /> : null}
        {view && drag?.kind === 'guide' ? <DraggedGuide axis={drag.guide.axis} mm={drag.mm} view={view} /> : null}
      </>
    ),
  };
}

function DraggedGuide({ axis, mm, view }: { axis: 'x' | 'y'; mm: number; view: View }) {
  const at = axis === 'x' ? view.x + mm * view.scale : view.y - mm * view.scale;
  return (
    <svg className="pointer-events-none absolute inset-0 h-full w-full">
      {axis === 'x' ? (
        <line x1={at} x2={at} y1={0} y2="100%" stroke="#1d8a86" strokeDasharray="9 3 2 3" />
      ) : (
        <line y1={at} y2={at} x1={0} x2="100%" stroke="#1d8a86" strokeDasharray="9 3 2 3" />
      )}
    </svg>
  );
}
