/**
 * Leads through a cut of a printed sheet: which way round it goes in, its code, the tool over the first mark, the marks
 * one after another with what is left at each, then the cut.
 */
import type { CameraAnswer, CameraOrder, CutRun, TraySheet } from '@lorvek/model';
import { ArrowDown, ArrowLeft, ArrowRight, ArrowUp, Loader2, ScanLine, Scissors, Square } from 'lucide-react';
import { useEffect, useState, type KeyboardEvent } from 'react';
import { toast } from 'sonner';
import { api, sentenceOf } from '../../api/client.ts';
import { useShop } from '../../api/shop.ts';
import { Button, IconButton } from '../../ui/button.tsx';
import { Notice } from '../../ui/card.tsx';
import { Pick } from '../../ui/choices.tsx';
import { ProgressBar } from '../../ui/progress-bar.tsx';

/** Arrow keys move the tool so far, mm; with Shift slowly. */
const STEP_MM = 2;
const SLOW_MM = 0.1;

/** Which way round the sheet goes in: its marks, the first one ringed, the edge that goes in first. */
function WayRound({ run }: { run: CutRun }) {
  const [w, h] = [run.lengthMm, run.widthMm];
  const r = Math.max(w, h) / 40;
  const [first] = run.marks;
  return (
    <svg
      viewBox={`${-4 * r} ${-2 * r} ${w + 6 * r} ${h + 4 * r}`}
      className="h-28 max-w-52"
      role="img"
      aria-label="Which way round the sheet goes in"
    >
      <rect width={w} height={h} fill="#fdfbf6" stroke="#9b9382" strokeWidth={r / 6} />
      <image href={`/api/runs/${run.id}/sheet.svg`} width={w} height={h} preserveAspectRatio="none" opacity={0.5} />
      {run.marks.map(({ x, y }, i) => (
        <circle
          key={i}
          cx={x}
          cy={h - y}
          r={i === 0 ? r : r / 3}
          fill={i === 0 ? 'none' : '#16202e'}
          stroke="#0d5c5f"
          strokeWidth={r / 3}
        />
      ))}
      {first ? (
        <path
          d={`M${-3.4 * r} ${h - first.y}h${2.4 * r}m0 0l${-r} ${-0.7 * r}m${r} ${0.7 * r}l${-r} ${0.7 * r}`}
          fill="none"
          stroke="#0d5c5f"
          strokeWidth={r / 3}
        />
      ) : null}
    </svg>
  );
}

function TrayPick({ run }: { run: CutRun }) {
  const [tray, setTray] = useState<readonly TraySheet[]>();
  const [turned, setTurned] = useState(false);
  const done = (work: Promise<TraySheet[]>): void => void work.then(setTray).catch((error: unknown) => toast.error(sentenceOf(error)));
  useEffect(() => done(api.tray(run.machineId)), [run.machineId]);
  if (!tray || tray.length === 0)
    return <p className="text-[13px] text-ink-soft">Put the printed sheet in by hand: the printer’s tray is not known to this cutter.</p>;
  return (
    <div className="flex items-end gap-2">
      <div className="min-w-0 flex-1">
        <Pick
          label="Sheet in the cutter"
          value={tray.find(({ loaded }) => loaded)?.id}
          placeholder="Choose a printed sheet"
          options={tray.map(({ id, name }) => ({ value: id, text: name }))}
          onChange={(sheet) => done(api.loadSheet(run.machineId, sheet, turned))}
        />
      </div>
      <label className="flex h-7 items-center gap-1 text-[13px]">
        <input type="checkbox" checked={turned} onChange={(event) => setTurned(event.target.checked)} className="accent-teal" /> the other
        way round
      </label>
    </div>
  );
}

function Residuals({ run }: { run: CutRun }) {
  const { correction } = run;
  if (!correction) return null;
  return (
    <ul className="flex flex-wrap gap-x-4 text-[13px]" aria-label="Marks">
      {correction.measured.map((seen, i) => (
        <li key={i} className={seen ? '' : 'text-brick'}>
          Mark {i + 1}: <span className="numerals">{seen ? `${(correction.residualsMm[i] ?? 0).toFixed(2)} mm off` : 'not found'}</span>
        </li>
      ))}
    </ul>
  );
}

export function SheetLoading({ run }: { run: CutRun }) {
  const [said, setSaid] = useState<CameraAnswer>();
  const [busy, setBusy] = useState<CameraOrder['do']>();
  const [view, setView] = useState(0);
  const act = (order: CameraOrder): void => {
    setBusy(order.do);
    api
      .camera(run.id, order)
      .then((answer) => {
        setSaid(answer);
        setView((n) => n + 1);
      })
      .catch((error: unknown) => toast.error(sentenceOf(error)))
      .finally(() => setBusy(undefined));
  };
  const jog = (dx: number, dy: number): void => act({ do: 'jog', dx, dy });
  const onKey = (event: KeyboardEvent): void => {
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
    if (!way || busy) return;
    event.preventDefault();
    event.stopPropagation();
    const step = event.shiftKey ? SLOW_MM : STEP_MM;
    jog((way[0] ?? 0) * step, (way[1] ?? 0) * step);
  };
  const cut = (): void => void api.act(run.id, 'release').catch((error: unknown) => toast.error(sentenceOf(error)));
  const machine = useShop((state) => state.machines?.find(({ id }) => id === run.machineId));
  const [first] = run.marks;
  const isBusy = busy !== undefined;
  return (
    <section className="mt-1 flex flex-col gap-2 border-t pt-2" aria-label={`Load the sheet ${run.code ?? ''}`}>
      <div className="flex gap-3">
        <WayRound run={run} />
        <div className="flex min-w-0 flex-1 flex-col gap-2">
          <p className="text-[13px]">
            Sheet <strong className="numerals">{run.code ?? run.title}</strong>: put it in with the ringed mark first, at the tool’s start.
          </p>
          <TrayPick run={run} />
          <div className="flex flex-wrap items-center gap-1.5">
            <Button size="small" disabled={isBusy} onClick={() => act({ do: 'read-code' })}>
              <ScanLine size={13} /> Read the code
            </Button>
            {first ? (
              <Button size="small" disabled={isBusy} onClick={() => jog(first.x - (said?.place?.x ?? 0), first.y - (said?.place?.y ?? 0))}>
                To the first mark
              </Button>
            ) : null}
            <Button size="small" look={run.step === 'ready' ? 'plain' : 'main'} disabled={isBusy} onClick={() => act({ do: 'find-marks' })}>
              {busy === 'find-marks' ? <Loader2 size={13} className="animate-spin" /> : null} Find the marks
            </Button>
            <Button size="small" disabled={isBusy} onClick={() => act({ do: 'frame' })}>
              <Square size={13} /> Frame run
            </Button>
            <Button size="small" look="main" disabled={isBusy || run.step !== 'ready'} onClick={cut}>
              <Scissors size={13} /> Cut
            </Button>
          </div>
        </div>
        <div
          role="group"
          tabIndex={0}
          onKeyDown={onKey}
          aria-label="Move the tool: arrow keys, slowly with Shift"
          className="flex flex-col items-center gap-1 outline-offset-2 focus-visible:outline-2 focus-visible:outline-teal"
        >
          <img
            key={view}
            src={`${api.cameraUrl(run.id)}?${view}`}
            alt="What the camera sees"
            className="size-24 border border-line-strong bg-desk"
            onError={(event) => (event.currentTarget.style.visibility = 'hidden')}
          />
          <div className="flex">
            <IconButton label="Tool left" className="size-6!" disabled={isBusy} onClick={() => jog(-STEP_MM, 0)}>
              <ArrowLeft size={13} />
            </IconButton>
            <IconButton label="Tool up" className="size-6!" disabled={isBusy} onClick={() => jog(0, STEP_MM)}>
              <ArrowUp size={13} />
            </IconButton>
            <IconButton label="Tool down" className="size-6!" disabled={isBusy} onClick={() => jog(0, -STEP_MM)}>
              <ArrowDown size={13} />
            </IconButton>
            <IconButton label="Tool right" className="size-6!" disabled={isBusy} onClick={() => jog(STEP_MM, 0)}>
              <ArrowRight size={13} />
            </IconButton>
          </div>
        </div>
      </div>
      {busy === 'find-marks' ? <ProgressBar label="Marks found" share={run.progress} /> : null}
      {machine && !machine.calibration ? (
        <Notice level="note">
          Where the camera of {machine.name} looks was never measured: the cut may lie off by as much. See Machines.
        </Notice>
      ) : null}
      {said ? <Notice level={said.ok ? 'note' : 'warning'}>{said.text}</Notice> : null}
      <Residuals run={run} />
    </section>
  );
}

/** The tool goes round the work with the blade up. */
export function FrameButton({ run }: { run: CutRun }) {
  const [busy, setBusy] = useState(false);
  const go = (): void => {
    setBusy(true);
    api
      .camera(run.id, { do: 'frame' })
      .then(({ ok, text }) => toast[ok ? 'success' : 'warning'](text))
      .catch((error: unknown) => toast.error(sentenceOf(error)))
      .finally(() => setBusy(false));
  };
  return (
    <Button size="small" disabled={busy} onClick={go}>
      <Square size={13} /> Frame run
    </Button>
  );
}
