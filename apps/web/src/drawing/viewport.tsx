/**
 * A drawing surface: canvas, rulers, zoom at the pointer, pan with space, middle button or the wheel.
 * What is painted and what pointers do comes from the station.
 */
import type { LengthUnit } from '@lorvek/core/units';
import type { Point } from '@lorvek/core/geometry';
import { useEffect, useLayoutEffect, useRef, useState, type PointerEvent, type ReactNode, type RefObject } from 'react';
import { Fingers } from './fingers.ts';
import { paintRuler, RULER_PX } from './rulers.ts';
import { setView, toDrawing, useView, zoomAt, type Size, type View, type ViewName } from './view.ts';

export interface PointerInfo {
  /** mm on the drawing */
  readonly at: Point;
  /** px in the surface */
  readonly screen: Point;
  readonly event: PointerEvent;
}

interface ViewportProps {
  name: ViewName;
  unit: LengthUnit;
  label: string;
  cursor?: string;
  /** Repaint when any of these changes. */
  deps: readonly unknown[];
  paint(context: CanvasRenderingContext2D, view: View, size: Size): void;
  /** Called once the size is known and there is no view yet. */
  onFirstSize(): void;
  onDown?(info: PointerInfo): void;
  onMove?(info: PointerInfo): void;
  onUp?(info: PointerInfo): void;
  /** What the pointer began is taken back: a second finger came. */
  onCancel?(): void;
  onDoubleClick?(info: { at: Point; screen: Point }): void;
  onDrop?(files: readonly File[], at: Point): void;
  children?: ReactNode;
}

function useSize(name: ViewName, onFirstSize: () => void) {
  const host = useRef<HTMLDivElement>(null);
  const first = useRef(onFirstSize);
  first.current = onFirstSize;
  useLayoutEffect(() => {
    const element = host.current;
    if (!element) return undefined;
    const observer = new ResizeObserver(() => {
      const size = { width: element.clientWidth, height: element.clientHeight };
      useView.setState(({ sizes }) => ({ sizes: { ...sizes, [name]: size } }));
      if (!useView.getState().views[name] && size.width > 0) first.current();
    });
    observer.observe(element);
    return () => observer.disconnect();
  }, [name]);
  return host;
}

/** Is the space bar held while no field has the keyboard? */
function useSpace(): boolean {
  const [held, setHeld] = useState(false);
  useEffect(() => {
    const isTyping = (target: EventTarget | null): boolean =>
      target instanceof HTMLElement && /^(INPUT|TEXTAREA|BUTTON|SELECT)$/.test(target.tagName);
    const down = (event: KeyboardEvent): void => {
      if (event.code !== 'Space' || isTyping(event.target)) return;
      event.preventDefault();
      setHeld(true);
    };
    const up = (event: KeyboardEvent): void => {
      if (event.code === 'Space') setHeld(false);
    };
    window.addEventListener('keydown', down);
    window.addEventListener('keyup', up);
    return () => {
      window.removeEventListener('keydown', down);
      window.removeEventListener('keyup', up);
    };
  }, []);
  return held;
}

function prepare(canvas: HTMLCanvasElement, size: Size): CanvasRenderingContext2D | null {
  const ratio = window.devicePixelRatio || 1;
  const [width, height] = [Math.round(size.width * ratio), Math.round(size.height * ratio)];
  if (canvas.width !== width || canvas.height !== height) {
    canvas.width = width;
    canvas.height = height;
  }
  const context = canvas.getContext('2d');
  context?.setTransform(ratio, 0, 0, ratio, 0, 0);
  return context;
}

/**
 * Paints what is newest. One frame is asked for at a time and paints what is newest then; cancelling it on every change
 * would let a steady stream of changes keep the picture from ever being painted.
 */
function useFrames({
  name,
  unit,
  deps,
  paint,
}: Pick<ViewportProps, 'name' | 'unit' | 'deps' | 'paint'>): RefObject<HTMLCanvasElement | null> {
  const canvas = useRef<HTMLCanvasElement>(null);
  const view = useView((state) => state.views[name]);
  const size = useView((state) => state.sizes[name]);
  const newest = useRef<() => void>(() => undefined);
  const pending = useRef(0);
  useEffect(() => {
    if (!canvas.current || !view || size.width === 0) return;
    newest.current = (): void => {
      const context = canvas.current && prepare(canvas.current, size);
      if (!context) return;
      paint(context, view, size);
      paintRuler(context, view, size, unit);
    };
    pending.current ||= requestAnimationFrame(() => {
      pending.current = 0;
      newest.current();
    });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the station names what its picture depends on
  }, [view, size, unit, ...deps]);
  useEffect(() => () => cancelAnimationFrame(pending.current), []);
  return canvas;
}

/** The wheel nears and moves away, with Shift goes sideways. */
function useWheel(host: RefObject<HTMLDivElement | null>, name: ViewName): void {
  useEffect(() => {
    const element = host.current;
    if (!element) return undefined;
    const wheel = (event: WheelEvent): void => {
      event.preventDefault();
      const current = useView.getState().views[name];
      if (!current) return;
      const box = element.getBoundingClientRect();
      if (event.shiftKey) setView(name, { ...current, x: current.x - (event.deltaX || event.deltaY) });
      else
        zoomAt(name, Math.exp(-event.deltaY * (event.ctrlKey ? 0.01 : 0.0016)), {
          x: event.clientX - box.left,
          y: event.clientY - box.top,
        });
    };
    element.addEventListener('wheel', wheel, { passive: false });
    return () => element.removeEventListener('wheel', wheel);
  }, [host, name]);
}

type Place = (event: { clientX: number; clientY: number }) => { at: Point; screen: Point };
type Told = Pick<ViewportProps, 'onDown' | 'onMove' | 'onUp' | 'onCancel'> & { readonly place: Place };

/** Fingers on the drawing: they go to the handlers of the newest rendering, also those that came down in an earlier one. */
function useFingers(host: RefObject<HTMLDivElement | null>, name: ViewName, now: Told): RefObject<Fingers<PointerEvent> | undefined> {
  const told = useRef(now);
  told.current = now;
  const fingers = useRef<Fingers<PointerEvent>>(undefined);
  fingers.current ??= new Fingers<PointerEvent>({
    down: (event) => told.current.onDown?.({ ...told.current.place(event), event }),
    move: (event) => told.current.onMove?.({ ...told.current.place(event), event }),
    // a tap comes down and up at once: what came down is taken in before
    up: (event) => setTimeout(() => told.current.onUp?.({ ...told.current.place(event), event })),
    cancel: () => told.current.onCancel?.(),
    view: () => useView.getState().views[name],
    setView: (next) => setView(name, next),
    corner: () => {
      const box = host.current?.getBoundingClientRect();
      return { x: box?.left ?? 0, y: box?.top ?? 0 };
    },
  });
  return fingers;
}

interface PointerHandlers {
  down(event: PointerEvent): void;
  move(event: PointerEvent): void;
  up(event: PointerEvent): void;
}

/** Mouse and pen, and fingers: what they do to the drawing, or that they move the view (middle button, or Space). */
function usePointer(host: RefObject<HTMLDivElement | null>, name: ViewName, told: Told, space: boolean): PointerHandlers {
  const view = useView((state) => state.views[name]);
  const pan = useRef<{ x: number; y: number; view: View } | undefined>(undefined);
  const fingers = useFingers(host, name, told);
  const { place, onDown, onMove, onUp } = told;
  const down = (event: PointerEvent): void => {
    if (!view) return;
    host.current?.setPointerCapture(event.pointerId);
    if (event.pointerType === 'touch') return fingers.current?.down(event);
    if (event.button === 1 || (space && event.button === 0)) {
      event.preventDefault();
      pan.current = { x: event.clientX, y: event.clientY, view };
    } else if (event.button === 0) onDown?.({ ...place(event), event });
  };
  const move = (event: PointerEvent): void => {
    if (event.pointerType === 'touch') return fingers.current?.move(event);
    const from = pan.current;
    if (from) setView(name, { ...from.view, x: from.view.x + event.clientX - from.x, y: from.view.y + event.clientY - from.y });
    else onMove?.({ ...place(event), event });
  };
  const up = (event: PointerEvent): void => {
    if (event.pointerType === 'touch') return fingers.current?.up(event);
    if (pan.current) pan.current = undefined;
    else onUp?.({ ...place(event), event });
  };
  return { down, move, up };
}

export function Viewport({
  name,
  unit,
  label,
  cursor,
  deps,
  paint,
  onFirstSize,
  onDoubleClick,
  onDrop,
  children,
  ...pointer
}: ViewportProps) {
  const host = useSize(name, onFirstSize);
  const view = useView((state) => state.views[name]);
  const space = useSpace();
  const canvas = useFrames({ name, unit, deps, paint });
  useWheel(host, name);
  const place: Place = (event) => {
    const box = host.current?.getBoundingClientRect();
    const screen = { x: event.clientX - (box?.left ?? 0), y: event.clientY - (box?.top ?? 0) };
    return { screen, at: view ? toDrawing(view, screen) : { x: 0, y: 0 } };
  };
  const { down, move, up } = usePointer(host, name, { ...pointer, place }, space);

  return (
    <div
      ref={host}
      role="application"
      tabIndex={0}
      aria-label={label}
      data-drawing={name}
      className="relative h-full w-full touch-none overflow-hidden bg-desk -outline-offset-2 outline-teal select-none focus-visible:outline-2"
      style={{ cursor: space ? 'grab' : (cursor ?? 'default') }}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onPointerCancel={up}
      onDoubleClick={(event) => onDoubleClick?.(place(event))}
      onDragOver={(event) => onDrop && event.preventDefault()}
      onDrop={(event) => {
        event.preventDefault();
        onDrop?.([...event.dataTransfer.files], place(event).at);
      }}
      onContextMenu={(event) => event.preventDefault()}
    >
      <canvas ref={canvas} className="absolute inset-0 h-full w-full" />
      {view ? children : null}
      <div
        className="pointer-events-none absolute top-0 left-0 flex items-center justify-center border-r border-b bg-paper text-2xs text-ink-soft"
        style={{ width: RULER_PX, height: RULER_PX }}
      >
        {unit === 'in-fraction' ? 'in' : unit}
      </div>
    </div>
  );
}
