/** The tool setups of a cutter: what is sent, or which stored one is selected. */
import type { Machine, ToolSetup } from '@lorvek/model';
import { Plus, Trash2 } from 'lucide-react';
import { newId } from '../../document/store.ts';
import { Button, IconButton } from '../../ui/button.tsx';
import { Pick } from '../../ui/choices.tsx';
import { LengthField, NumberField } from '../../ui/fields.tsx';
import { TextCell } from '../../ui/text-cell.tsx';
import { change } from './change.ts';

function SetupRow({ machine, setup }: { machine: Machine; setup: ToolSetup }) {
  const set = (fields: Partial<ToolSetup>): void =>
    change(machine.id, { setups: machine.setups.map((s) => (s.id === setup.id ? { ...s, ...fields } : s)) });
  const stored = setup.sends === 'stored';
  return (
    <tr className="border-b last:border-b-0">
      <td className="min-w-40 p-1.5">
        <TextCell label="Name of the setup" value={setup.name} onChange={(name) => set({ name })} />
      </td>
      <td className="w-40 p-1.5">
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
      <td className="w-16 p-1.5">
        <NumberField label="Tool number" short="" value={setup.tool} decimals={0} min={1} max={8} onChange={(tool) => set({ tool })} />
      </td>
      <td className="w-28 p-1.5">
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
      <td className="w-20 p-1.5">
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
      <td className="w-24 p-1.5">
        <LengthField
          label="Blade offset"
          short=""
          mm={setup.bladeOffsetMm}
          unit="mm"
          minMm={0}
          onChange={(bladeOffsetMm) => set({ bladeOffsetMm })}
        />
      </td>
      <td className="w-24 p-1.5">
        <LengthField label="Overcut" short="" mm={setup.overcutMm} unit="mm" minMm={0} onChange={(overcutMm) => set({ overcutMm })} />
      </td>
      <td className="w-32 p-1.5">
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
      <td className="w-36 p-1.5">
        <Pick
          label="A contour begins"
          hideLabel
          value={setup.entry ?? 'node'}
          options={[
            { value: 'node', text: 'at a node' },
            { value: 'straight', text: 'on a straight run' },
          ]}
          onChange={(entry) => set({ entry })}
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

export function SetupTable({ machine }: { machine: Machine }) {
  const last = machine.setups.at(-1);
  return (
    <>
      <table className="w-full">
        <thead>
          <tr className="rule-label border-b text-left">
            {['Tool setup', 'Sends', 'Tool', 'Speed', 'Force', 'Passes', 'Blade offset', 'Overcut', 'Corners by', 'Begins', ''].map(
              (head) => (
                <th key={head} className="p-1.5 font-semibold">
                  {head}
                </th>
              ),
            )}
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
