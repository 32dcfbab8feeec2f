/** Machines: address, state, tool setups. */
import type { Machine, MachineChange, ToolSetup } from '@lorvek/model';
import { Plus, Trash2 } from 'lucide-react';
import { toast } from 'sonner';
import { api, sentenceOf } from '../api/client.ts';
import { useMachineReport } from '../api/machine-report.ts';
import { loadMachines, useShop } from '../api/shop.ts';
import { newId } from '../document/store.ts';
import { Button, IconButton } from '../ui/button.tsx';
import { Pick } from '../ui/choices.tsx';
import { LengthField, NumberField } from '../ui/fields.tsx';
import { Empty, ShopPage } from './shop-page.tsx';

const change = (id: string, fields: MachineChange): void =>
  void api
    .changeMachine(id, fields)
    .then(loadMachines)
    .catch((error: unknown) => toast.error(sentenceOf(error)));

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

function MachinePanel({ machine }: { machine: Machine }) {
  const report = useMachineReport(machine);
  const last = machine.setups.at(-1);
  return (
    <section className="panel">
      <div className="flex items-center gap-3 border-b px-3 py-2">
        <h2 className="text-base font-semibold">{machine.name}</h2>
        <span
          className={`border px-2 text-xs leading-5 ${report?.reachable ? 'border-teal text-teal' : 'border-amber text-amber'}`}
          role="status"
        >
          {report ? (report.reachable ? 'Ready' : 'No answer') : 'Asking…'}
        </span>
        <span className="text-[13px] text-ink-soft">{report && !report.reachable ? report.text : ''}</span>
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
        <div className="w-44">
          <LengthField
            label="Cutting width"
            mm={machine.widthMm}
            unit="mm"
            minMm={10}
            onChange={(widthMm) => change(machine.id, { widthMm })}
          />
        </div>
      </div>
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
    </section>
  );
}

export function MachinesPage() {
  const machines = useShop((state) => state.machines);
  return (
    <ShopPage title="Machines">
      {machines?.length === 0 ? (
        <Empty title="No machine is set up">
          <p className="text-ink-soft">Start the demo with its simulated cutters: npm run demo.</p>
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
