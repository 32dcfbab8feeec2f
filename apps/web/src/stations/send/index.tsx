/** The Send station: from left to right, what was found, what is cut how, on which machine, what goes out. */
import { pageOf, stopsOf, type Machine, type ToolSetup } from '@lorvek/model';
import { describeLength } from '@lorvek/core/units';
import type { PreparedSheet } from '@lorvek/model/prepare';
import { CheckCircle2, Download, Loader2, PlugZap, Scissors } from 'lucide-react';
import { useEffect, useState, type ReactNode } from 'react';
import { Link, useNavigate } from 'react-router';
import { toast } from 'sonner';
import { api, sentenceOf } from '../../api/client.ts';
import { useMachineReport } from '../../api/machine-report.ts';
import { useShop } from '../../api/shop.ts';
import { findingsOf, useSheets } from '../../document/sheets.ts';
import { newId, useDocument } from '../../document/store.ts';
import { FilmStrip } from '../../frame/film-strip.tsx';
import { FindingRow, showFinding, workingText } from '../../frame/findings.tsx';
import { MeasureLine } from '../../frame/measure-line.tsx';
import { Button } from '../../ui/button.tsx';
import { Figure, Notice } from '../../ui/card.tsx';
import { Pick } from '../../ui/choices.tsx';
import { ask } from '../../worker/compute.ts';
import { SheetPicture } from './sheet-picture.tsx';

function Column({ step, title, children, grow }: { step: number; title: string; children: ReactNode; grow?: boolean }) {
  return (
    <section className={`panel flex min-h-0 flex-col ${grow ? 'flex-[1.35]' : 'flex-1'}`} aria-label={title}>
      <h2 className="flex h-10 shrink-0 items-center gap-2 border-b px-3 font-semibold">
        <span className="numerals flex size-5 items-center justify-center bg-ink text-xs text-sheet">{step}</span>
        {title}
      </h2>
      <div className="flex min-h-0 flex-1 flex-col gap-2 overflow-y-auto p-3">{children}</div>
    </section>
  );
}

function Checks() {
  const { sheets, whole, busy, unknown, share, error } = useSheets();
  const job = useDocument((state) => state.job);
  const navigate = useNavigate();
  const found = findingsOf({ sheets, whole });
  return (
    <Column step={1} title="Cut check">
      {error ? <Notice level="stop">{error}</Notice> : null}
      {unknown && !error ? (
        <p className="flex items-center gap-2 text-ink-soft" role="status">
          <Loader2 size={15} className="animate-spin" /> {workingText(share)}
        </p>
      ) : null}
      {found.length === 0 && sheets.length > 0 ? (
        <p className="flex items-center gap-2">
          <CheckCircle2 size={17} className="text-teal" /> {busy ? 'Checking again…' : 'Nothing was found that would go wrong.'}
        </p>
      ) : null}
      {sheets.length === 0 && !busy && !unknown ? (
        <Notice level="note">There is nothing to cut: no item of the choice has a film. Choose on Lay up what is cut.</Notice>
      ) : null}
      <ul className="-mx-3">
        {found.map((located, i) => (
          <FindingRow
            key={i}
            located={located}
            onGo={() => {
              void navigate(`/jobs/${job?.id ?? ''}/draw`);
              setTimeout(() => showFinding(located), 60);
            }}
          />
        ))}
      </ul>
    </Column>
  );
}

function MachineState({ machine }: { machine: Machine }) {
  const report = useMachineReport(machine);
  if (!report)
    return (
      <p className="flex items-center gap-2 text-ink-soft">
        <Loader2 size={15} className="animate-spin" /> Asking the machine…
      </p>
    );
  return report.reachable ? (
    <p className="flex items-center gap-2">
      <PlugZap size={16} className="text-teal" /> {report.text}
    </p>
  ) : (
    <Notice level="warning">{report.text} You can send all the same; the run waits until you retry.</Notice>
  );
}

function SetupFigures({ setup }: { setup: ToolSetup }) {
  const { unit } = pageOf(useDocument((state) => state.drawing));
  if (setup.sends === 'stored')
    return <p className="text-[13px]">The machine uses its own stored setup {setup.tool}; no values are sent.</p>;
  return (
    <>
      <Figure name="Speed">{setup.speedMmPerS} mm/s</Figure>
      <Figure name="Force">{setup.forceGrams} g</Figure>
      <Figure name="Passes">{setup.passes}</Figure>
      <Figure name="Blade offset">{describeLength(setup.bladeOffsetMm, unit)}</Figure>
      <p className="text-[13px] text-ink-soft">
        {setup.corners === 'machine'
          ? 'The machine corrects the corners for the blade offset.'
          : 'The file turns the corners for the blade offset; set the machine’s own offset to 0.'}
      </p>
    </>
  );
}

const CHOICE_KEY = 'lorvek.machine';

function useChoice(machines: readonly Machine[] | undefined, sheets: readonly PreparedSheet[]) {
  const [choice, setChoice] = useState(() => localStorage.getItem(CHOICE_KEY)?.split('/') ?? []);
  const machine = machines?.find((m) => m.id === choice[0]) ?? machines?.[0];
  const suggested =
    sheets.length > 0 && sheets.every((sheet) => sheet.film.transfer) ? machine?.setups.find((s) => s.id === 'transfer') : undefined;
  const setup = machine?.setups.find((s) => s.id === choice[1]) ?? suggested ?? machine?.setups[0];
  const choose = (machineId: string, setupId: string): void => {
    setChoice([machineId, setupId]);
    localStorage.setItem(CHOICE_KEY, `${machineId}/${setupId}`);
  };
  return { machine, setup, choose };
}

/** Minutes of each sheet, worked out in the worker. */
function useMinutes(sheets: readonly PreparedSheet[], setup: ToolSetup | undefined): Record<string, number> {
  const drawing = useDocument((state) => state.drawing);
  const stock = useShop((state) => state.stock);
  const [seconds, setSeconds] = useState<Record<string, number>>({});
  useEffect(() => {
    let current = true;
    if (!setup || !stock) return undefined;
    void Promise.all(
      sheets.map(async ({ film }) => {
        const { seconds: own } = await ask('estimate', { drawing, film: film.id, stock, setup });
        return [film.id, own] as const;
      }),
    )
      .then((entries) => current && setSeconds(Object.fromEntries(entries)))
      // unknown: dashes stand where the times would
      .catch(() => current && setSeconds({}));
    return () => {
      current = false;
    };
  }, [sheets, setup, drawing, stock]);
  return seconds;
}

const timeText = (seconds: number): string =>
  seconds < 60 ? `${Math.max(1, Math.round(seconds))} s` : `${Math.floor(seconds / 60)} min ${Math.round(seconds % 60)} s`;

function Outgoing({ machine, setup }: { machine: Machine | undefined; setup: ToolSetup | undefined }) {
  const { sheets, whole, busy, unknown, share, error } = useSheets();
  const { job, save, revision, drawing } = useDocument();
  const stock = useShop((state) => state.stock);
  const { unit } = pageOf(drawing);
  const seconds = useMinutes(sheets, setup);
  const [sending, setSending] = useState(false);
  const navigate = useNavigate();
  const stops = stopsOf({ sheets, whole });
  const timed = sheets.every(({ film }) => seconds[film.id] !== undefined);
  const total = sheets.reduce((sum, { film }) => sum + (seconds[film.id] ?? 0), 0);
  const cost = sheets.reduce(
    (sum, { film, laid }) => sum + (laid.usedLengthMm / 1000) * (stock?.find((s) => s.id === film.stockId)?.pricePerMetre ?? 0),
    0,
  );
  const why = !machine
    ? 'No machine is set up.'
    : error
      ? 'The Cut check could not be done, so nothing goes out.'
      : unknown || busy
        ? workingText(share)
        : sheets.length === 0
          ? 'There is nothing to cut.'
          : stops.length > 0
            ? 'Something found by the Cut check must be put right first.'
            : save !== 'saved'
              ? 'The last changes are still being saved.'
              : undefined;

  const send = async (hold: boolean): Promise<void> => {
    if (!job || !machine || !setup) return;
    setSending(true);
    try {
      const runs = await api.send(job.id, {
        orderId: newId('order'),
        revision,
        films: sheets.map((sheet) => sheet.film.id),
        machineId: machine.id,
        setupId: setup.id,
        hold,
      });
      toast.success(
        `${runs.length} ${runs.length === 1 ? 'run' : 'runs'} for ${machine.name} ${hold ? 'held in the Queue' : 'in the Queue'}.`,
      );
      void navigate('/queue');
    } catch (error) {
      toast.error(sentenceOf(error));
    } finally {
      setSending(false);
    }
  };

  return (
    <Column step={4} title="What goes out" grow>
      {sheets.map((sheet) => (
        <article key={sheet.film.id} className="flex flex-col gap-1 border-b pb-3 last:border-b-0">
          <SheetPicture sheet={sheet} />
          <div className="flex items-baseline justify-between gap-2">
            <strong className="truncate">{sheet.film.name}</strong>
            <span className="numerals shrink-0 text-[13px]">
              {describeLength(Math.round(sheet.laid.usedLengthMm), unit)} × {describeLength(sheet.material.widthMm, unit)}
            </span>
          </div>
          <div className="flex items-center justify-between text-[13px] text-ink-soft">
            <span className="numerals">
              {(sheet.cutMm / 1000).toFixed(2)} m of cut ·{' '}
              {seconds[sheet.film.id] === undefined ? '…' : timeText(seconds[sheet.film.id] ?? 0)}
            </span>
            {job && machine && setup ? (
              <span className="flex gap-2">
                <a
                  className="inline-flex items-center gap-1 text-teal underline"
                  href={api.sheetFileUrl(job.id, sheet.film.id, 'plt', machine.id, setup.id)}
                  download
                >
                  <Download size={13} /> HPGL
                </a>
                <a
                  className="inline-flex items-center gap-1 text-teal underline"
                  href={api.sheetFileUrl(job.id, sheet.film.id, 'svg', machine.id, setup.id)}
                  download
                >
                  <Download size={13} /> SVG
                </a>
              </span>
            ) : null}
          </div>
        </article>
      ))}
      <div className="mt-auto flex flex-col gap-1 border-t pt-2">
        <Figure name="Time">{timed && total > 0 ? timeText(total) : '–'}</Figure>
        <Figure name="Film">{unknown || !stock ? '–' : cost.toFixed(2)}</Figure>
        {why ? <Notice level={stops.length > 0 ? 'stop' : 'note'}>{why}</Notice> : null}
        <div className="flex gap-2 pt-1">
          <Button look="main" className="h-10 flex-1" disabled={why !== undefined || sending} onClick={() => void send(false)}>
            {sending ? <Loader2 size={16} className="animate-spin" /> : <Scissors size={16} />}
            {unknown ? 'Cut' : `Cut ${sheets.length} ${sheets.length === 1 ? 'sheet' : 'sheets'}`}
          </Button>
          <Button className="h-10" disabled={why !== undefined || sending} onClick={() => void send(true)}>
            Hold
          </Button>
        </div>
      </div>
    </Column>
  );
}

export function SendStation() {
  const machines = useShop((state) => state.machines);
  const sheets = useSheets((state) => state.sheets);
  const { machine, setup, choose } = useChoice(machines, sheets);
  return (
    <>
      <MeasureLine />
      <div className="flex min-h-0 flex-1">
        <FilmStrip />
        <main className="flex min-w-0 flex-1 gap-2 bg-desk p-2">
          <Checks />
          <Column step={2} title="Tool setup">
            {machine && setup ? (
              <>
                <Pick
                  label="Setup"
                  value={setup.id}
                  options={machine.setups.map((s) => ({ value: s.id, text: s.name }))}
                  onChange={(id) => choose(machine.id, id)}
                />
                <SetupFigures setup={setup} />
                <p className="mt-2 border-t pt-2 text-[13px] text-ink-soft">
                  Order: inner contours before the ones that hold them, weed boxes last, short ways between.
                </p>
              </>
            ) : (
              <Notice level="warning">
                There is no machine.{' '}
                <Link to="/machines" className="underline">
                  See Machines
                </Link>
                .
              </Notice>
            )}
          </Column>
          <Column step={3} title="Machine">
            {machine ? (
              <>
                <Pick
                  label="Machine"
                  value={machine.id}
                  options={(machines ?? []).map((m) => ({ value: m.id, text: m.name }))}
                  onChange={(id) => choose(id, machines?.find((m) => m.id === id)?.setups[0]?.id ?? '')}
                />
                <MachineState machine={machine} />
                {sheets.some((sheet) => sheet.material.widthMm > machine.widthMm) ? (
                  <Notice level="warning">
                    A roll is wider than the {machine.widthMm} mm that {machine.name} takes.
                  </Notice>
                ) : null}
              </>
            ) : null}
          </Column>
          <Outgoing machine={machine} setup={setup} />
        </main>
      </div>
    </>
  );
}
