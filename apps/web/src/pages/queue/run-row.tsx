/** A run of the queue: its picture, state and progress; one that needs you says why and what to do. */
import { inkOn, mayGoOn, type Run, type RunAction, type RunState } from '@lorvek/model';
import { format, parseISO } from 'date-fns';
import { ArrowUpToLine, Pause, Play, RotateCcw, Repeat, Square, Hand, StepForward } from 'lucide-react';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { api } from '../../api/client.ts';
import { tellFailure } from '../../ui/tell.ts';
import { Button } from '../../ui/button.tsx';
import { ProgressBar } from '../../ui/progress-bar.tsx';
import { Notice } from '../../ui/card.tsx';
import { SheetLoading } from './sheet-loading.tsx';

const NAMES: Record<RunState, string> = {
  held: 'Held',
  waiting: 'Waiting',
  working: 'Working',
  paused: 'Paused',
  'needs-you': 'Needs you',
  done: 'Done',
  failed: 'Failed',
  cancelled: 'Cancelled',
};
const LOOKS: Record<RunState, string> = {
  held: 'border-line-strong',
  waiting: 'border-line-strong',
  working: 'border-teal bg-teal text-sheet',
  paused: 'border-ink bg-ink text-sheet',
  'needs-you': 'border-amber bg-amber text-sheet',
  done: 'border-teal text-teal',
  failed: 'border-brick bg-brick text-sheet',
  cancelled: 'border-line-strong text-ink-soft',
};

const ACTIONS: Record<RunState, readonly RunAction[]> = {
  held: ['release', 'cancel'],
  waiting: ['hold', 'cancel'],
  working: ['pause', 'cancel'],
  paused: ['resume', 'cancel'],
  'needs-you': ['retry', 'cancel'],
  done: ['repeat'],
  failed: ['retry', 'cancel'],
  cancelled: ['repeat'],
};

const BUTTONS: Record<RunAction, { text: string; icon: typeof Pause }> = {
  hold: { text: 'Hold', icon: Hand },
  release: { text: 'Release', icon: Play },
  pause: { text: 'Pause', icon: Pause },
  resume: { text: 'Resume', icon: Play },
  cancel: { text: 'Cancel', icon: Square },
  retry: { text: 'Retry', icon: RotateCcw },
  'go-on': { text: 'Go on', icon: StepForward },
  repeat: { text: 'Repeat', icon: Repeat },
  first: { text: 'To the front', icon: ArrowUpToLine },
};

/** The sheet with the carriage over it; the picture that the machine left when it is done. */
export function RunPicture({ run, className }: { run: Run; className: string }) {
  const carriage = run.kind === 'cut' ? run.carriage : null;
  const source = run.hasPicture ? `/api/runs/${run.id}/picture.svg` : `/api/runs/${run.id}/sheet.svg`;
  return (
    <div
      className={`relative overflow-hidden border border-line-strong bg-desk ${className}`}
      style={{ aspectRatio: `${Math.max(60, run.lengthMm)} / ${run.widthMm}` }}
    >
      <img
        src={source}
        alt={run.hasPicture ? (run.kind === 'print' ? 'What was printed' : 'What the blade cut') : 'The sheet'}
        className={`absolute inset-0 h-full w-full ${run.hasPicture ? 'object-contain object-left' : ''}`}
      />
      {carriage ? (
        <svg
          viewBox={`0 0 ${Math.max(1, run.lengthMm)} ${run.widthMm}`}
          preserveAspectRatio="none"
          className="absolute inset-0 h-full w-full"
          aria-hidden
          data-testid="carriage"
        >
          <line
            x1={carriage.x}
            x2={carriage.x}
            y1={0}
            y2={run.widthMm}
            stroke="#0d5c5f"
            strokeWidth={2}
            vectorEffect="non-scaling-stroke"
          />
          <ellipse
            cx={carriage.x}
            cy={run.widthMm - carriage.y}
            rx={run.widthMm / 60}
            ry={run.widthMm / 60}
            fill={carriage.down ? '#9c2f1d' : '#fdfbf6'}
            stroke="#16202e"
            vectorEffect="non-scaling-stroke"
          />
        </svg>
      ) : null}
    </div>
  );
}

/** The state in words; what a cut waits for. */
export const nameOf = (run: Run): string =>
  run.kind === 'cut' && run.state === 'held' && run.heldFor === 'print'
    ? 'Held for its print'
    : run.kind === 'cut' && run.step === 'load' && run.state === 'needs-you'
      ? 'Load the sheet'
      : NAMES[run.state];

/** What came of a run that is done. */
function Outcome({ run }: { run: Run }) {
  if (run.kind === 'print') {
    const ink = Object.entries(run.inkMl ?? {}).filter(([, ml]) => ml >= 0.005);
    return (
      <p className="mt-auto text-[13px] text-teal">
        Printed.{ink.length > 0 ? ` Ink: ${ink.map(([name, ml]) => `${name} ${ml.toFixed(2)} ml`).join(', ')}.` : ''}
      </p>
    );
  }
  if (run.offMm !== null)
    return (
      <p className="mt-auto text-[13px] text-teal" data-testid="off">
        Cut. The cut lies at most <strong className="numerals">{run.offMm.toFixed(2)} mm</strong> from where it should be on the print.
      </p>
    );
  return run.hasPicture ? <p className="mt-auto text-[13px] text-teal">Cut. The picture shows what the blade did.</p> : null;
}

interface RunRowProps {
  readonly run: Run;
  /** What it is taken hold of by, of one that may change its place. */
  readonly grip?: ReactNode;
  /** Is there another one before it? */
  readonly mayGoFirst?: boolean;
  onLook(): void;
}

/** What can be done with it now. */
function actionsOf(run: Run, mayGoFirst: boolean): readonly RunAction[] {
  if (run.kind === 'cut' && (run.heldFor === 'print' || (run.step !== null && run.state === 'needs-you'))) return ['cancel'];
  if (mayGoOn(run)) return ['go-on', ...ACTIONS[run.state]];
  return mayGoFirst ? ['first', ...ACTIONS[run.state]] : ACTIONS[run.state];
}

function Actions({ run, mayGoFirst }: { run: Run; mayGoFirst: boolean }) {
  return (
    <div className="flex flex-wrap justify-end gap-1.5">
      {actionsOf(run, mayGoFirst).map((action) => {
        const { text, icon: Icon } = BUTTONS[action];
        return (
          <Button
            key={action}
            size="small"
            look={action === 'cancel' ? 'stop' : action === 'retry' ? 'main' : 'plain'}
            onClick={() => void api.act(run.id, action).catch(tellFailure)}
          >
            <Icon size={13} /> {action === 'go-on' ? `${text} from ${Math.round(100 * run.progress)} %` : text}
          </Button>
        );
      })}
    </div>
  );
}

/** Job and film. */
function Heading({ run }: { run: Run }) {
  return (
    <div className="flex items-center gap-2">
      <Link to={`/jobs/${run.jobId}/draw`} className="truncate font-semibold hover:underline">
        {run.jobName}
      </Link>
      <span className="shrink-0 border border-line-strong px-1.5 text-xs" style={{ background: run.filmHex, color: inkOn(run.filmHex) }}>
        {run.title}
      </span>
    </div>
  );
}

/** Machine, size, length of cut, copies, when it was sent. */
function Figures({ run }: { run: Run }) {
  return (
    <p className="text-[13px] text-ink-soft">
      {run.machineName} ·{' '}
      <span className="numerals">
        {Math.round(run.lengthMm)} × {Math.round(run.widthMm)} mm
      </span>{' '}
      ·{' '}
      {run.kind === 'cut' ? (
        <>
          <span className="numerals">{(run.cutMm / 1000).toFixed(2)} m</span> of cut
        </>
      ) : (
        'print'
      )}
      {run.copies > 1 ? ` · ${run.copies} copies` : ''} · sent {format(parseISO(run.createdAt), 'd MMM HH:mm')}
    </p>
  );
}

/** How it goes: how far it is, what it needs, what came of it. */
function Course({ run }: { run: Run }) {
  return (
    <>
      {run.reason ? <Notice level={run.state === 'needs-you' ? 'warning' : 'note'}>{run.reason}</Notice> : null}
      {run.state === 'working' || run.state === 'paused' || run.state === 'waiting' ? (
        <div className="mt-auto flex items-center gap-3">
          <ProgressBar label={`Progress of ${run.title}`} share={run.progress} />
          <span className="numerals w-12 text-right text-[13px]">{Math.round(100 * run.progress)} %</span>
        </div>
      ) : null}
      {run.kind === 'cut' && run.state === 'needs-you' && run.step !== null ? <SheetLoading run={run} /> : null}
      {run.state === 'done' ? <Outcome run={run} /> : null}
    </>
  );
}

export function RunRow({ run, grip, mayGoFirst = false, onLook }: RunRowProps) {
  return (
    <div
      className={`panel flex gap-4 p-3 ${run.state === 'needs-you' ? '[--panel-line:var(--color-amber)]' : ''}`}
      data-run={run.id}
      data-state={run.state}
    >
      {grip}
      <button
        type="button"
        onClick={onLook}
        className="flex h-24 w-44 shrink-0 items-center justify-center bg-desk p-1"
        aria-label={`Look at ${run.title} of ${run.jobName} large`}
      >
        <RunPicture run={run} className="max-h-full max-w-full h-full" />
      </button>
      <div className="flex min-w-0 flex-1 flex-col gap-1">
        <Heading run={run} />
        <Figures run={run} />
        <Course run={run} />
      </div>
      <div className="flex w-36 shrink-0 flex-col items-end gap-1.5">
        <span className={`border px-2 text-xs leading-5 ${LOOKS[run.state]}`} role="status">
          {nameOf(run)}
        </span>
        <Actions run={run} mayGoFirst={mayGoFirst} />
      </div>
    </div>
  );
}
