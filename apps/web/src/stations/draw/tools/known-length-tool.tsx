/** Known length: two points on a picture, their distance as measured on the job; the picture takes its true size. */
import { compose, invert, mapPoint, rotation, scaling, translation, type Matrix, type Point } from '@lorvek/core/geometry';
import { itemOf, setItemFields, transformItems, type PictureItem } from '@lorvek/model';
import { useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';
import { create } from 'zustand';
import { asOne, dispatch, newId, select, useDocument } from '../../../document/store.ts';
import { imageOf, picturesOf } from '../../../drawing/pictures.ts';
import { toScreen, type View } from '../../../drawing/view.ts';
import { straightened, type Tool, type ToolSetting } from './tool.ts';

interface Known {
  readonly item: string;
  readonly from: Point;
  readonly to: Point | undefined;
}

const LAST_KEY = 'lorvek.lastScale';

/** The two points that are being set, and the scale that was found last. */
export const useKnown = create<{ known: Known | undefined; lastMmPerPx: number | undefined }>(() => ({
  known: undefined,
  lastMmPerPx: Number(localStorage.getItem(LAST_KEY)) || undefined,
}));

function pictureUnder(drawing: ToolSetting['drawing'], at: Point): PictureItem | undefined {
  return picturesOf(drawing).findLast((item) => {
    const back = invert(item.matrix);
    const p = back && mapPoint(back, at);
    return p && p.x >= 0 && p.y >= 0 && p.x <= item.widthPx * item.mmPerPx && p.y <= item.heightPx * item.mmPerPx;
  });
}

export interface KnownPlan {
  readonly item: PictureItem;
  readonly nowMm: number;
}

export function planOfKnown(drawing: ToolSetting['drawing']): KnownPlan | undefined {
  const { known } = useKnown.getState();
  const item = known && itemOf(drawing, known.item);
  if (!known?.to || item?.kind !== 'picture') return undefined;
  return { item, nowMm: Math.hypot(known.to.x - known.from.x, known.to.y - known.from.y) };
}

/** Scales the picture about the first point so that the two points lie as far apart as was measured; levels the line if asked. */
export function applyKnownLength(realMm: number, level: boolean): void {
  const { drawing } = useDocument.getState();
  const { known } = useKnown.getState();
  const plan = planOfKnown(drawing);
  if (!plan || !known?.to || !(realMm > 0) || !(plan.nowMm > 0)) return;
  const k = realMm / plan.nowMm;
  const { from, to } = known;
  const angle = (Math.atan2(to.y - from.y, to.x - from.x) * 180) / Math.PI;
  const nearest = Math.round(angle / 90) * 90;
  const turn: Matrix = level ? rotation(nearest - angle) : [1, 0, 0, 1, 0, 0];
  const map = compose(translation(from.x, from.y), compose(turn, compose(scaling(k, k), translation(-from.x, -from.y))));
  const group = newId('known');
  const wasLocked = plan.item.locked;
  const manner = { origin: 'picture.scale', group };
  const taken = asOne(manner, () => {
    if (wasLocked) dispatch(setItemFields, { id: plan.item.id, fields: { locked: false } }, manner);
    dispatch(transformItems, { ids: [plan.item.id], map }, manner);
    if (wasLocked) dispatch(setItemFields, { id: plan.item.id, fields: { locked: true } }, manner);
  });
  if (!taken) return;
  const lastMmPerPx = plan.item.mmPerPx * k;
  localStorage.setItem(LAST_KEY, String(lastMmPerPx));
  useKnown.setState({ known: undefined, lastMmPerPx });
  toast.success(`The picture stands at ${(100 * k).toFixed(1)} % of what it was. The scale can be used on other pictures.`);
}

/** Gives a picture the scale that was found last, about its middle. */
export function takeLastScale(item: PictureItem): void {
  const { lastMmPerPx } = useKnown.getState();
  if (!lastMmPerPx) return;
  const k = lastMmPerPx / item.mmPerPx;
  const middle = mapPoint(item.matrix, { x: (item.widthPx * item.mmPerPx) / 2, y: (item.heightPx * item.mmPerPx) / 2 });
  const map = compose(translation(middle.x, middle.y), compose(scaling(k, k), translation(-middle.x, -middle.y)));
  dispatch(transformItems, { ids: [item.id], map }, { origin: 'picture.scale' });
}

export function useKnownLengthTool({ drawing, view }: ToolSetting, active: boolean): Tool {
  const known = useKnown((state) => state.known);
  const [pointer, setPointer] = useState<Point>();
  const [pulling, setPulling] = useState(false);
  useEffect(() => {
    if (!active) useKnown.setState({ known: undefined });
  }, [active]);
  const picture = pointer ? pictureUnder(drawing, pointer) : undefined;
  return {
    cursor: 'crosshair',
    note: '',
    onDown: ({ at, event }) => {
      const under = pictureUnder(drawing, at);
      if (known && !known.to) {
        useKnown.setState({ known: { ...known, to: event.shiftKey ? straightened(known.from, at, 90) : at } });
        return;
      }
      if (!under) {
        toast.warning(picturesOf(drawing).length === 0 ? 'Place a picture first.' : 'Begin on a picture.');
        return;
      }
      select([under.id]);
      setPulling(true);
      useKnown.setState({ known: { item: under.id, from: at, to: undefined } });
    },
    onMove: ({ at, event }) => {
      setPointer(at);
      if (pulling && known && view && Math.hypot(at.x - known.from.x, at.y - known.from.y) * view.scale > 6)
        useKnown.setState({ known: { ...known, to: event.shiftKey ? straightened(known.from, at, 90) : at } });
    },
    onUp: () => setPulling(false),
    overlay: view ? (
      <>
        <KnownOverlay known={known} pointer={pointer} view={view} />
        {pointer && picture ? <Loupe item={picture} at={pointer} view={view} /> : null}
      </>
    ) : null,
  };
}

function KnownOverlay({ known, pointer, view }: { known: Known | undefined; pointer: Point | undefined; view: View }) {
  const to = known && (known.to ?? pointer);
  if (!known || !to) return null;
  const [a, b] = [toScreen(view, known.from), toScreen(view, to)];
  return (
    <svg className="pointer-events-none absolute inset-0 h-full w-full" data-testid="known-length">
      <line x1={a.x} y1={a.y} x2={b.x} y2={b.y} stroke="#fdfbf6" strokeWidth={3.5} opacity={0.8} />
      <line x1={a.x} y1={a.y} x2={b.x} y2={b.y} stroke="#8a5200" strokeWidth={1.5} />
      {[a, b].map((p, i) => (
        <path key={i} d={`M${p.x - 8} ${p.y}h16M${p.x} ${p.y - 8}v16`} stroke="#8a5200" strokeWidth={1.5} />
      ))}
    </svg>
  );
}

const LOUPE_PX = 132;
/** The picture's own pixels are shown this large, or eight times the screen where that is more. */
const PIXEL_PX = 6;

/** The picture far enlarged round the pointer, with a cross where the point falls. */
function Loupe({ item, at, view }: { item: PictureItem; at: Point; view: View }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const screen = toScreen(view, at);
  useEffect(() => {
    const context = canvas.current?.getContext('2d');
    const image = imageOf(item.asset);
    const back = invert(item.matrix);
    if (!context || !image || !back) return;
    const p = mapPoint(back, at);
    const [px, py] = [p.x / item.mmPerPx, item.heightPx - p.y / item.mmPerPx];
    const scale = Math.max(PIXEL_PX, 4 * item.mmPerPx * view.scale);
    context.imageSmoothingEnabled = scale < 4;
    context.fillStyle = '#e9e3d5';
    context.fillRect(0, 0, LOUPE_PX, LOUPE_PX);
    context.save();
    context.translate(LOUPE_PX / 2, LOUPE_PX / 2);
    context.transform(item.matrix[0], -item.matrix[1], -item.matrix[2], item.matrix[3], 0, 0);
    context.drawImage(image, -px * scale, -py * scale, item.widthPx * scale, item.heightPx * scale);
    context.restore();
    context.strokeStyle = '#8a5200';
    context.beginPath();
    context.moveTo(LOUPE_PX / 2, 8);
    context.lineTo(LOUPE_PX / 2, LOUPE_PX - 8);
    context.moveTo(8, LOUPE_PX / 2);
    context.lineTo(LOUPE_PX - 8, LOUPE_PX / 2);
    context.stroke();
  }, [item, at, view.scale]);
  return (
    <canvas
      ref={canvas}
      width={LOUPE_PX}
      height={LOUPE_PX}
      aria-label="Loupe"
      className="pointer-events-none absolute z-10 border-2 border-ink shadow-md"
      style={{ left: screen.x + 24, top: screen.y - LOUPE_PX - 24 < 0 ? screen.y + 24 : screen.y - LOUPE_PX - 24 }}
    />
  );
}
