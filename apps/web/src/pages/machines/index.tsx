/** Machines: address, state, tool setups. */
import { printsOf, type Machine, type NewMachine, type TraySheet } from '@lorvek/model';
import { Copy, Plus, Trash2, Wrench } from 'lucide-react';
import { useEffect, useState } from 'react';
import { api } from '../../api/client.ts';
import { useMachineReport } from '../../api/machine-report.ts';
import { loadMachines, useShop } from '../../api/shop.ts';
import { newId } from '../../document/store.ts';
import { Button, IconButton } from '../../ui/button.tsx';
import { Dialog } from '../../ui/dialog.tsx';
import { tellFailure } from '../../ui/tell.ts';
import { BenchDialog } from './bench-dialog.tsx';
import { TextCell } from '../../ui/text-cell.tsx';
import { change } from './change.ts';
import { ColourRules } from './colour-rules.tsx';
import { MachineFields } from './machine-fields.tsx';
import { SetupTable } from './setup-table.tsx';
import { Empty, ShopPage } from '../shop-page.tsx';

const fieldsOf = ({ id: _id, ...fields }: Machine): NewMachine => fields;

const add = (machine: NewMachine): void => void api.addMachine(machine).then(loadMachines).catch(tellFailure);

/** A cutter as it begins: on the usual port of such machines, with one setup of usual values. */
const usualCutter = (): NewMachine => ({
  kind: 'cutter',
  name: 'New cutter',
  host: '127.0.0.1',
  port: 9100,
  reportPort: null,
  widthMm: 610,
  setups: [
    {
      id: newId('setup'),
      name: 'Sign film',
      sends: 'values',
      tool: 1,
      speedMmPerS: 300,
      forceGrams: 90,
      passes: 1,
      bladeOffsetMm: 0.25,
      overcutMm: 0,
      corners: 'machine',
    },
  ],
});

/** A printer as it begins: on the usual port of such machines. */
const usualPrinter = (): NewMachine => ({
  kind: 'printer',
  name: 'New printer',
  host: '127.0.0.1',
  port: 9100,
  reportPort: null,
  widthMm: 1600,
  setups: [],
});

/** A desk printer as it begins: on the port that such printers listen on. */
const usualDeskPrinter = (): NewMachine => ({ ...usualPrinter(), kind: 'desk-printer', name: 'New desk printer', port: 631, widthMm: 216 });

/** Printed sheets in the tray; those of a camera cutter can be put in. */
function TrayRow({ machine }: { machine: Machine }) {
  const [tray, setTray] = useState<readonly TraySheet[]>();
  useEffect(() => void api.tray(machine.id).then(setTray, () => setTray([])), [machine.id]);
  const load = (sheet: string): void => void api.loadSheet(machine.id, sheet, false).then(setTray).catch(tellFailure);
  if (machine.kind === 'cutter' || machine.kind === 'desk-printer') return null;
  return (
    <div className="flex flex-wrap items-center gap-2 border-t px-3 py-2 text-[13px]">
      <span className="rule-label">{machine.kind === 'printer' ? 'In its tray' : 'Printed sheets'}</span>
      {tray === undefined ? <span className="text-ink-soft">Asking…</span> : null}
      {tray?.length === 0 ? <span className="text-ink-soft">None that it tells of.</span> : null}
      {(tray ?? []).slice(0, 6).map((sheet) => (
        <span key={sheet.id} className="flex items-center gap-1.5 border border-line-strong px-1.5 py-0.5">
          {sheet.name}
          {machine.kind === 'camera-cutter' ? (
            sheet.loaded ? (
              <span className="text-teal">in the cutter</span>
            ) : (
              <Button size="small" onClick={() => load(sheet.id)}>
                Put it in
              </Button>
            )
          ) : null}
        </span>
      ))}
    </div>
  );
}

function MachinePanel({ machine }: { machine: Machine }) {
  const report = useMachineReport(machine);
  const [leaving, setLeaving] = useState(false);
  const [atBench, setAtBench] = useState(false);
  return (
    <section className="panel">
      <div className="flex items-center gap-3 border-b px-3 py-2">
        <h2 className="w-64 text-base font-semibold">
          <TextCell label="Name of the machine" value={machine.name} onChange={(name) => change(machine.id, { name })} />
        </h2>
        <span
          className={`border px-2 text-xs leading-5 ${report?.reachable ? 'border-teal text-teal' : 'border-amber text-amber'}`}
          role="status"
        >
          {report ? (report.reachable ? 'Ready' : 'No answer') : 'Asking…'}
        </span>
        <span className="flex-1 truncate text-[13px] text-ink-soft">{report && !report.reachable ? report.text : ''}</span>
        <Button size="small" onClick={() => setAtBench(true)}>
          <Wrench size={13} /> At the machine
        </Button>
        <IconButton
          label={`Copy ${machine.name}`}
          onClick={() => add({ ...fieldsOf(machine), name: `${machine.name}, another`.slice(0, 80) })}
        >
          <Copy size={15} />
        </IconButton>
        <IconButton label={`Take ${machine.name} away`} onClick={() => setLeaving(true)}>
          <Trash2 size={15} />
        </IconButton>
      </div>
      <MachineFields machine={machine} />
      {printsOf(machine) ? <ColourRules machine={machine} /> : null}
      {printsOf(machine) ? null : <SetupTable machine={machine} />}
      <TrayRow machine={machine} />
      {atBench ? <BenchDialog machine={machine} onClose={() => setAtBench(false)} /> : null}
      {leaving ? (
        <Dialog
          open
          title={`Take ${machine.name} away?`}
          text="Its address and its tool setups go with it. What it has cut stays in the Queue."
          onClose={() => setLeaving(false)}
        >
          <div className="flex justify-end gap-2">
            <Button onClick={() => setLeaving(false)}>Leave it</Button>
            <Button
              look="stop"
              onClick={() => {
                setLeaving(false);
                void api.removeMachine(machine.id).then(loadMachines).catch(tellFailure);
              }}
            >
              Take it away
            </Button>
          </div>
        </Dialog>
      ) : null}
    </section>
  );
}

export function MachinesPage() {
  const machines = useShop((state) => state.machines);
  return (
    <ShopPage
      title="Machines"
      actions={
        <>
          <Button look="main" onClick={() => add(usualCutter())}>
            <Plus size={15} /> Cutter
          </Button>
          <Button onClick={() => add(usualPrinter())}>
            <Plus size={15} /> Wide printer
          </Button>
          <Button onClick={() => add(usualDeskPrinter())}>
            <Plus size={15} /> Desk printer
          </Button>
        </>
      }
    >
      {machines?.length === 0 ? (
        <Empty title="No machine is set up">
          <p className="text-ink-soft">Add a cutter, then say at which address it listens. It is asked at once whether it is there.</p>
        </Empty>
      ) : null}
      <div className="flex flex-col gap-5">
        {(machines ?? []).map((machine) => (
          <MachinePanel key={machine.id} machine={machine} />
        ))}
      </div>
    </ShopPage>
  );
}
