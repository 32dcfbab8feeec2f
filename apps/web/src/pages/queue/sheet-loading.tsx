/**
 * Leads through a cut of a printed sheet: which way round it goes in, its code, the tool over the first mark, the marks
 * one after another with what is left at each, then the cut.
 */
import type { CameraAnswer, CameraOrder, CutRun, TraySheet } from '@lorvek/model';
import { Loader2, ScanLine, Scissors, Square } from 'lucide-react';
import { useEffect, useState } from 'react';
import { toast } from 'sonner';
import { api } from '../../api/client.ts';
import { useShop } from '../../api/shop.ts';
import { tellFailure } from '../../ui/tell.ts';
import { Button } from '../../ui/button.tsx';
import { Notice } from '../../ui/card.tsx';
import { Pick } from '../../ui/pick.tsx';
import { ProgressBar } from '../../ui/progress-bar.tsx';
import { ToolArrows } from '../tool-arrows.tsx';

/** How far a button or an arrow key moves the tool, mm. */
const STEP_MM = 2;

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
  const done = (work: Promise<TraySheet[]>): void => void work.then(setTray).catch(tellFailure);
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

/** What the camera sees, and the tool moved under it. */
function Eye({ run, view, disabled, onMove }: { run: CutRun; view: number; disabled: boolean; onMove(dx: number, dy: number): void }) {
  return (
    <div className="flex flex-col items-center gap-1">
      <img
        key={view}
        src={`${api.cameraUrl(run.id)}?${view}`}
        alt="What the camera sees"
        className="size-24 border border-line-strong bg-desk"
        onError={(event) => (event.currentTarget.style.visibility = 'hidden')}
      />
      <ToolArrows label="Move the tool" step={STEP_MM} disabled={disabled} onMove={onMove} />
    </div>
  );
}

interface OrdersProps {
  readonly run: CutRun;
  readonly said: CameraAnswer | undefined;
  /** What the camera is at. */
  readonly busy: CameraOrder['do'] | undefined;
  onOrder(order: CameraOrder): void;
}

/** What the camera and the cutter can be told, in the order in which it is done. */
function Orders({ run, said, busy, onOrder }: OrdersProps) {
  const isBusy = busy !== undefined;
  const [first] = run.marks;
  const toFirst = ({ x, y }: { x: number; y: number }): void =>
    onOrder({ do: 'jog', dx: x - (said?.place?.x ?? 0), dy: y - (said?.place?.y ?? 0) });
  return (
    <div className="flex flex-wrap items-center gap-1.5">
      <Button size="small" disabled={isBusy} onClick={() => onOrder({ do: 'read-code' })}>
        <ScanLine size={13} /> Read the code
      </Button>
      {first ? (
        <Button size="small" disabled={isBusy} onClick={() => toFirst(first)}>
          To the first mark
        </Button>
      ) : null}
      <Button size="small" look={run.step === 'ready' ? 'plain' : 'main'} disabled={isBusy} onClick={() => onOrder({ do: 'find-marks' })}>
        {busy === 'find-marks' ? <Loader2 size={13} className="animate-spin" /> : null} Find the marks
      </Button>
      <Button size="small" disabled={isBusy} onClick={() => onOrder({ do: 'frame' })}>
        <Square size={13} /> Frame run
      </Button>
      <Button
        size="small"
        look="main"
        disabled={isBusy || run.step !== 'ready'}
        onClick={() => void api.act(run.id, 'release').catch(tellFailure)}
      >
        <Scissors size={13} /> Cut
      </Button>
    </div>
  );
}

export function SheetLoading({ run }: { run: CutRun }) {
  const [said, setSaid] = useState<CameraAnswer>();
  const [busy, setBusy] = useState<CameraOrder['do']>();
  const [view, setView] = useState(0);
  const machine = useShop((state) => state.machines?.find(({ id }) => id === run.machineId));
  const order = (asked: CameraOrder): void => {
    setBusy(asked.do);
    api
      .camera(run.id, asked)
      .then((answer) => {
        setSaid(answer);
        setView((n) => n + 1);
      })
      .catch(tellFailure)
      .finally(() => setBusy(undefined));
  };
  return (
    <section className="mt-1 flex flex-col gap-2 border-t pt-2" aria-label={`Load the sheet ${run.code ?? ''}`}>
      <div className="flex gap-3">
        <WayRound run={run} />
        <div className="flex min-w-0 flex-1 flex-col gap-2">
          <p className="text-[13px]">
            Sheet <strong className="numerals">{run.code ?? run.title}</strong>: put it in with the ringed mark first, at the tool’s start.
          </p>
          <TrayPick run={run} />
          <Orders run={run} said={said} busy={busy} onOrder={order} />
        </div>
        <Eye run={run} view={view} disabled={busy !== undefined} onMove={(dx, dy) => order({ do: 'jog', dx, dy })} />
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
      .catch(tellFailure)
      .finally(() => setBusy(false));
  };
  return (
    <Button size="small" disabled={busy} onClick={go}>
      <Square size={13} /> Frame run
    </Button>
  );
}
