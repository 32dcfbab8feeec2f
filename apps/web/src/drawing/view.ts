/** Where the screen looks: scale and place of each station's drawing, and the state of the tools. */
import type { Box, Matrix, NodeAddress, Point } from '@lorvek/core/geometry';
import type { ItemId, LayerId } from '@lorvek/model';
import { create } from 'zustand';

/** Screen pixels a mm and the screen place of the drawing's origin. */
export interface View {
  readonly scale: number;
  readonly x: number;
  readonly y: number;
}

export interface Size {
  readonly width: number;
  readonly height: number;
}

export type ShapeTool = 'box' | 'oval' | 'polygon' | 'star' | 'line' | 'arc' | 'freehand';
export type ToolName = 'select' | 'lettering' | ShapeTool | 'curve' | 'nodes' | 'measure' | 'known-length';
export type ViewName = 'drawing' | 'build' | 'layup' | 'send';

/** Which point of the selection's box stays where it is. 0..1 each way. */
export interface Anchor {
  readonly x: number;
  readonly y: number;
}

interface ViewState {
  views: Record<ViewName, View | undefined>;
  sizes: Record<ViewName, Size>;
  tool: ToolName;
  blade: boolean;
  /** What a drag under way would do to the selection. */
  preview: Matrix | undefined;
  /** Item whose words are being written. */
  writing: ItemId | undefined;
  /** Letters marked last while writing: what the card of single letters works on. */
  letter: { item: string; index: number; end: number } | undefined;
  /** The shape tool used last: what the bench's shape button offers. */
  shape: ShapeTool;
  /** Settings of the tools that have some. */
  corners: number;
  starPct: number;
  smoothing: number;
  /** Chosen nodes of the item that is worked on node by node. */
  nodes: { item: string; chosen: readonly NodeAddress[] } | undefined;
  /** Item that the others are aligned to. */
  key: ItemId | undefined;
  /** Film that new items are cut from. */
  film: LayerId | undefined;
  ratioLock: boolean;
  anchor: Anchor;
  stepMm: number;
  /** A place to draw attention to, and when. */
  flash: { box: Box; at: number } | undefined;
  /** A place on a sheet that is to be seen on Lay up, as soon as that knows where the sheet lies. */
  wanted: { sheet: string; place: Point } | undefined;
}

const NO_SIZE: Size = { width: 0, height: 0 };

export const useView = create<ViewState>(() => ({
  views: { drawing: undefined, build: undefined, layup: undefined, send: undefined },
  sizes: { drawing: NO_SIZE, build: NO_SIZE, layup: NO_SIZE, send: NO_SIZE },
  tool: 'select',
  blade: false,
  preview: undefined,
  writing: undefined,
  letter: undefined,
  shape: 'box',
  corners: 6,
  starPct: 45,
  smoothing: 4,
  nodes: undefined,
  key: undefined,
  film: undefined,
  ratioLock: true,
  anchor: { x: 0, y: 0 },
  stepMm: 1,
  flash: undefined,
  wanted: undefined,
}));

/** CSS pixels a mm at true size. */
export const TRUE_SCALE = 96 / 25.4;
const SMALLEST_SCALE = 0.002;
const LARGEST_SCALE = 2000;

export const toScreen = (view: View, p: Point): Point => ({ x: view.x + p.x * view.scale, y: view.y - p.y * view.scale });
export const toDrawing = (view: View, p: Point): Point => ({ x: (p.x - view.x) / view.scale, y: (view.y - p.y) / view.scale });

export function setView(name: ViewName, view: View): void {
  useView.setState(({ views }) => ({ views: { ...views, [name]: view } }));
}

/** Zooms so that the screen point stays on what it shows. */
export function zoomAt(name: ViewName, factor: number, at: Point): void {
  const view = useView.getState().views[name];
  if (!view) return;
  const scale = Math.min(LARGEST_SCALE, Math.max(SMALLEST_SCALE, view.scale * factor));
  const k = scale / view.scale;
  setView(name, { scale, x: at.x - (at.x - view.x) * k, y: at.y - (at.y - view.y) * k });
}

const middle = (size: Size): Point => ({ x: size.width / 2, y: size.height / 2 });

export const zoomMiddle = (name: ViewName, factor: number): void => zoomAt(name, factor, middle(useView.getState().sizes[name]));

/** Shows a box whole, with some air. */
export function fitBox(name: ViewName, box: Box, marginPx = 56): void {
  const { width, height } = useView.getState().sizes[name];
  if (width === 0 || box.minX > box.maxX) return;
  const [w, h] = [Math.max(1, box.maxX - box.minX), Math.max(1, box.maxY - box.minY)];
  const scale = Math.min(LARGEST_SCALE, Math.max(SMALLEST_SCALE, Math.min((width - 2 * marginPx) / w, (height - 2 * marginPx) / h)));
  setView(name, { scale, x: width / 2 - (scale * (box.minX + box.maxX)) / 2, y: height / 2 + (scale * (box.minY + box.maxY)) / 2 });
}

/** One mm on the drawing is one mm on a usual screen. */
export function showTrueSize(name: ViewName): void {
  const view = useView.getState().views[name];
  if (view) zoomMiddle(name, TRUE_SCALE / view.scale);
}

export const flashAt = (box: Box): void => useView.setState({ flash: { box, at: Date.now() } });
