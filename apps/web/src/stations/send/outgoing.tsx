/** What goes out: every sheet with its files, time and cost, and the button that sends it. */
import { describePrice, pageOf, stopsOf, type Machine, type PaperChoice, type SendOrder } from '@lorvek/model';
import { describeLength } from '@lorvek/core/units';
import type { Cutting } from '@lorvek/model/cut-file';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { Download, Loader2, Scissors } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import { api, sentenceOf } from '../../api/client.ts';
import { useShop } from '../../api/shop.ts';
import { useSheets } from '../../document/sheets.ts';
import { useDocument } from '../../document/store.ts';
import { SheetPicture } from '../../drawing/sheet-picture.tsx';
import { Button } from '../../ui/button.tsx';
import { Figure, Notice } from '../../ui/card.tsx';
import { PickRow } from '../../ui/choices.tsx';
import { ProgressBar } from '../../ui/progress-bar.tsx';
import { Part } from './checks.tsx';
import { describeOrder, timeText, whyNot, whyNotYet, type WhatGoes } from './outgoing-rules.ts';
import { several } from '../../ui/several.ts';
import { useMinutes } from './use-minutes.ts';
import { useSending } from './use-sending.ts';

interface ListProps {
  readonly sheets: readonly SheetPlan[];
  readonly seconds: Record<string, number>;
  readonly cutter: SendOrder['cutter'];
  readonly printerId: string | undefined;
  readonly shown: string | undefined;
  onShow(sheet: string): void;
}

const FILE_LINK = 'inline-flex items-center gap-1 text-teal underline';

interface FilesProps {
  readonly sheet: SheetPlan;
  readonly cutter: NonNullable<SendOrder['cutter']>;
  readonly printerId: string | undefined;
}

/** The files that go out, to be looked at or taken elsewhere. */
function SheetFiles({ sheet, cutter, printerId }: FilesProps) {
  const jobId = useDocument((state) => state.job?.id);
  if (jobId === undefined) return null;
  const { layer, number } = sheet;
  return (
    <span className="flex gap-2">
      {sheet.print ? (
        <a className={FILE_LINK} href={api.printFileUrl(jobId, layer.id, number, printerId)} download>
          <Download size={13} /> PDF
        </a>
      ) : null}
      {(['plt', 'svg'] as const).map((kind) => (
        <a key={kind} className={FILE_LINK} href={api.sheetFileUrl(jobId, layer.id, number, kind, cutter)} download>
          <Download size={13} /> {kind === 'plt' ? 'HPGL' : 'SVG'}
        </a>
      ))}
    </span>
  );
}

/** Every sheet with its picture, its size, its time, its files. */
function SheetList({ sheets, seconds, cutter, printerId, shown, onShow }: ListProps) {
  const { unit } = pageOf(useDocument((state) => state.drawing));
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
            {cutter ? <SheetFiles sheet={sheet} cutter={cutter} printerId={printerId} /> : null}
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

/** What goes out: how long it takes, what it costs. Unknown is not nothing. */
function Totals({ seconds, isPrinting }: { seconds: Record<string, number>; isPrinting: boolean }) {
  const { sheets, unknown } = useSheets();
  const stock = useShop((state) => state.stock);
  const settings = useShop((state) => state.settings);
  const timed = sheets.every(({ id }) => seconds[id] !== undefined);
  const total = sheets.reduce((sum, { id }) => sum + (seconds[id] ?? 0), 0);
  const cost = sheets.reduce(
    (sum, { layer, usedLengthMm }) => sum + (usedLengthMm / 1000) * (stock?.find((s) => s.id === layer.stockId)?.pricePerMetre ?? 0),
    0,
  );
  return (
    <>
      <Figure name="Time">{timed && total > 0 ? timeText(total) : '–'}</Figure>
      <Figure name={isPrinting ? 'Material' : 'Film'}>{unknown || !stock || !settings ? '–' : describePrice(cost, settings)}</Figure>
    </>
  );
}

interface SendButtonsProps {
  readonly sending: ReturnType<typeof useSending>;
  /** It cannot go out yet. */
  readonly disabled: boolean;
  readonly text: string;
  onSend(hold: boolean): void;
}

/** Sent, or held in the Queue; while the files are made, how far that is and its end. */
function SendButtons({ sending, disabled, text, onSend }: SendButtonsProps) {
  const isSending = sending.share !== undefined;
  return (
    <>
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
          disabled={disabled || isSending}
          onClick={() => onSend(false)}
        >
          {isSending ? <Loader2 size={16} className="animate-spin" /> : <Scissors size={16} className="shrink-0" />}
          <span className="text-left leading-tight">{text}</span>
        </Button>
        {isSending ? (
          <Button className="h-10" look="stop" onClick={sending.stop}>
            Stop
          </Button>
        ) : (
          <Button className="h-10" disabled={disabled} onClick={() => onSend(true)}>
            Hold
          </Button>
        )}
      </div>
    </>
  );
}

/** Print and cut, or one of them alone. */
function WhatPick({ what, onChange }: { what: WhatGoes; onChange(what: WhatGoes): void }) {
  return (
    <PickRow
      label="What goes out"
      value={what}
      options={[
        { value: 'both', label: 'Print, then cut', content: 'Print, then cut' },
        { value: 'print', label: 'The print alone', content: 'Print alone' },
        { value: 'cut', label: 'The cut alone', content: 'Cut alone' },
      ]}
      onChange={(next) => onChange(next as WhatGoes)}
    />
  );
}

export function Outgoing({ machine, cutter, cutting, printer, paper, shown, onShow, children }: OutgoingProps) {
  const [what, setWhat] = useState<WhatGoes>('both');
  const { sheets, whole, busy, unknown, share, error } = useSheets();
  const { job, save, revision } = useDocument();
  const seconds = useMinutes(sheets, cutting);
  const sending = useSending();
  const navigate = useNavigate();
  const stops = stopsOf({ sheets, whole });
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
          {isPrinting ? <WhatPick what={what} onChange={setWhat} /> : null}
          <SheetList sheets={sheets} seconds={seconds} cutter={cutter} printerId={printer?.id} shown={shown} onShow={onShow} />
        </Part>
      </div>
      <footer className="panel mt-2 flex shrink-0 flex-col gap-1 p-3">
        <Totals seconds={seconds} isPrinting={isPrinting} />
        {why ? <Notice level={stops.length > 0 ? 'stop' : 'note'}>{why}</Notice> : null}
        <SendButtons
          sending={sending}
          disabled={why !== undefined}
          text={unknown ? 'Send' : describeOrder(sheets, what, printer, machine)}
          onSend={(hold) => void send(hold)}
        />
      </footer>
    </>
  );
}
