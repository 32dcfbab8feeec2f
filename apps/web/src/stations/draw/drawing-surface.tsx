/** The drawing of the Draw station: painting, and the tool of the bench at work. */
import { addItems, itemOf, leavesOf, pageOf, selectableOf, type Drawing, type LeafItem } from '@lorvek/model';
import { useEffect, useMemo, useRef, useState, type RefObject } from 'react';
import type { Point } from '@lorvek/core/geometry';
import { dispatch, enterGroup, select, useDocument } from '../../document/store.ts';
import { BladePlay } from '../../drawing/blade-play.tsx';
import { bladeContours, paintBladeMarks, type BladeContour } from '../../drawing/blade-marks.ts';
import { ComparedOverlay, useCompared } from '../../drawing/compared.tsx';
import { paintDimensions } from '../../drawing/dimensions.ts';
import { itemAt } from '../../drawing/hit.ts';
import { paintDrawing } from '../../drawing/paint.ts';
import { bleedsOn, paintBleeds } from '../../drawing/paint-bleeds.ts';
import { useSheets } from '../../document/sheets.ts';
import { boxOfAll, frameOf } from '../../drawing/selection.ts';
import { fitBox, useView, type ShapeTool, type ToolName, type View, toDrawing } from '../../drawing/view.ts';
import { Viewport, type PointerInfo } from '../../drawing/viewport.tsx';
import { useDerivedVersion } from '../../worker/derived.ts';
import { newLettering } from './new-items.ts';
import { Flash, PlacingOverlay, PointerNote, SelectionOverlay, SnapOverlay, WorkingSigns } from './overlay.tsx';
import { bringInAll } from './bring-in/bring-in.ts';
import { useCurveTool } from './tools/curve-tool.tsx';
import { useKnownLengthTool } from './tools/known-length-tool.tsx';
import { useMakeTool } from './tools/make-tool.tsx';
import { useMeasureTool } from './tools/measure-tool.tsx';
import { useNodeTool } from './tools/node-tool.tsx';
import { useSelectTool } from './tools/select-tool.tsx';
import type { Tool, ToolSetting } from './tools/tool.ts';
import { TreatmentHandles } from './treatments/handles.tsx';
import { indexAt, newWritingGroup, startWriting, Writer } from './writer.tsx';
import { tellFailure } from '../../ui/tell.ts';

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
      .catch(tellFailure);
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

const SHAPES: readonly ToolName[] = ['box', 'oval', 'polygon', 'star', 'line', 'arc', 'freehand'];
const isShape = (tool: ToolName): tool is ShapeTool => SHAPES.includes(tool);

function useToolOfBench(setting: ToolSetting, frame: ReturnType<typeof frameOf>, letDown: (info: PointerInfo) => void): Tool {
  const tool = useView((state) => state.tool);
  const selecting = useSelectTool(setting, frame);
  const making = useMakeTool(setting, isShape(tool) ? tool : 'box');
  const curve = useCurveTool(setting, tool === 'curve');
  const nodes = useNodeTool(setting);
  const measure = useMeasureTool(setting);
  const known = useKnownLengthTool(setting, tool === 'known-length');
  if (isShape(tool)) return making;
  switch (tool) {
    case 'curve':
      return curve;
    case 'nodes':
      return nodes;
    case 'measure':
      return measure;
    case 'known-length':
      return known;
    case 'lettering':
      return { cursor: 'text', onDown: letDown };
    default:
      return selecting;
  }
}

/** The only item selected, when it has treatments to drag. */
function treatedItem(drawing: ToolSetting['drawing'], selection: readonly string[]): LeafItem | undefined {
  const only = selection.length === 1 ? itemOf(drawing, selection[0] ?? '') : undefined;
  return only && only.kind !== 'group' && (only.treatments?.length ?? 0) > 0 ? only : undefined;
}

/** Is the selection framed? Nodes, measuring, writing and the look at old and new want nothing over them. */
function useShowsFrame(tool: ToolName, isWriting: boolean): boolean {
  const isCompared = useCompared((state) => state.pairs.length > 0);
  return tool !== 'nodes' && tool !== 'known-length' && !isWriting && !isCompared;
}

/**
 * Lettering begun where the pointer comes down, or by Enter in the middle of what is seen; on words it goes on with those.
 * @param group of the changes that the writing makes
 */
function useNewLettering({ drawing, view }: Pick<ToolSetting, 'drawing' | 'view'>, group: RefObject<string>): (info: PointerInfo) => void {
  const { tool, writing } = useView();
  const begin = (at: Point): void => {
    const item = newLettering(drawing, at);
    group.current = newWritingGroup();
    dispatch(addItems, { items: [item], roots: [item.id] }, { origin: 'lettering.add', group: group.current });
    startWriting(item.id);
  };
  const byKey = useRef<() => void>(() => undefined);
  byKey.current = (): void => {
    const size = useView.getState().sizes.drawing;
    if (view && tool === 'lettering' && !writing) begin(toDrawing(view, { x: size.width / 2, y: size.height / 2 }));
  };
  useEffect(() => {
    const onKey = (event: KeyboardEvent): void => {
      const { activeElement } = document;
      const isFree =
        activeElement === document.body || (activeElement instanceof HTMLElement && activeElement.dataset['drawing'] === 'drawing');
      if (event.key === 'Enter' && isFree && !event.defaultPrevented) byKey.current();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  return ({ at, event }) => {
    event.preventDefault();
    const hit = view ? itemAt(drawing, at, view) : undefined;
    if (hit !== undefined && itemOf(drawing, hit)?.kind === 'lettering') startWriting(hit);
    else begin(at);
  };
}

/** What the tool says at the pointer, and what it snaps to. */
const noteOf = ({ note = '', snapped }: Tool): string =>
  [note, snapped?.reasons.join(' · ') ?? ''].filter((text) => text !== '').join('  ·  ');

/** A press while words are written: inside sets the caret, outside ends the writing. @returns whether it is dealt with */
function endWriting({ at, event }: PointerInfo, view: View): boolean {
  const { drawing } = useDocument.getState();
  const { writing, tool } = useView.getState();
  const written = writing ? itemOf(drawing, writing) : undefined;
  if (written?.kind !== 'lettering') return false;
  if (itemAt(drawing, at, view) === written.id) {
    event.preventDefault();
    window.dispatchEvent(new CustomEvent('lorvek:caret', { detail: indexAt(written, at) }));
    return true;
  }
  (document.activeElement as HTMLElement | null)?.blur();
  if (tool === 'lettering') return false;
  select([]);
  return true;
}

/** A double click opens what is there: a group, words to be written, a shape's nodes. @param group of the changes that writing makes */
function openAt(at: Point, view: View, group: RefObject<string>): void {
  const { drawing, entered } = useDocument.getState();
  if (useView.getState().tool !== 'select') return;
  const hit = itemAt(drawing, at, view);
  if (hit === undefined) return;
  const chosen = itemOf(drawing, selectableOf(drawing, hit, entered));
  if (chosen?.kind === 'group') {
    enterGroup(chosen.id);
    select([selectableOf(drawing, hit, chosen.id)]);
  } else if (chosen?.kind === 'lettering') {
    group.current = newWritingGroup();
    startWriting(chosen.id);
  } else if (chosen?.kind === 'shape') useView.setState({ tool: 'nodes' });
}

function useBleeds(drawing: Drawing): ReturnType<typeof bleedsOn> {
  const all = useSheets((state) => state.bleeds);
  const bledIn = useSheets((state) => state.bledIn);
  return useMemo(() => bleedsOn(drawing, all, bledIn), [drawing, all, bledIn]);
}

interface Framed {
  readonly frame: ReturnType<typeof frameOf>;
  /** Frames of the items selected, of a few. */
  readonly members: readonly NonNullable<ReturnType<typeof frameOf>>[];
}

/** More frames than these say nothing. */
const MOST_MEMBERS = 60;

/** The frames of what is selected, and what moves with the pointer. */
function useSelected(drawing: Drawing, selection: readonly string[]): Framed & { readonly moved: ReadonlySet<string> } {
  const preview = useView((state) => state.preview);
  const version = useDerivedVersion((state) => state.version);
  const frame = useMemo(() => frameOf(drawing, selection, preview), [drawing, selection, preview, version]); // eslint-disable-line react-hooks/exhaustive-deps -- a new result changes the frame
  const members = useMemo(
    () =>
      selection.length > 1 && selection.length <= MOST_MEMBERS && !preview ? selection.flatMap((id) => frameOf(drawing, [id]) ?? []) : [],
    [drawing, selection, preview, version], // eslint-disable-line react-hooks/exhaustive-deps -- as above
  );
  const moved = useMemo(
    () => new Set<string>(preview ? leavesOf(drawing, selection).map((leaf) => leaf.id) : []),
    [drawing, selection, preview],
  );
  return { frame, members, moved };
}

interface OverProps {
  readonly view: View;
  readonly tool: Tool;
  readonly framed: Framed;
  readonly writingGroup: string;
}

/** What lies over the drawing: frame and handles, the tool's own signs, the words being written. */
function Over({ view, tool: working, framed: { frame, members }, writingGroup }: OverProps) {
  const drawing = useDocument((state) => state.drawing);
  const selection = useDocument((state) => state.selection);
  const { tool, preview, writing, flash } = useView();
  const showsFrame = useShowsFrame(tool, Boolean(writing));
  const treated = tool === 'select' && !preview && !writing ? treatedItem(drawing, selection) : undefined;
  const { unit } = pageOf(drawing);
  return (
    <>
      {frame && showsFrame ? <SelectionOverlay frame={frame} view={view} members={members} handles={tool === 'select'} /> : null}
      {treated ? <TreatmentHandles item={treated} view={view} /> : null}
      <PlacingOverlay view={view} unit={unit} />
      {working.snapped ? <SnapOverlay snapped={working.snapped} view={view} unit={unit} /> : null}
      {working.overlay}
      <WorkingSigns view={view} />
      <ComparedOverlay view={view} />
      {writing ? <Writer id={writing} view={view} group={writingGroup} /> : null}
      {flash ? <Flash view={view} box={flash.box} at={flash.at} /> : null}
    </>
  );
}

export function DrawingSurface() {
  const drawing = useDocument((state) => state.drawing);
  const selection = useDocument((state) => state.selection);
  const view = useView((state) => state.views.drawing);
  const { blade, preview } = useView();
  const version = useDerivedVersion((state) => state.version);
  const marks = useBladeMarks();
  const [pointer, setPointer] = useState<Point>();
  const group = useRef('');
  const bleeds = useBleeds(drawing);
  const { frame, members, moved } = useSelected(drawing, selection);

  const letDown = useNewLettering({ drawing, view }, group);
  const working = useToolOfBench({ drawing, selection, view }, frame, letDown);

  const onDown = (info: PointerInfo): void => {
    if (view && endWriting(info, view)) return;
    if (document.activeElement instanceof HTMLElement) document.activeElement.blur();
    working.onDown(info);
  };

  const note = noteOf(working);
  return (
    <Viewport
      name="drawing"
      unit={pageOf(drawing).unit}
      label="Drawing"
      cursor={working.cursor}
      deps={[drawing, version, blade, preview, selection, marks, bleeds]}
      paint={(context, v, size) => {
        paintDrawing(context, drawing, v, size, { blade, moved, preview, under: paintBleeds(bleeds, { moved, preview }) });
        paintDimensions(context, drawing, v, selection);
        if (blade && !preview) paintBladeMarks(context, marks, v, size);
      }}
      onFirstSize={fitDrawing}
      onDown={onDown}
      onMove={(info) => {
        setPointer(info.screen);
        working.onMove?.(info);
      }}
      onUp={(info) => working.onUp?.(info)}
      onCancel={() => working.onCancel?.()}
      onDoubleClick={(info) => (working.onDoubleClick ? working.onDoubleClick(info) : view && openAt(info.at, view, group))}
      onDrop={(files, at) => void bringInAll(files, at)}
    >
      {view ? <BladePlay marks={marks} view={view} /> : null}
      {view ? <Over view={view} tool={working} framed={{ frame, members }} writingGroup={group.current} /> : null}
      {note && pointer ? <PointerNote at={pointer} text={note} /> : null}
    </Viewport>
  );
}
