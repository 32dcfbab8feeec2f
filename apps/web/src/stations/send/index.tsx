/** The Send station: the sheets large, beside them what was found, how and where it is made, what goes out, one button that says what it does. */
import type { PaperChoice } from '@lorvek/model';
import { cuttingOf } from '@lorvek/model/cut-file';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { useMemo, useState } from 'react';
import { Link } from 'react-router';
import { useShop } from '../../api/shop.ts';
import { useSheets } from '../../document/sheets.ts';
import { FilmStrip } from '../../frame/film-strip.tsx';
import type { StationParts } from '../../frame/stations.ts';
import { MeasureLine } from '../../frame/measure-line.tsx';
import { ZoomGroup } from '../../frame/tool-bench.tsx';
import { Notice } from '../../ui/card.tsx';
import { Pick } from '../../ui/pick.tsx';
import { Checks, Part } from './checks.tsx';
import { useChoice, usePrinter, type Choice, type Printing } from './choices.ts';
import { CuttingCard } from './cutting-card.tsx';
import { Misfits, PaperPick } from './machine-choice.tsx';
import { MachineState } from './machine-state.tsx';
import { Outgoing } from './outgoing.tsx';
import { misfitsWith } from './outgoing-rules.ts';
import { fitSend, SheetViewer } from './sheet-viewer.tsx';

type LineKind = SheetPlan['lines'][number]['kind'];

/** How the tool is set. */
function SetupPart({ choice, kinds }: { choice: Choice; kinds: ReadonlySet<LineKind> }) {
  const { machine, setup, choose } = choice;
  return (
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
  );
}

interface PrinterPartProps {
  readonly printing: Printing;
  readonly paper: PaperChoice | undefined;
  onPaper(paper: PaperChoice): void;
}

/** Which printer; a desk printer's paper. */
function PrinterPart({ printing: { printer, printers, choose }, paper, onPaper }: PrinterPartProps) {
  return (
    <>
      <Pick
        label="Printer"
        value={printer?.id}
        placeholder="No printer"
        options={printers.map((m) => ({ value: m.id, text: m.name }))}
        onChange={choose}
      />
      {printer ? <MachineState machine={printer} /> : <Notice level="warning">No printer is set up. Add one on Machines.</Notice>}
      {printer?.kind === 'desk-printer' ? <PaperPick key={printer.id} machine={printer} paper={paper} onPaper={onPaper} /> : null}
    </>
  );
}

/** Which cutter. */
function CutterPart({ choice: { machine, machines, choose }, label }: { choice: Choice; label: string }) {
  if (!machine) return null;
  return (
    <>
      <Pick
        label={label}
        value={machine.id}
        options={(machines ?? []).map((m) => ({ value: m.id, text: m.name }))}
        onChange={(id) => choose(id, machines?.find((m) => m.id === id)?.setups[0]?.id ?? '')}
      />
      <MachineState machine={machine} />
    </>
  );
}

function SendStation() {
  const machines = useShop((state) => state.machines);
  const sheets = useSheets((state) => state.sheets);
  const choice = useChoice(machines, sheets);
  const { machine, setup } = choice;
  const printing = usePrinter(machines, sheets);
  const { printer } = printing;
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
            <SetupPart choice={choice} kinds={kinds} />
            <Part step={3} title={isPrinting ? 'Machines' : 'Machine'}>
              {isPrinting ? <PrinterPart printing={printing} paper={paper} onPaper={setPaper} /> : null}
              <CutterPart choice={choice} label={isPrinting ? 'Cutter' : 'Machine'} />
              <Misfits misfits={misfitsWith({ cuts: true, prints: isPrinting, machine, printer, sheets })} sheets={sheets} />
            </Part>
          </Outgoing>
        </aside>
      </div>
    </>
  );
}

export const station: StationParts = { View: SendStation };
