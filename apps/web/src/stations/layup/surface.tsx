/** The material with the work on it, true to size: pieces are chosen and dragged here, also from sheet to sheet. */
import type { Box, Point } from '@lorvek/core/geometry';
import { layUpOf, mirrorOf, pageOf } from '@lorvek/model';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { useEffect, useMemo, useRef } from 'react';
import { useSheets } from '../../document/sheets.ts';
import { useDocument } from '../../document/store.ts';
import { fitBox, useView, type View } from '../../drawing/view.ts';
import { Viewport, type PointerInfo } from '../../drawing/viewport.tsx';
import { useDerivedVersion } from '../../worker/derived.ts';
import { useActiveSheet } from './active.ts';
import { boxOfLanes, describeLane, laneAt, lanesOf, paintLanes, type Lane } from './lanes.ts';
import { movePieces, useLaying } from './laying.ts';
import { boxOfPiece, boxOfPieces, chosenPieces, keyOf, litWhile, pieceAt, piecesOn, snapped, type Piece } from './pieces.ts';
import { shownSheets, useNestSearch } from './nest-search.ts';

export const fitLayUp = (): void => fitBox('layup', boxOfLanes(lanesOf(useSheets.getState().sheets)), 64);

interface Grip {
  readonly start: Point;
  readonly lane: Lane;
  readonly pieces: readonly Piece[];
  readonly box: Box;
  isMoving: boolean;
}

const START_PX = 4;

const clearBox = ({ material, usedLengthMm }: SheetPlan, marginMm: number): Box => ({
  minX: marginMm,
  minY: marginMm,
  maxX: Math.min(material.lengthMm, Math.max(usedLengthMm, 1)) - marginMm,
  maxY: material.widthMm - marginMm,
});

/** Choosing and dragging pieces. */
function usePointer(lanes: readonly Lane[]) {
  const grip = useRef<Grip>(undefined);
  const down = ({ at, event }: PointerInfo): void => {
    const lane = laneAt(lanes, at);
    if (!lane) return useLaying.setState({ chosen: new Set() });
    useView.setState({ film: lane.sheet.layer.id });
    const reach = 3 / (useView.getState().views.layup?.scale ?? 1);
    const piece = pieceAt(lane.sheet, { x: at.x - lane.x, y: at.y - lane.y }, reach);
    const { chosen } = useLaying.getState();
    if (!piece) return event.shiftKey ? undefined : useLaying.setState({ chosen: new Set() });
    const key = keyOf(lane.sheet, piece.placement);
    const next = event.shiftKey
      ? new Set(chosen.has(key) ? [...chosen].filter((one) => one !== key) : [...chosen, key])
      : chosen.has(key)
        ? chosen
        : new Set([key]);
    useLaying.setState({ chosen: next });
    const pieces = chosenPieces(useSheets.getState().sheets, next).filter(
      ({ sheet, placement }) => sheet.layer.id === lane.sheet.layer.id && !placement.locked,
    );
    const box = boxOfPieces(pieces);
    grip.current = box && next.has(key) ? { start: at, lane, pieces, box, isMoving: false } : undefined;
  };
  const move = ({ at }: PointerInfo): void => {
    const held = grip.current;
    const scale = useView.getState().views.layup?.scale ?? 1;
    if (!held) return;
    if (!held.isMoving && Math.hypot(at.x - held.start.x, at.y - held.start.y) * scale < START_PX) return;
    held.isMoving = true;
    const over = laneAt(lanes, at);
    const target = over && over.sheet.layer.id === held.lane.sheet.layer.id ? over : held.lane;
    const way = { x: at.x - target.x - (held.start.x - held.lane.x), y: at.y - target.y - (held.start.y - held.lane.y) };
    const keys = new Set(held.pieces.map(({ sheet, placement }) => keyOf(sheet, placement)));
    const others = piecesOn(target.sheet).filter(({ sheet, placement }) => !keys.has(keyOf(sheet, placement)));
    const by = snapped(
      held.box,
      way,
      others.map(boxOfPiece),
      clearBox(target.sheet, layUpOf(useDocument.getState().drawing, target.sheet.layer.id).marginMm),
      scale,
    );
    useLaying.setState({ drag: { dx: by.x, dy: by.y, to: target.sheet } });
  };
  const stop = (): void => {
    grip.current = undefined;
    useLaying.setState({ drag: undefined });
  };
  const up = (): void => {
    const { drag } = useLaying.getState();
    const held = grip.current;
    if (held?.isMoving && drag) movePieces(held.pieces, drag.dx, drag.dy, drag.to);
    stop();
  };
  return { down, move, up, stop };
}

/** So much is seen round a place that is wanted, mm. */
const ROUND_MM = 120;

/** Goes to a place that was asked for elsewhere, as the Cut check does, when its sheet is there. */
function useWantedPlace(lanes: readonly Lane[]): void {
  const wanted = useView((state) => state.wanted);
  const size = useView((state) => state.sizes.layup);
  useEffect(() => {
    const lane = wanted && lanes.find(({ sheet }) => sheet.id === wanted.sheet);
    if (!lane || size.width === 0) return;
    const [x, y] = [lane.x + wanted.place.x, lane.y + wanted.place.y];
    fitBox('layup', { minX: x - ROUND_MM, minY: y - ROUND_MM, maxX: x + ROUND_MM, maxY: y + ROUND_MM });
    useView.setState({ wanted: undefined });
  }, [wanted, lanes, size]);
}

export function LayUpSurface() {
  const drawing = useDocument((state) => state.drawing);
  const selection = useDocument((state) => state.selection);
  const sheets = useSheets((state) => state.sheets);
  const active = useActiveSheet();
  const search = useNestSearch();
  const { chosen, drag } = useLaying();
  const lanes = useMemo(() => lanesOf(shownSheets(sheets, search)), [sheets, search]);
  const pointer = usePointer(lanes);
  // the sheets come after the station, and what lies below the drawing after them: it is fitted until somebody moves it
  const size = useView((state) => state.sizes.layup);
  const fitted = useRef<View>(undefined);
  const hasLanes = lanes.length > 0;
  useEffect(() => {
    if (!hasLanes || (fitted.current && useView.getState().views.layup !== fitted.current)) return;
    fitLayUp();
    fitted.current = useView.getState().views.layup;
  }, [hasLanes, size]);
  useWantedPlace(lanes);
  // pictures come when they have been fetched
  const version = useDerivedVersion((state) => state.version);
  const { unit } = pageOf(drawing);
  const lit = useMemo(() => new Set(selection), [selection]);
  const moving = drag
    ? chosenPieces(sheets, chosen).filter(({ placement, sheet }) => !placement.locked && sheet.layer.id === drag.to.layer.id)
    : [];
  return (
    <Viewport
      name="layup"
      unit={unit}
      label="Rolls with the work on them"
      deps={[lanes, active, lit, drawing, version, chosen, drag]}
      paint={(context, view, size) =>
        paintLanes(context, view, size, {
          lanes,
          active: active?.id,
          selection: lit,
          version,
          chosen,
          drag: drag && { ...drag, pieces: moving, lit: litWhile(moving, drag) },
          marginOf: (film) => layUpOf(drawing, film).marginMm,
          describe: (sheet) => describeLane(sheet, mirrorOf(layUpOf(drawing, sheet.layer.id), sheet.layer).mirror, unit),
        })
      }
      onFirstSize={fitLayUp}
      onDown={pointer.down}
      onMove={pointer.move}
      onUp={pointer.up}
      onCancel={pointer.stop}
    />
  );
}
