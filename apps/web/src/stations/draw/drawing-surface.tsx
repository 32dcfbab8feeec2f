/** The drawing of the Draw station: painting, and the tools of the bench at work. */
import { describeLength, type LengthUnit } from '@lorvek/core/units';
import type { Box, Matrix, Point } from '@lorvek/core/geometry';
import { addItems, itemOf, leavesOf, pageOf, selectableOf, transformItems } from '@lorvek/model';
import { useEffect, useMemo, useRef, useState } from 'react';
import { dispatch, enterGroup, newId, select, useDocument } from '../../document/store.ts';
import { bladeContours, paintBladeMarks, type BladeContour } from '../../drawing/blade-marks.ts';
import { handleAt, itemAt, itemsWithin } from '../../drawing/hit.ts';
import { paintDrawing } from '../../drawing/paint.ts';
import { boxOfAll, frameOf, type Frame } from '../../drawing/selection.ts';
import { fitBox, useView } from '../../drawing/view.ts';
import { Viewport, type PointerInfo } from '../../drawing/viewport.tsx';
import { useDerivedVersion } from '../../worker/derived.ts';
import { boxBetween, moveBy, sizeBy, turnBy, type Drag } from './drag.ts';
import { newLettering, newShape } from './new-items.ts';
import { Flash, MarkBox, PointerNote, SelectionOverlay } from './overlay.tsx';
import { indexAt, newWritingGroup, startWriting, Writer } from './writer.tsx';

/** A press that moves less than this is a click, px. */
const CLICK_PX = 3;

function useBladeMarks(): readonly BladeContour[] {
  const blade = useView((state) => state.blade);
  const drawing = useDocument((state) => state.drawing);
  const version = useDerivedVersion((state) => state.version);
  const [marks, setMarks] = useState<readonly BladeContour[]>([]);
  useEffect(() => {
    let current = true;
    if (!blade) {
      setMarks([]);
      return undefined;
    }
    bladeContours(drawing)
      .then((found) => current && setMarks(found))
      .catch(() => undefined);
    return () => {
      current = false;
    };
  }, [blade, drawing, version]);
  return marks;
}

/** Shows everything: the surface, or the work where it reaches beyond. */
export function fitDrawing(): void {
  const { drawing } = useDocument.getState();
  const { surface } = pageOf(drawing);
  const all = boxOfAll(drawing);
  fitBox('drawing', {
    minX: Math.min(0, all.minX),
    minY: Math.min(0, all.minY),
    maxX: Math.max(surface.widthMm, all.maxX),
    maxY: Math.max(surface.heightMm, all.maxY),
  });
}

function describeDrag(drag: Drag, preview: Matrix | undefined, frame: Frame | undefined, unit: LengthUnit): string {
  const say = (mm: number): string => describeLength(Math.round(mm * 100) / 100, unit);
  if (drag.kind === 'make') {
    const r = boxBetween(drag.from, drag.to, drag.square);
    return `${say(r.width)} × ${say(r.height)}`;
  }
  if (!preview || drag.kind === 'mark') return '';
  if (drag.kind === 'move') return `→ ${say(preview[4])}  ↑ ${say(preview[5])}`;
  if (drag.kind === 'turn') return `${Math.round((Math.atan2(preview[1], preview[0]) * 1800) / Math.PI) / 10}°`;
  return frame ? `${say(frame.box.maxX - frame.box.minX)} × ${say(frame.box.maxY - frame.box.minY)}` : '';
}

export function DrawingSurface() {
  const drawing = useDocument((state) => state.drawing);
  const selection = useDocument((state) => state.selection);
  const entered = useDocument((state) => state.entered);
  const view = useView((state) => state.views.drawing);
  const { tool, blade, preview, writing, flash, ratioLock } = useView();
  const version = useDerivedVersion((state) => state.version);
  const marks = useBladeMarks();
  const [drag, setDrag] = useState<Drag>();
  const [pointer, setPointer] = useState<Point>();
  const [cursor, setCursor] = useState('default');
  const group = useRef('');
  const { unit } = pageOf(drawing);
  const frame = useMemo(() => frameOf(drawing, selection, preview), [drawing, selection, preview, version]); // eslint-disable-line react-hooks/exhaustive-deps -- a new result changes the frame
  const members = useMemo(
    () => (selection.length > 1 && selection.length <= 60 && !preview ? selection.flatMap((id) => frameOf(drawing, [id]) ?? []) : []),
    [drawing, selection, preview, version], // eslint-disable-line react-hooks/exhaustive-deps -- as above
  );
  const moved = useMemo(() => new Set(preview ? leavesOf(drawing, selection).map((leaf) => leaf.id) : []), [drawing, selection, preview]);

  const letDown = ({ at }: PointerInfo): void => {
    const item = newLettering(drawing, at);
    group.current = newWritingGroup();
    dispatch(addItems, { items: [item], roots: [item.id] }, { origin: 'lettering.add', group: group.current });
    startWriting(item.id);
  };

  const pick = ({ at, screen, event }: PointerInfo): void => {
    if (!view) return;
    const handle = frame && !writing ? handleAt(frame, view, screen) : undefined;
    if (handle && frame)
      return setDrag(handle.kind === 'turn' ? { kind: 'turn', from: at, frame } : { kind: 'size', from: at, frame, handle });
    const hit = itemAt(drawing, at, view);
    if (hit === undefined) {
      if (!event.shiftKey) select([]);
      enterGroup(undefined);
      return setDrag({ kind: 'mark', from: at, to: at, add: event.shiftKey });
    }
    const id = selectableOf(drawing, hit, entered);
    if (event.shiftKey) return select(selection.includes(id) ? selection.filter((other) => other !== id) : [...selection, id]);
    if (!selection.includes(id)) select([id]);
    setDrag({ kind: 'move', from: at, started: false });
  };

  const onDown = (info: PointerInfo): void => {
    const written = writing ? itemOf(drawing, writing) : undefined;
    if (written?.kind === 'lettering' && view) {
      const inside = itemAt(drawing, info.at, view) === written.id;
      if (inside) {
        info.event.preventDefault();
        window.dispatchEvent(new CustomEvent('lorvek:caret', { detail: indexAt(written, info.at) }));
        return;
      }
      (document.activeElement as HTMLElement | null)?.blur();
      if (tool !== 'lettering') return select([]);
    }
    if (document.activeElement instanceof HTMLElement) document.activeElement.blur();
    if (tool === 'lettering') {
      info.event.preventDefault();
      const hit = view ? itemAt(drawing, info.at, view) : undefined;
      if (hit !== undefined && itemOf(drawing, hit)?.kind === 'lettering') return startWriting(hit);
      return letDown(info);
    }
    if (tool === 'box' || tool === 'oval')
      return setDrag({ kind: 'make', from: info.at, to: info.at, shape: tool, square: info.event.shiftKey });
    pick(info);
  };

  const onMove = ({ at, screen, event }: PointerInfo): void => {
    setPointer(screen);
    if (!drag) {
      const handle = frame && view && tool === 'select' && !writing ? handleAt(frame, view, screen) : undefined;
      setCursor(tool !== 'select' ? 'crosshair' : handle ? (handle.kind === 'turn' ? 'grab' : 'nwse-resize') : 'default');
      return;
    }
    if (drag.kind === 'move') {
      const far = view ? Math.hypot(at.x - drag.from.x, at.y - drag.from.y) * view.scale > CLICK_PX : false;
      if (far || drag.started) {
        if (!drag.started) setDrag({ ...drag, started: true });
        useView.setState({ preview: moveBy(drag.from, at, event) });
      }
    } else if (drag.kind === 'size') useView.setState({ preview: sizeBy(drag, at, event, ratioLock) });
    else if (drag.kind === 'turn') useView.setState({ preview: turnBy(drag, at, event).map });
    else if (drag.kind === 'make') setDrag({ ...drag, to: at, square: event.shiftKey });
    else setDrag({ ...drag, to: at });
  };

  const finishMake = (made: Extract<Drag, { kind: 'make' }>): void => {
    const rect = boxBetween(made.from, made.to, made.square);
    const isClick = view ? Math.max(rect.width, rect.height) * view.scale < CLICK_PX : false;
    const item = newShape(drawing, made.shape, isClick ? { x: made.from.x, y: made.from.y, width: 100, height: 60 } : rect);
    if (dispatch(addItems, { items: [item], roots: [item.id] }, { origin: `${made.shape}.add` })) useView.setState({ tool: 'select' });
  };

  const onUp = (): void => {
    if (!drag) return;
    setDrag(undefined);
    const map = useView.getState().preview;
    useView.setState({ preview: undefined });
    if (drag.kind === 'mark') {
      const box: Box = {
        minX: Math.min(drag.from.x, drag.to.x),
        maxX: Math.max(drag.from.x, drag.to.x),
        minY: Math.min(drag.from.y, drag.to.y),
        maxY: Math.max(drag.from.y, drag.to.y),
      };
      const found = [...new Set(itemsWithin(drawing, box).map((id) => selectableOf(drawing, id, entered)))];
      if (found.length > 0) select(drag.add ? [...new Set([...selection, ...found])] : found);
    } else if (drag.kind === 'make') finishMake(drag);
    else if (map) dispatch(transformItems, { ids: selection, map }, { origin: `item.${drag.kind}`, group: newId('drag') });
  };

  const onDoubleClick = ({ at }: { at: Point }): void => {
    if (!view || tool !== 'select') return;
    const hit = itemAt(drawing, at, view);
    if (hit === undefined) return;
    const chosen = itemOf(drawing, selectableOf(drawing, hit, entered));
    if (chosen?.kind === 'group') {
      enterGroup(chosen.id);
      select([selectableOf(drawing, hit, chosen.id)]);
    } else if (chosen?.kind === 'lettering') {
      group.current = newWritingGroup();
      startWriting(chosen.id);
    }
  };

  const note = drag && pointer ? describeDrag(drag, preview, frame, unit) : '';
  return (
    <Viewport
      name="drawing"
      unit={unit}
      label="Drawing"
      cursor={cursor}
      deps={[drawing, version, blade, preview, selection, marks]}
      paint={(context, v, size) => {
        paintDrawing(context, drawing, v, size, { blade, moved, preview });
        if (blade && !preview) paintBladeMarks(context, marks, v, size);
      }}
      onFirstSize={fitDrawing}
      onDown={onDown}
      onMove={onMove}
      onUp={onUp}
      onDoubleClick={onDoubleClick}
    >
      {view && frame && !writing ? <SelectionOverlay frame={frame} view={view} members={members} handles={tool === 'select'} /> : null}
      {view && drag?.kind === 'mark' ? <MarkBox view={view} from={drag.from} to={drag.to} /> : null}
      {view && drag?.kind === 'make' ? <MadeBox view={view} drag={drag} /> : null}
      {view && writing ? <Writer id={writing} view={view} group={group.current} /> : null}
      {view && flash ? <Flash view={view} box={flash.box} at={flash.at} /> : null}
      {note && pointer ? <PointerNote at={pointer} text={note} /> : null}
    </Viewport>
  );
}

function MadeBox({
  view,
  drag,
}: {
  view: NonNullable<ReturnType<typeof useView.getState>['views']['drawing']>;
  drag: Extract<Drag, { kind: 'make' }>;
}) {
  const r = boxBetween(drag.from, drag.to, drag.square);
  return <MarkBox view={view} from={{ x: r.x, y: r.y }} to={{ x: r.x + r.width, y: r.y + r.height }} round={drag.shape === 'oval'} />;
}
