/** A run looked at: its picture large, what happened to it, its file, another machine for it, more of the same. */
import { printsOf, type CutRun, type Leftover as RunLeftover, type Run, type RunEvent } from '@lorvek/model';
import { format, parseISO } from 'date-fns';
import { Download, Repeat } from 'lucide-react';
import { useEffect, useState } from 'react';
import { toast } from 'sonner';
import { api } from '../../api/client.ts';
import { bounds, parsePath } from '@lorvek/core/geometry';
import { loadStock, useShop } from '../../api/shop.ts';
import { Button } from '../../ui/button.tsx';
import { Pick } from '../../ui/pick.tsx';
import { Dialog } from '../../ui/dialog.tsx';
import { NumberField } from '../../ui/fields.tsx';
import { tellFailure } from '../../ui/tell.ts';
import { nameOf, RunPicture } from './run-row.tsx';
import { ToolArrows } from '../tool-arrows.tsx';
import { FrameButton } from './sheet-loading.tsx';

const STILL: readonly Run['state'][] = ['held', 'waiting', 'needs-you', 'failed'];

function Log({ run }: { run: Run }) {
  const [lines, setLines] = useState<readonly RunEvent[]>();
  const begins = run.kind === 'cut' && run.origin ? `${run.origin.x} ${run.origin.y}` : '';
  useEffect(() => {
    let current = true;
    void api.runLog(run.id).then((found) => current && setLines(found), tellFailure);
    return () => {
      current = false;
    };
    // each move of the run is a line more
  }, [run.id, run.state, run.machineId, run.place, begins]);
  return (
    <section aria-label="What happened" className="min-w-0 flex-1">
      <h3 className="rule-label mb-1">What happened</h3>
      <ol className="flex max-h-40 flex-col gap-0.5 overflow-y-auto text-[13px]">
        {(lines ?? []).map(({ at, text }, i) => (
          <li key={i} className="flex gap-3">
            <time dateTime={at} className="numerals shrink-0 text-ink-soft">
              {format(parseISO(at), 'd MMM HH:mm:ss')}
            </time>
            <span>{text}</span>
          </li>
        ))}
        {lines?.length === 0 ? <li className="text-ink-soft">Nothing was written down of this run.</li> : null}
      </ol>
    </section>
  );
}

function OtherMachine({ run }: { run: Run }) {
  const machines = useShop((state) => state.machines);
  const others = (machines ?? []).filter((machine) => printsOf(machine) === (run.kind === 'print'));
  return (
    <Pick
      label="On the machine"
      value={run.machineId}
      options={others.map(({ id, name }) => ({ value: id, text: name }))}
      onChange={(id) =>
        void api
          .giveRunTo(run.id, id)
          .then(({ machineName }) => toast.success(`Given to ${machineName}.`))
          .catch(tellFailure)
      }
    />
  );
}

const STEP_MM = 5;

/** Where a cut without marks begins: the tool is brought there by arrows. */
function Origin({ run }: { run: CutRun }) {
  const [busy, setBusy] = useState(false);
  const during = (work: Promise<unknown>): void => {
    setBusy(true);
    void work.catch(tellFailure).finally(() => setBusy(false));
  };
  const jog = (dx: number, dy: number): void =>
    during(api.bench(run.machineId, { do: 'jog', dx, dy }).then(({ ok, text }) => (ok ? undefined : toast.warning(text))));
  return (
    <section aria-label="Where it begins" className="flex flex-col gap-1.5 border border-line-strong p-2">
      <span className="numerals text-[13px]">
        {run.origin ? `Begins at ${run.origin.x.toFixed(1)}, ${run.origin.y.toFixed(1)} mm` : 'Begins at the machine’s own origin'}
      </span>
      <ToolArrows label="Move the tool" step={STEP_MM} disabled={busy} onMove={jog} />
      <div className="flex flex-wrap gap-1.5">
        <Button size="small" disabled={busy} onClick={() => during(api.setOrigin(run.id, 'tool'))}>
          Where the tool stands
        </Button>
        {run.origin ? (
          <Button size="small" disabled={busy} onClick={() => during(api.setOrigin(run.id, 'machine'))}>
            Own origin
          </Button>
        ) : null}
      </div>
    </section>
  );
}

function Again({ run }: { run: Run }) {
  const [count, setCount] = useState(1);
  const repeat = (): void =>
    void api
      .act(run.id, 'repeat', count)
      .then(() => toast.success(`${count} more in the queue.`))
      .catch(tellFailure);
  return (
    <div className="flex items-center gap-2">
      <div className="w-28">
        <NumberField label="How many more" short="Again" value={count} decimals={0} min={1} max={50} onChange={setCount} />
      </div>
      <Button size="small" onClick={repeat}>
        <Repeat size={13} /> Repeat
      </Button>
    </div>
  );
}

/** What is left of the sheet, with its shape; it goes back into Stock once. */
function Leftover({ run }: { run: Run }) {
  const [left, setLeft] = useState<RunLeftover['left']>(null);
  useEffect(() => {
    let current = true;
    void api.offcutOf(run.id).then((found) => current && setLeft(found.left), tellFailure);
    return () => {
      current = false;
    };
  }, [run.id, run.offcutId]);
  if (run.offcutId !== null) return <p className="text-[13px] text-teal">What is left of it is in Stock.</p>;
  if (!left) return null;
  const { minX, minY, maxX, maxY } = bounds(parsePath(left.path));
  const keep = (): void =>
    void api
      .keepOffcut(run.id)
      .then(loadStock)
      .then(() => toast.success('The offcut is in Stock.'))
      .catch(tellFailure);
  return (
    <div className="flex items-center gap-2 border border-line-strong p-2">
      <svg viewBox={`${minX} ${minY} ${maxX - minX} ${maxY - minY}`} className="h-10 w-16 shrink-0" role="img" aria-label="What is left">
        <path
          d={left.path}
          transform={`matrix(1 0 0 -1 0 ${minY + maxY})`}
          fill="#0d5c5f22"
          stroke="#0d5c5f"
          vectorEffect="non-scaling-stroke"
        />
      </svg>
      <div className="flex flex-col items-start gap-1">
        <span className="numerals text-[13px]">
          {Math.round(left.lengthMm)} × {Math.round(left.widthMm)} mm left
        </span>
        <Button size="small" onClick={keep}>
          Into Stock
        </Button>
      </div>
    </div>
  );
}

export function RunDialog({ run, onClose }: { run: Run; onClose(): void }) {
  return (
    <Dialog
      open
      title={run.jobName}
      text={`${run.title} on ${run.machineName}: ${nameOf(run).toLowerCase()}`}
      width={860}
      onClose={onClose}
    >
      <div className="flex max-h-[46vh] justify-center">
        <RunPicture run={run} className="h-[44vh] max-w-full" />
      </div>
      <div className="mt-3 flex gap-6">
        <Log run={run} />
        <div className="flex w-64 shrink-0 flex-col gap-2">
          {STILL.includes(run.state) ? <OtherMachine run={run} /> : null}
          {run.kind === 'cut' && run.marks.length === 0 && STILL.includes(run.state) ? <Origin run={run} /> : null}
          {run.state === 'done' && run.kind === 'cut' ? <Leftover run={run} /> : null}
          {run.state === 'done' || run.state === 'cancelled' ? <Again run={run} /> : null}
          {run.kind === 'cut' && run.state !== 'working' && run.state !== 'done' ? <FrameButton run={run} /> : null}
          <a
            href={`/api/runs/${run.id}/${run.kind === 'cut' ? 'cut.plt' : 'print.pdf'}`}
            download
            className="inline-flex items-center gap-1 text-teal underline"
          >
            <Download size={14} /> {run.kind === 'cut' ? 'The HPGL that was sent' : 'The PDF that was sent'}
          </a>
        </div>
      </div>
    </Dialog>
  );
}
