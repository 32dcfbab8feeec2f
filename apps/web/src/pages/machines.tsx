/** Machines: address, state, tool setups. */
import type { Machine, MachineKind, TraySheet, MachineChange, NewMachine, ToolSetup } from '@lorvek/model';
import { Copy, Plus, Trash2 } from 'lucide-react';
import { useEffect, useState } from 'react';
import { api } from '../api/client.ts';
import { useMachineReport } from '../api/machine-report.ts';
import { loadMachines, useShop } from '../api/shop.ts';
import { newId } from '../document/store.ts';
import { Button, IconButton } from '../ui/button.tsx';
import { Pick } from '../ui/choices.tsx';
import { Dialog } from '../ui/dialog.tsx';
import { LengthField, NumberField } from '../ui/fields.tsx';
import { tellFailure } from '../ui/tell.ts';
import { Empty, ShopPage } from './shop-page.tsx';

const change = (id: string, fields: MachineChange): void => void api.changeMachine(id, fields).then(loadMachines).catch(tellFailure);

function TextCell({ label, value, onChange }: { label: string; value: string; onChange(text: string): void }) {
  return (
    <input
      key={value}
      aria-label={label}
      defaultValue={value}
      onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
      onBlur={(event) => event.target.value !== value && onChange(event.target.value)}
      className="h-7 w-full min-w-0 border border-line-strong bg-sheet px-2"
    />
  );
}

function SetupRow({ machine, setup }: { machine: Machine; setup: ToolSetup }) {
  const set = (fields: Partial<ToolSetup>): void =>
    change(machine.id, { setups: machine.setups.map((s) => (s.id === setup.id ? { ...s, ...fields } : s)) });
  const stored = setup.sends === 'stored';
  return (
    <tr className="border-b last:border-b-0">
      <td className="p-1.5">
        <TextCell label="Name of the setup" value={setup.name} onChange={(name) => set({ name })} />
      </td>
      <td className="w-44 p-1.5">
        <Pick
          label="Sends"
          hideLabel
          value={setup.sends}
          options={[
            { value: 'values', text: 'Our values' },
            { value: 'stored', text: 'Stored on machine' },
          ]}
          onChange={(sends) => set({ sends })}
        />
      </td>
      <td className="w-20 p-1.5">
        <NumberField label="Tool number" short="" value={setup.tool} decimals={0} min={1} max={8} onChange={(tool) => set({ tool })} />
      </td>
      <td className="w-32 p-1.5">
        <NumberField
          label="Speed"
          short=""
          value={setup.speedMmPerS}
          suffix="mm/s"
          min={10}
          max={1500}
          step={10}
          disabled={stored}
          onChange={(speedMmPerS) => set({ speedMmPerS })}
        />
      </td>
      <td className="w-24 p-1.5">
        <NumberField
          label="Force"
          short=""
          value={setup.forceGrams}
          suffix="g"
          min={5}
          max={1000}
          step={5}
          disabled={stored}
          onChange={(forceGrams) => set({ forceGrams })}
        />
      </td>
      <td className="w-16 p-1.5">
        <NumberField label="Passes" short="" value={setup.passes} decimals={0} min={1} max={5} onChange={(passes) => set({ passes })} />
      </td>
      <td className="w-28 p-1.5">
        <LengthField
          label="Blade offset"
          short=""
          mm={setup.bladeOffsetMm}
          unit="mm"
          minMm={0}
          onChange={(bladeOffsetMm) => set({ bladeOffsetMm })}
        />
      </td>
      <td className="w-28 p-1.5">
        <LengthField label="Overcut" short="" mm={setup.overcutMm} unit="mm" minMm={0} onChange={(overcutMm) => set({ overcutMm })} />
      </td>
      <td className="w-36 p-1.5">
        <Pick
          label="Corners are turned by"
          hideLabel
          value={setup.corners}
          options={[
            { value: 'machine', text: 'the machine' },
            { value: 'file', text: 'the file' },
          ]}
          onChange={(corners) => set({ corners })}
        />
      </td>
      <td className="p-1.5">
        <IconButton
          label={`Remove ${setup.name}`}
          disabled={machine.setups.length < 2}
          onClick={() => change(machine.id, { setups: machine.setups.filter((s) => s.id !== setup.id) })}
        >
          <Trash2 size={15} />
        </IconButton>
      </td>
    </tr>
  );
}

const fieldsOf = ({ id: _id, ...fields }: Machine): NewMachine => fields;

const KINDS: Record<MachineKind, string> = {
  cutter: 'Cutter',
  'camera-cutter': 'Cutter with a camera',
  printer: 'Wide printer',
  'desk-printer': 'Desk printer',
};

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

/** Printed sheets in the tray; those of a camera cutter can be put in. */
function TrayRow({ machine }: { machine: Machine }) {
  const [tray, setTray] = useState<readonly TraySheet[]>();
  useEffect(() => void api.tray(machine.id).then(setTray, () => setTray([])), [machine.id]);
  const load = (sheet: string): void => void api.loadSheet(machine.id, sheet, false).then(setTray).catch(tellFailure);
  if (machine.kind === 'cutter') return null;
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

function SetupTable({ machine }: { machine: Machine }) {
  const last = machine.setups.at(-1);
  return (
    <>
      <table className="w-full">
        <thead>
          <tr className="rule-label border-b text-left">
            {['Tool setup', 'Sends', 'Tool', 'Speed', 'Force', 'Passes', 'Blade offset', 'Overcut', 'Corners by', ''].map((head) => (
              <th key={head} className="p-1.5 font-semibold">
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {machine.setups.map((setup) => (
            <SetupRow key={setup.id} machine={machine} setup={setup} />
          ))}
        </tbody>
      </table>
      <div className="px-2 py-2">
        <Button
          size="small"
          onClick={() =>
            last &&
            change(machine.id, { setups: [...machine.setups, { ...last, id: newId('setup'), name: `${last.name}, another`.slice(0, 60) }] })
          }
        >
          <Plus size={13} /> Tool setup
        </Button>
      </div>
    </>
  );
}

function MachinePanel({ machine }: { machine: Machine }) {
  const report = useMachineReport(machine);
  const [leaving, setLeaving] = useState(false);
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
      <div className="flex items-center gap-4 border-b px-3 py-2">
        <label className="flex w-64 items-center gap-2">
          <span className="rule-label">Address</span>
          <TextCell label="Address" value={machine.host} onChange={(host) => change(machine.id, { host })} />
        </label>
        <div className="w-32">
          <NumberField
            label="Port"
            value={machine.port}
            decimals={0}
            min={1}
            max={65535}
            onChange={(port) => change(machine.id, { port })}
          />
        </div>
        <div className="w-52">
          <Pick
            label="Kind"
            value={machine.kind}
            options={(Object.keys(KINDS) as MachineKind[])
              .filter((kind) => (kind === 'printer') === (machine.kind === 'printer'))
              .map((kind) => ({ value: kind, text: KINDS[kind] }))}
            onChange={(kind) => change(machine.id, { kind: kind as MachineKind })}
          />
        </div>
        <div className="w-44">
          <LengthField
            label={machine.kind === 'printer' ? 'Printing width' : 'Cutting width'}
            mm={machine.widthMm}
            unit="mm"
            minMm={10}
            onChange={(widthMm) => change(machine.id, { widthMm })}
          />
        </div>
      </div>
      {machine.kind === 'printer' ? null : <SetupTable machine={machine} />}
      <TrayRow machine={machine} />
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
            <Plus size={15} /> Printer
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
