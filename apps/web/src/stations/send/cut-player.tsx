/** The cut played along the ways of the tool, in the order and at the speeds that go out. */
import { at } from '@lorvek/core/geometry';
import type { CutKind, PlannedSection } from '@lorvek/core/cut';
import { setupFor, type Cutting } from '@lorvek/model/cut-file';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { Loader2, Pause, Play } from 'lucide-react';
import { useEffect, useMemo, useState } from 'react';
import { sentenceOf } from '../../api/client.ts';
import { LINE_LOOKS } from '../../drawing/paint.ts';
import { IconButton } from '../../ui/button.tsx';
import { Notice } from '../../ui/card.tsx';
import { ask } from '../../worker/compute.ts';
import { KIND_NAMES } from './cutting-card.tsx';

/** One way with the tool down. */
interface Way {
  readonly kind: CutKind;
  readonly xy: Float64Array;
  /** Seconds from the start of the cut to where it begins and ends. */
  readonly from: number;
  readonly to: number;
}

export interface Played {
  readonly ways: readonly Way[];
  readonly seconds: number;
}

/** Moves with the tool up are as fast, mm/s; only for the playing. */
const TRAVEL_MM_PER_S = 500;
/** However long the cut, it is played in about this time. */
const PLAYED_S = 12;

const lengthOf = (xy: Float64Array): number => {
  let mm = 0;
  for (let i = 2; i < xy.length; i += 2) mm += Math.hypot(at(xy, i) - at(xy, i - 2), at(xy, i + 1) - at(xy, i - 1));
  return mm;
};

export function timed(sections: readonly PlannedSection[], cutting: Cutting): Played {
  let seconds = 0;
  let [x, y] = [0, 0];
  const ways = sections.flatMap(({ kind, paths }) => {
    const { speedMmPerS, passes } = setupFor(cutting, kind);
    return paths.map(({ xy }): Way => {
      const from = seconds + Math.hypot(at(xy, 0) - x, at(xy, 1) - y) / TRAVEL_MM_PER_S;
      seconds = from + (passes * lengthOf(xy)) / speedMmPerS;
      [x, y] = [at(xy, xy.length - 2), at(xy, xy.length - 1)];
      return { kind, xy, from, to: seconds };
    });
  });
  return { ways, seconds };
}

/** The ways of a sheet, worked out when they are looked at; words: why they cannot be. */
export function useToolWays(sheet: SheetPlan, cutting: Cutting | undefined, isOn: boolean): Played | string | undefined {
  const [played, setPlayed] = useState<{ of: unknown; played: Played | string }>();
  const key = useMemo(() => ({ lines: sheet.lines, cutting }), [sheet.lines, cutting]);
  useEffect(() => {
    let current = true;
    if (!isOn || !cutting) return undefined;
    void ask('cut', { lines: key.lines, cutting, withWays: true })
      .then(({ sections }) => current && setPlayed({ of: key, played: timed(sections, cutting) }))
      .catch((error: unknown) => current && setPlayed({ of: key, played: sentenceOf(error) }));
    return () => {
      current = false;
    };
  }, [isOn, key, cutting]);
  return played?.of === key ? played.played : undefined;
}

const hexOf = (kind: CutKind): string => (kind === 'film' ? '#0b5c5a' : kind === 'weed' ? '#7c7f86' : LINE_LOOKS[kind].hex);

/** @param px a px of the screen in mm */
export function paintPlayed(context: CanvasRenderingContext2D, { ways }: Played, now: number, px: number): void {
  context.lineJoin = 'round';
  let [x, y] = [0, 0];
  let isDown = false;
  for (const { kind, xy, from, to } of ways) {
    if (from > now) break;
    const share = to > from ? Math.min(1, (now - from) / (to - from)) : 1;
    const last = Math.max(2, 2 * Math.ceil((share * xy.length) / 2));
    context.beginPath();
    context.moveTo(at(xy, 0), at(xy, 1));
    for (let i = 2; i < Math.min(last, xy.length); i += 2) context.lineTo(at(xy, i), at(xy, i + 1));
    context.strokeStyle = hexOf(kind);
    context.lineWidth = 2.2 * px;
    context.stroke();
    context.beginPath();
    context.setLineDash([3 * px, 3 * px]);
    context.moveTo(x, y);
    context.lineTo(at(xy, 0), at(xy, 1));
    context.strokeStyle = '#7c7f86';
    context.lineWidth = px;
    context.stroke();
    context.setLineDash([]);
    const end = Math.min(last, xy.length) - 2;
    [x, y] = [at(xy, end), at(xy, end + 1)];
    isDown = share < 1;
  }
  context.beginPath();
  context.arc(x, y, 6 * px, 0, 2 * Math.PI);
  context.fillStyle = isDown ? '#9c2f1d' : '#fdfbf6';
  context.strokeStyle = '#16202e';
  context.lineWidth = 1.5 * px;
  context.fill();
  context.stroke();
}

interface PlayerProps {
  readonly played: Played | string | undefined;
  readonly now: number;
  onNow(seconds: number): void;
}

export function CutPlayer({ played, now, onNow }: PlayerProps) {
  const [plays, setPlays] = useState(false);
  const seconds = typeof played === 'object' ? played.seconds : 0;
  useEffect(() => {
    if (!plays || seconds <= 0) return undefined;
    let frame = 0;
    let before = performance.now();
    let reached = now >= seconds ? 0 : now;
    const step = (time: number): void => {
      reached = Math.min(seconds, reached + ((time - before) / 1000) * (seconds / PLAYED_S));
      before = time;
      onNow(reached);
      if (reached >= seconds) setPlays(false);
      else frame = requestAnimationFrame(step);
    };
    frame = requestAnimationFrame(step);
    return () => cancelAnimationFrame(frame);
    // where it stands is read when it starts, and then it runs by itself
  }, [plays, seconds]); // eslint-disable-line react-hooks/exhaustive-deps
  if (!played)
    return (
      <span role="status" className="flex items-center gap-1 text-[13px] text-ink-soft">
        <Loader2 size={14} className="animate-spin" /> Working out the ways of the tool…
      </span>
    );
  if (typeof played === 'string') return <Notice level="warning">{played}</Notice>;
  const way = played.ways.findLast(({ from }) => from <= now);
  const done = played.ways.filter(({ to }) => to <= now).length;
  return (
    <div className="flex min-w-0 flex-1 items-center gap-2">
      <IconButton label={plays ? 'Stop playing' : 'Play the cut'} onClick={() => setPlays(!plays)}>
        {plays ? <Pause size={15} /> : <Play size={15} />}
      </IconButton>
      <input
        type="range"
        aria-label="How far the cut is"
        min={0}
        max={1000}
        value={seconds > 0 ? Math.round((1000 * now) / seconds) : 0}
        onChange={(event) => {
          setPlays(false);
          onNow((Number(event.target.value) / 1000) * seconds);
        }}
        className="min-w-24 flex-1 accent-teal"
      />
      <span className="numerals text-[13px] text-ink-soft" data-testid="played">
        {done} of {played.ways.length} ways{way ? ` · ${KIND_NAMES[way.kind]}` : ''}
      </span>
    </div>
  );
}
