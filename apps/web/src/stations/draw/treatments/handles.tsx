/** Handles of treatments on the drawing: the depth and direction of a shade, the point it runs to, a circle, an arch. */
import { compose, invert, mapPoint, translation, type Matrix, type Point } from '@lorvek/core/geometry';
import { pageOf, setTreatments, transformItems, type LeafItem, type TreatmentRecord } from '@lorvek/model';
import { describeLength } from '@lorvek/core/units';
import { useRef, useState, type PointerEvent } from 'react';
import { dispatch, newId, useDocument } from '../../../document/store.ts';
import { snapPoint, snapTargets, type Snapped, type SnapTargets } from '../../../drawing/snap.ts';
import { toDrawing, toScreen, type View } from '../../../drawing/view.ts';
import { localBoxOf, outlineOf } from '../../../worker/derived.ts';
import { PointerNote, SnapOverlay } from '../overlay.tsx';

interface Grip {
  readonly t: TreatmentRecord;
  readonly label: string;
  /** In the item's space, mm. */
  readonly foot: Point;
  readonly tip: Point;
  /** A circle to show, about the foot. */
  readonly radius?: number;
  change(tip: Point): Partial<TreatmentRecord>;
}

const tidy = (n: number): number => Math.round(n * 10) / 10;
const angleOf = (from: Point, to: Point): number => Math.round((Math.atan2(to.y - from.y, to.x - from.x) * 1800) / Math.PI) / 10;
const turn = (deg: number): Point => ({ x: Math.cos((deg * Math.PI) / 180), y: Math.sin((deg * Math.PI) / 180) });

function gripOf(t: TreatmentRecord, middle: Point, high: number): Grip | undefined {
  if (!t.on) return undefined;
  if (t.kind === 'shade' && (t.shade === 'drop' || t.shade === 'block')) {
    const way = turn(t.angleDeg);
    return {
      t,
      label: 'Depth and direction of the shade',
      foot: middle,
      tip: { x: middle.x + way.x * t.depthMm, y: middle.y + way.y * t.depthMm },
      change: (tip) => ({ angleDeg: angleOf(middle, tip), depthMm: tidy(Math.hypot(tip.x - middle.x, tip.y - middle.y)) }),
    };
  }
  if (t.kind === 'shade' && t.shade === 'converging')
    return {
      t,
      label: 'The point that the shade runs to',
      foot: middle,
      tip: { x: middle.x + t.pointXMm, y: middle.y + t.pointYMm },
      change: (tip) => ({ pointXMm: tidy(tip.x - middle.x), pointYMm: tidy(tip.y - middle.y) }),
    };
  if (t.kind === 'bend' && t.line === 'circle') {
    const way = turn(t.middleDeg);
    return {
      t,
      label: 'Radius and middle of the words',
      foot: { x: 0, y: 0 },
      tip: { x: way.x * t.radiusMm, y: way.y * t.radiusMm },
      radius: t.radiusMm,
      change: (tip) => ({ radiusMm: Math.max(0.5, tidy(Math.hypot(tip.x, tip.y))), middleDeg: angleOf({ x: 0, y: 0 }, tip) }),
    };
  }
  if (t.kind === 'bend' && t.line === 'arch') {
    const foot = { x: middle.x, y: 0 };
    return { t, label: 'Rise of the arch', foot, tip: { x: foot.x, y: t.riseMm }, change: (tip) => ({ riseMm: tidy(tip.y) }) };
  }
  if (t.kind === 'two-tone' && t.edge !== 'drawn') {
    const up = turn(t.angleDeg + 90);
    return {
      t,
      label: 'Shift of the edge',
      foot: middle,
      tip: { x: middle.x + up.x * (t.shiftMm + high * 0.0001), y: middle.y + up.y * (t.shiftMm + high * 0.0001) },
      change: (tip) => ({ shiftMm: tidy((tip.x - middle.x) * up.x + (tip.y - middle.y) * up.y) }),
    };
  }
  return undefined;
}

function describe(t: TreatmentRecord, say: (mm: number) => string): string {
  if (t.kind === 'shade') return t.shade === 'converging' ? `${say(t.pointXMm)}, ${say(t.pointYMm)}` : `${say(t.depthMm)} · ${t.angleDeg}°`;
  if (t.kind === 'bend') return t.line === 'circle' ? `R ${say(t.radiusMm)} · ${t.middleDeg}°` : say(t.riseMm);
  return t.kind === 'two-tone' ? say(t.shiftMm) : '';
}

/** Where the pointer is on the drawing's own screen. */
function screenPlace(event: PointerEvent<SVGElement>): Point {
  const host = event.currentTarget.ownerSVGElement?.getBoundingClientRect();
  return { x: event.clientX - (host?.left ?? 0), y: event.clientY - (host?.top ?? 0) };
}

interface GripSignProps {
  readonly grip: Grip;
  /** On the screen, px. */
  readonly foot: Point;
  readonly tip: Point;
  readonly radiusPx: number | undefined;
  readonly text: string;
  onGrab(): void;
  /** While it is held. */
  onDrag(screen: Point): void;
  onLetGo(): void;
}

function GripSign({ grip, foot, tip, radiusPx, text, onGrab, onDrag, onLetGo }: GripSignProps) {
  return (
    <g>
      {radiusPx === undefined ? null : (
        <circle cx={foot.x} cy={foot.y} r={radiusPx} fill="none" stroke="#0d5c5f" strokeDasharray="8 3 2 3" />
      )}
      <line x1={foot.x} y1={foot.y} x2={tip.x} y2={tip.y} stroke="#fdfbf6" strokeWidth={3} opacity={0.7} />
      <line x1={foot.x} y1={foot.y} x2={tip.x} y2={tip.y} stroke="#0d5c5f" strokeWidth={1.25} />
      <circle cx={foot.x} cy={foot.y} r={2.5} fill="#0d5c5f" />
      <path
        role="slider"
        aria-label={grip.label}
        aria-valuetext={text}
        d={`M${tip.x - 6} ${tip.y}l6 -6l6 6l-6 6z`}
        fill="#fdfbf6"
        stroke="#0d5c5f"
        strokeWidth={1.5}
        className="pointer-events-auto cursor-move"
        onPointerDown={(event) => {
          event.stopPropagation();
          event.currentTarget.setPointerCapture(event.pointerId);
          onGrab();
        }}
        onPointerMove={(event) => {
          if (!event.currentTarget.hasPointerCapture(event.pointerId)) return;
          event.stopPropagation();
          onDrag(screenPlace(event));
        }}
        onPointerUp={(event) => {
          event.stopPropagation();
          onLetGo();
        }}
      />
    </g>
  );
}

export function TreatmentHandles({ item, view }: { item: LeafItem; view: View }) {
  const { unit } = pageOf(useDocument((state) => state.drawing));
  const [dragged, setDragged] = useState<string>();
  const [pointer, setPointer] = useState<Point>();
  const group = useRef('');
  const outline = outlineOf(item);
  const toItem = invert(item.matrix);
  if (!outline || !toItem || outline.contours.length === 0) return null;
  const box = localBoxOf(outline);
  const middle = { x: (box.minX + box.maxX) / 2, y: (box.minY + box.maxY) / 2 };
  const screenOf: Matrix = compose([view.scale, 0, 0, -view.scale, view.x, view.y], item.matrix);
  const on = (p: Point): Point => mapPoint(screenOf, p);
  const list = item.treatments ?? [];
  const grips = list.flatMap((t) => gripOf(t, middle, box.maxY - box.minY) ?? []);
  const drag = (grip: Grip, screen: Point): void => {
    const fields = grip.change(mapPoint(toItem, toDrawing(view, screen)));
    const treatments = list.map((t) => (t.id === grip.t.id ? ({ ...t, ...fields } as TreatmentRecord) : t));
    dispatch(setTreatments, { id: item.id, treatments }, { origin: 'treatment.drag', group: group.current });
  };
  const shown = list.find((t) => t.id === dragged);
  const circle = list.find((t) => t.kind === 'bend' && t.on && t.line === 'circle');
  return (
    <>
      <svg className="pointer-events-none absolute inset-0 h-full w-full" data-testid="treatment-handles">
        {grips.map((grip) => {
          const [foot, tip] = [on(grip.foot), on(grip.tip)];
          return (
            <GripSign
              key={grip.t.id}
              grip={grip}
              foot={foot}
              tip={tip}
              radiusPx={grip.radius && grip.radius * view.scale * Math.hypot(item.matrix[0], item.matrix[1])}
              text={describe(grip.t, (mm) => describeLength(mm, unit))}
              onGrab={() => {
                group.current = newId('drag');
                setDragged(grip.t.id);
              }}
              onDrag={(screen) => {
                setPointer(screen);
                drag(grip, screen);
              }}
              onLetGo={() => setDragged(undefined)}
            />
          );
        })}
      </svg>
      {circle ? <CentreGrip item={item} view={view} /> : null}
      {shown && pointer ? <PointerNote at={pointer} text={describe(shown, (mm) => describeLength(mm, unit))} /> : null}
    </>
  );
}

/** The middle of a lettering circle: dragged, it takes the words along, and it snaps like a place of its own. */
function CentreGrip({ item, view }: { item: LeafItem; view: View }) {
  const drawing = useDocument((state) => state.drawing);
  const { unit } = pageOf(drawing);
  const [drag, setDrag] = useState<{ targets: SnapTargets; group: string }>();
  const [snapped, setSnapped] = useState<Snapped>();
  const at = { x: item.matrix[4], y: item.matrix[5] };
  const screen = toScreen(view, at);
  const move = (event: PointerEvent<SVGElement>): void => {
    if (!drag) return;
    event.stopPropagation();
    const wanted = toDrawing(view, screenPlace(event));
    const found = event.ctrlKey ? undefined : snapPoint(drag.targets, wanted, view);
    setSnapped(found);
    const to = found?.at ?? wanted;
    dispatch(transformItems, { ids: [item.id], map: translation(to.x - at.x, to.y - at.y) }, { origin: 'item.move', group: drag.group });
  };
  return (
    <>
      <svg className="pointer-events-none absolute inset-0 h-full w-full" data-testid="circle-centre">
        <g
          role="slider"
          aria-label="Centre of the circle"
          aria-valuetext={`${describeLength(at.x, unit)}, ${describeLength(at.y, unit)}`}
          className="pointer-events-auto cursor-move"
          onPointerDown={(event) => {
            event.stopPropagation();
            event.currentTarget.setPointerCapture(event.pointerId);
            setDrag({ targets: snapTargets(drawing, new Set([item.id])), group: newId('drag') });
          }}
          onPointerMove={move}
          onPointerUp={(event) => {
            event.stopPropagation();
            setDrag(undefined);
            setSnapped(undefined);
          }}
        >
          <circle cx={screen.x} cy={screen.y} r={9} fill="#fdfbf6" fillOpacity={0.6} stroke="#0d5c5f" strokeWidth={1.5} />
          <path d={`M${screen.x - 13} ${screen.y}h26M${screen.x} ${screen.y - 13}v26`} stroke="#0d5c5f" strokeWidth={1.25} />
        </g>
      </svg>
      {snapped ? <SnapOverlay snapped={snapped} view={view} unit={unit} /> : null}
      {drag ? <PointerNote at={screen} text={`${describeLength(at.x, unit)}, ${describeLength(at.y, unit)}`} /> : null}
    </>
  );
}
