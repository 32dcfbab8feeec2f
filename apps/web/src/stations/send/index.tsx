/** The Send station: the sheets large, beside them what was found, how and where it is made, what goes out, one button that says what it does. */
import { describePrice, pageOf, printsOf, stopsOf, type Machine, type PaperChoice, type SendOrder } from '@lorvek/model';
import { describeLength } from '@lorvek/core/units';
import { misfitsOf, type Misfit } from '@lorvek/model/machine-fit';
import { cuttingOf, type Cutting } from '@lorvek/model/cut-file';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { Download, Loader2, Scissors } from 'lucide-react';
import { useMemo, useState, type ReactNode } from 'react';
import { Link, useNavigate } from 'react-router';
import { toast } from 'sonner';
import { api, sentenceOf } from '../../api/client.ts';
import { useShop } from '../../api/shop.ts';
import { useSheets } from '../../document/sheets.ts';
import { useDocument } from '../../document/store.ts';
import { FilmStrip } from '../../frame/film-strip.tsx';
import { workingText } from '../../frame/findings.tsx';
import type { StationParts } from '../../frame/stations.ts';
import { MeasureLine } from '../../frame/measure-line.tsx';
import { ZoomGroup } from '../../frame/tool-bench.tsx';
import { Button } from '../../ui/button.tsx';
import { Figure, Notice } from '../../ui/card.tsx';
import { Pick, PickRow } from '../../ui/choices.tsx';
import { ProgressBar } from '../../ui/progress-bar.tsx';
import { Checks, Part } from './checks.tsx';
import { fitSend, SheetViewer } from './sheet-viewer.tsx';
import { CuttingCard } from './cutting-card.tsx';
import { MachineState } from './machine-state.tsx';
import { Misfits, PaperPick } from './machine-choice.tsx';
import { useMinutes } from './use-minutes.ts';
import { useSending } from './use-sending.ts';
import { SheetPicture } from '../../drawing/sheet-picture.tsx';

const CHOICE_KEY = 'lorvek.machine';
const PRINTER_KEY = 'lorvek.printer';

/** What of the sheets goes out. */
export type Outgoing = 'both' | 'print' | 'cut';

function useChoice(all: readonly Machine[] | undefined, sheets: readonly SheetPlan[]) {
  const [choice, setChoice] = useState(() => localStorage.getItem(CHOICE_KEY)?.split('/') ?? []);
  const machines = all?.filter((one) => !printsOf(one));
  // marks are found by a camera: of machines that nobody chose the first that has one
  const seeing = sheets.some(({ marks }) => marks.length > 0) ? machines?.find(({ kind }) => kind === 'camera-cutter') : undefined;
  const machine = machines?.find((m) => m.id === choice[0] && (!seeing || m.kind === 'camera-cutter')) ?? seeing ?? machines?.[0];
  const suggested =
    sheets.length > 0 && sheets.every(({ layer }) => layer.type === 'film' && layer.transfer)
      ? machine?.setups.find((s) => s.id === 'transfer')
      : undefined;
  const setup = machine?.setups.find((s) => s.id === choice[1]) ?? suggested ?? machine?.setups[0];
  const choose = (machineId: string, setupId: string): void => {
    setChoice([machineId, setupId]);
    localStorage.setItem(CHOICE_KEY, `${machineId}/${setupId}`);
  };
  return { machine, machines, setup, choose };
}

function usePrinter(all: readonly Machine[] | undefined) {
  const [chosen, setChosen] = useState(() => localStorage.getItem(PRINTER_KEY));
  const printers = all?.filter(printsOf) ?? [];
  const choose = (id: string): void => {
    setChosen(id);
    localStorage.setItem(PRINTER_KEY, id);
  };
  return { printer: printers.find(({ id }) => id === chosen) ?? printers[0], printers, choose };
}

const several = (n: number, one: string): string => `${n} ${n === 1 ? one : `${one}s`}`;

/** What the button will do, in words: it does just that. */
export function describeOrder(
  sheets: readonly SheetPlan[],
  what: Outgoing,
  printer: Machine | undefined,
  cutter: Machine | undefined,
): string {
  const prints = sheets.filter(({ print }) => print && what !== 'cut');
  const cuts = sheets.filter(({ lines }) => lines.length > 0 && what !== 'print');
  const waiting = cuts.filter((sheet) => prints.includes(sheet));
  const direct = cuts.filter((sheet) => !waiting.includes(sheet));
  const parts = [
    prints.length > 0 && printer ? `Print ${several(prints.length, 'sheet')} on ${printer.name}` : '',
    waiting.length > 0 && cutter ? `hold ${several(waiting.length, 'cut run')} for ${waiting.length === 1 ? 'it' : 'them'}` : '',
    direct.length > 0 && cutter ? `${prints.length > 0 ? 'cut' : 'Cut'} ${several(direct.length, 'sheet')} on ${cutter.name}` : '',
  ].filter(Boolean);
  return parts.join(', ') || 'Nothing to send';
}

const timeText = (seconds: number): string =>
  seconds < 60 ? `${Math.max(1, Math.round(seconds))} s` : `${Math.floor(seconds / 60)} min ${Math.round(seconds % 60)} s`;

interface Means {
  readonly cuts: boolean;
  readonly prints: boolean;
  readonly machine: Machine | undefined;
  readonly printer: Machine | undefined;
  readonly sheets: readonly SheetPlan[];
}

/** Sheets on their machines: what is in the way. */
function misfitsWith({ cuts, prints, machine, printer, sheets }: Means): Misfit[] {
  const of = (sheet: SheetPlan, on: Machine): Misfit[] =>
    misfitsOf(
      {
        title: `${sheet.layer.series} ${sheet.layer.name}`,
        widthMm: sheet.material.widthMm,
        lengthMm: sheet.usedLengthMm,
        marks: sheet.marks.length > 0 ? (sheet.markSettings?.marks.kind ?? null) : null,
      },
      on,
    );
  const all = sheets.flatMap((sheet) => [
    ...(prints && printer && sheet.print ? of(sheet, printer) : []),
    ...(cuts && machine && sheet.lines.length > 0 ? of(sheet, machine) : []),
  ]);
  // the same for every sheet of a film is said once
  return all.filter(({ text }, i) => all.findIndex((other) => other.text === text) === i);
}

/** Why the machines cannot do it. */
function whyNot(means: Means): string | undefined {
  const { cuts, prints, machine, printer } = means;
  if (cuts && !machine) return 'No cutter is set up.';
  if (prints && !printer) return 'No printer is set up: see Machines.';
  return misfitsWith(means).find(({ level }) => level === 'stop')?.text;
}

interface Readiness {
  readonly error: string | undefined;
  readonly isUnknown: boolean;
  readonly share: number;
  readonly sheets: readonly SheetPlan[];
  readonly stops: number;
  readonly save: string;
}

/** Why the drawing cannot go out yet. */
function whyNotYet({ error, isUnknown, share, sheets, stops, save }: Readiness): string | undefined {
  if (save === 'read-only') return 'A newer version of Lorvek saved this job; send it from there.';
  if (error) return 'The Cut check could not be done, so nothing goes out.';
  if (isUnknown) return workingText(share);
  if (sheets.length === 0) return 'There is nothing to send.';
  if (stops > 0) return 'Something found by the Cut check must be put right first.';
  return save === 'saved' ? undefined : 'The last changes are still being saved.';
}

interface ListProps {
  readonly sheets: readonly SheetPlan[];
  readonly seconds: Record<string, number>;
  readonly cutter: SendOrder['cutter'];
  readonly printerId: string | undefined;
  readonly shown: string | undefined;
  onShow(sheet: string): void;
}

/** Every sheet with its picture, its size, its time, its files. */
function SheetList({ sheets, seconds, cutter, printerId, shown, onShow }: ListProps) {
  const { job, drawing } = useDocument();
  const { unit } = pageOf(drawing);
  return (
    <>
      {sheets.map((sheet) => (
        <article key={sheet.id} className="flex flex-col gap-1 border-b pb-2 last:border-b-0">
          <button
            type="button"
            aria-pressed={sheet.id === shown}
            aria-label={`Look at sheet ${sheet.number + 1} of ${sheet.layer.name}`}
            onClick={() => onShow(sheet.id)}
            className={sheet.id === shown ? 'outline-2 outline-teal' : ''}
          >
            <SheetPicture sheet={sheet} />
          </button>
          <div className="flex items-baseline justify-between gap-2">
            <strong className="truncate">
              {sheet.print ? `Print on ${sheet.layer.name}` : sheet.layer.name}
              {sheet.of > 1 ? ` · ${sheet.number + 1} of ${sheet.of}` : ''}
            </strong>
            <span className="numerals shrink-0 text-[13px]">
              {describeLength(Math.round(sheet.usedLengthMm), unit)} × {describeLength(sheet.material.widthMm, unit)}
            </span>
          </div>
          <div className="flex items-center justify-between text-[13px] text-ink-soft">
            <span className="numerals">
              {(sheet.cutMm / 1000).toFixed(2)} m of cut · {seconds[sheet.id] === undefined ? '…' : timeText(seconds[sheet.id] ?? 0)}
            </span>
            {job && cutter ? (
              <span className="flex gap-2">
                {sheet.print ? (
                  <a
                    className="inline-flex items-center gap-1 text-teal underline"
                    href={api.printFileUrl(job.id, sheet.layer.id, sheet.number, printerId)}
                    download
                  >
                    <Download size={13} /> PDF
                  </a>
                ) : null}
                <a
                  className="inline-flex items-center gap-1 text-teal underline"
                  href={api.sheetFileUrl(job.id, sheet.layer.id, sheet.number, 'plt', cutter)}
                  download
                >
                  <Download size={13} /> HPGL
                </a>
                <a
                  className="inline-flex items-center gap-1 text-teal underline"
                  href={api.sheetFileUrl(job.id, sheet.layer.id, sheet.number, 'svg', cutter)}
                  download
                >
                  <Download size={13} /> SVG
                </a>
              </span>
            ) : null}
          </div>
        </article>
      ))}
    </>
  );
}

interface OutgoingProps {
  readonly machine: Machine | undefined;
  readonly cutter: SendOrder['cutter'];
  readonly cutting: Cutting | undefined;
  readonly printer: Machine | undefined;
  /** Of a desk printer. */
  readonly paper: PaperChoice | undefined;
  /** Sheet that is looked at. */
  readonly shown: string | undefined;
  onShow(sheet: string): void;
  /** What stands above it. */
  readonly children: ReactNode;
}

function Outgoing({ machine, cutter, cutting, printer, paper, shown, onShow, children }: OutgoingProps) {
  const [what, setWhat] = useState<Outgoing>('both');
  const { sheets, whole, busy, unknown, share, error } = useSheets();
  const { job, save, revision } = useDocument();
  const stock = useShop((state) => state.stock);
  const settings = useShop((state) => state.settings);
  const seconds = useMinutes(sheets, cutting);
  const sending = useSending();
  const isSending = sending.share !== undefined;
  const navigate = useNavigate();
  const stops = stopsOf({ sheets, whole });
  const timed = sheets.every(({ id }) => seconds[id] !== undefined);
  const total = sheets.reduce((sum, { id }) => sum + (seconds[id] ?? 0), 0);
  const cost = sheets.reduce(
    (sum, { layer, usedLengthMm }) => sum + (usedLengthMm / 1000) * (stock?.find((s) => s.id === layer.stockId)?.pricePerMetre ?? 0),
    0,
  );
  const isPrinting = sheets.some(({ print }) => print);
  const prints = what !== 'cut' && isPrinting;
  const cuts = what !== 'print' && sheets.some(({ lines }) => lines.length > 0);
  const why =
    whyNot({ cuts, prints, machine, printer, sheets }) ??
    whyNotYet({ error, isUnknown: unknown || busy, share, sheets, stops: stops.length, save });

  const send = async (hold: boolean): Promise<void> => {
    if (!job) return;
    try {
      const runs = await sending.start(job.id, {
        revision,
        layers: [...new Set(sheets.filter(({ print }) => what !== 'print' || print).map(({ layer }) => layer.id))],
        cutter: cuts ? cutter : null,
        printer: prints && printer ? { machineId: printer.id, ...(printer.kind === 'desk-printer' && paper ? { paper } : {}) } : null,
        hold,
      });
      if (!runs) return void toast.info('Stopped before it went out: nothing was sent.');
      toast.success(`${several(runs.length, 'run')} ${hold ? 'held in the Queue' : 'in the Queue'}.`);
      void navigate('/queue');
    } catch (error) {
      toast.error(sentenceOf(error));
    }
  };

  return (
    <>
      <div className="flex min-h-0 flex-1 flex-col gap-2 overflow-y-auto">
        {children}
        <Part step={4} title="What goes out">
          {isPrinting ? (
            <PickRow
              label="What goes out"
              value={what}
              options={[
                { value: 'both', label: 'Print, then cut', content: 'Print, then cut' },
                { value: 'print', label: 'The print alone', content: 'Print alone' },
                { value: 'cut', label: 'The cut alone', content: 'Cut alone' },
              ]}
              onChange={(next) => setWhat(next as Outgoing)}
            />
          ) : null}
          <SheetList sheets={sheets} seconds={seconds} cutter={cutter} printerId={printer?.id} shown={shown} onShow={onShow} />
        </Part>
      </div>
      <footer className="panel mt-2 flex shrink-0 flex-col gap-1 p-3">
        <Figure name="Time">{timed && total > 0 ? timeText(total) : '–'}</Figure>
        <Figure name={isPrinting ? 'Material' : 'Film'}>{unknown || !stock || !settings ? '–' : describePrice(cost, settings)}</Figure>
        {why ? <Notice level={stops.length > 0 ? 'stop' : 'note'}>{why}</Notice> : null}
        {sending.share === undefined ? null : (
          <div className="flex items-center gap-2">
            <ProgressBar label="Files made" share={sending.share} />
            <span className="numerals w-12 text-right text-[13px]">{Math.round(100 * sending.share)} %</span>
          </div>
        )}
        <div className="flex gap-2 pt-1">
          <Button
            look="main"
            className="h-auto! min-h-10 min-w-0 flex-1 shrink! py-1.5 whitespace-normal!"
            disabled={why !== undefined || isSending}
            onClick={() => void send(false)}
          >
            {isSending ? <Loader2 size={16} className="animate-spin" /> : <Scissors size={16} className="shrink-0" />}
            <span className="text-left leading-tight">{unknown ? 'Send' : describeOrder(sheets, what, printer, machine)}</span>
          </Button>
          {isSending ? (
            <Button className="h-10" look="stop" onClick={sending.stop}>
              Stop
            </Button>
          ) : (
            <Button className="h-10" disabled={why !== undefined} onClick={() => void send(true)}>
              Hold
            </Button>
          )}
        </div>
      </footer>
    </>
  );
}

function SendStation() {
  const machines = useShop((state) => state.machines);
  const sheets = useSheets((state) => state.sheets);
  const { machine, machines: cutters, setup, choose } = useChoice(machines, sheets);
  const { printer, printers, choose: choosePrinter } = usePrinter(machines);
  const isPrinting = sheets.some(({ print }) => print);
  const [shown, setShown] = useState<string>();
  const [paper, setPaper] = useState<PaperChoice>();
  const kinds = useMemo(() => new Set(sheets.flatMap(({ lines }) => lines.map(({ kind }) => kind))), [sheets]);
  const cutting = useMemo(() => machine && setup && cuttingOf(machine.setups, setup, machine.cutting), [machine, setup]);
  const cutter =
    machine && setup ? { machineId: machine.id, setupId: setup.id, ...(machine.cutting ? { cutting: machine.cutting } : {}) } : null;
  const looked = sheets.find(({ id }) => id === shown) ?? sheets[0];
  const fitSheet = (): void => {
    if (looked) fitSend(looked);
  };
  return (
    <>
      <MeasureLine zoom={<ZoomGroup name="send" onFit={fitSheet} />} />
      <div className="flex min-h-0 flex-1">
        <FilmStrip />
        <main className="flex min-w-0 flex-1">
          {looked ? (
            <SheetViewer sheet={looked} cutting={cutting} inkMlPerM2={printer?.inkMlPerM2 ?? null} printerId={printer?.id} />
          ) : (
            <div className="min-w-0 flex-1 bg-desk" />
          )}
        </main>
        <aside aria-label="Ticket" className="flex w-[340px] shrink-0 flex-col border-l bg-paper p-2">
          <Outgoing
            machine={machine}
            cutter={cutter}
            cutting={cutting}
            printer={printer}
            paper={paper}
            shown={looked?.id}
            onShow={setShown}
          >
            <Checks />
            <Part step={2} title="Tool setup">
              {machine && setup ? (
                <CuttingCard machine={machine} setup={setup} kinds={kinds} onSetup={(id) => choose(machine.id, id)} />
              ) : (
                <Notice level="warning">
                  There is no machine.{' '}
                  <Link to="/machines" className="underline">
                    See Machines
                  </Link>
                  .
                </Notice>
              )}
            </Part>
            <Part step={3} title={isPrinting ? 'Machines' : 'Machine'}>
              {isPrinting ? (
                <>
                  <Pick
                    label="Printer"
                    value={printer?.id}
                    placeholder="No printer"
                    options={printers.map((m) => ({ value: m.id, text: m.name }))}
                    onChange={choosePrinter}
                  />
                  {printer ? (
                    <MachineState machine={printer} />
                  ) : (
                    <Notice level="warning">No printer is set up. Add one on Machines.</Notice>
                  )}
                  {printer?.kind === 'desk-printer' ? (
                    <PaperPick key={printer.id} machine={printer} paper={paper} onPaper={setPaper} />
                  ) : null}
                </>
              ) : null}
              {machine ? (
                <>
                  <Pick
                    label={isPrinting ? 'Cutter' : 'Machine'}
                    value={machine.id}
                    options={(cutters ?? []).map((m) => ({ value: m.id, text: m.name }))}
                    onChange={(id) => choose(id, machines?.find((m) => m.id === id)?.setups[0]?.id ?? '')}
                  />
                  <MachineState machine={machine} />
                </>
              ) : null}
              <Misfits misfits={misfitsWith({ cuts: true, prints: isPrinting, machine, printer, sheets })} sheets={sheets} />
            </Part>
          </Outgoing>
        </aside>
      </div>
    </>
  );
}

export const station: StationParts = { View: SendStation };
