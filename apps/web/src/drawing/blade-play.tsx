/** Playing the cut: the blade runs along the contours in their order, film by film, what it has cut so far is drawn strong. */
import { flattenContour } from '@lorvek/core/geometry';
import { useEffect, useMemo, useRef } from 'react';
import { create } from 'zustand';
import type { BladeContour } from './blade-marks.ts';
import { toScreen, type View } from './view.ts';

interface Play {
  /** Share of the whole way, 0 to 1; undefined: nothing is played. */
  readonly at: number | undefined;
  readonly running: boolean;
}

export const usePlay = create<Play>(() => ({ at: undefined, running: false }));

/** The whole cut is played in this time, seconds. */
const PLAYED_S = 14;
const CHORD_MM = 0.2;

interface Track {
  /** x, y, way so far, 1 when the blade is down on the way to this point. */
  readonly steps: readonly (readonly [number, number, number, 0 | 1])[];
  readonly length: number;
}

function trackOf(marks: readonly BladeContour[]): Track {
  const steps: [number, number, number, 0 | 1][] = [];
  let length = 0;
  const go = (x: number, y: number, down: 0 | 1): void => {
    const last = steps.at(-1);
    length += last ? Math.hypot(x - last[0], y - last[1]) : 0;
    steps.push([x, y, length, down]);
  };
  for (const { contour, start } of [...marks].sort((a, b) => a.film - b.film || a.order - b.order)) {
    const first = contour.closed ? Math.min(start, contour.spans.length - 1) : 0;
    const turned = { closed: contour.closed, spans: [...contour.spans.slice(first), ...contour.spans.slice(0, first)] };
    const { xy, closed } = flattenContour(turned, CHORD_MM);
    for (let i = 0; i < xy.length; i += 2) go(xy[i] as number, xy[i + 1] as number, i === 0 ? 0 : 1);
    if (closed && xy.length > 0) go(xy[0] as number, xy[1] as number, 1);
  }
  return { steps, length };
}

/** Runs on while it is played; stops at the end. */
function useRunning(): void {
  const running = usePlay((state) => state.running);
  useEffect(() => {
    if (!running) return undefined;
    let frame = 0;
    let before: number | undefined;
    const tick = (now: number): void => {
      const passed = before === undefined ? 0 : (now - before) / 1000 / PLAYED_S;
      before = now;
      const at = Math.min(1, (usePlay.getState().at ?? 0) + passed);
      usePlay.setState({ at, running: at < 1 });
      if (at < 1) frame = requestAnimationFrame(tick);
    };
    frame = requestAnimationFrame(tick);
    return () => cancelAnimationFrame(frame);
  }, [running]);
}

export function BladePlay({ marks, view }: { marks: readonly BladeContour[]; view: View }) {
  const at = usePlay((state) => state.at);
  const track = useMemo(() => trackOf(marks), [marks]);
  const canvas = useRef<HTMLCanvasElement>(null);
  useRunning();
  useEffect(() => () => usePlay.setState({ at: undefined, running: false }), []);
  useEffect(() => {
    const element = canvas.current;
    const context = element?.getContext('2d');
    if (!element || !context) return;
    const { clientWidth, clientHeight } = element;
    element.width = clientWidth;
    element.height = clientHeight;
    if (at === undefined) return;
    const way = at * track.length;
    context.lineWidth = 3;
    context.strokeStyle = '#0d5c5f';
    context.beginPath();
    let tip: { x: number; y: number } | undefined;
    for (let i = 0; i < track.steps.length; i++) {
      const [x, y, far, down] = track.steps[i] as Track['steps'][number];
      const before = track.steps[i - 1];
      const share = before && far > way && far > before[2] ? (way - before[2]) / (far - before[2]) : 1;
      tip = toScreen(view, before ? { x: before[0] + share * (x - before[0]), y: before[1] + share * (y - before[1]) } : { x, y });
      if (down) context.lineTo(tip.x, tip.y);
      else context.moveTo(tip.x, tip.y);
      if (far > way) break;
    }
    context.stroke();
    if (!tip) return;
    context.fillStyle = '#8a5200';
    context.beginPath();
    context.arc(tip.x, tip.y, 5, 0, 2 * Math.PI);
    context.fill();
  }, [at, track, view]);
  return marks.length === 0 ? null : (
    <canvas ref={canvas} className="pointer-events-none absolute inset-0 h-full w-full" data-testid="blade-play" />
  );
}
