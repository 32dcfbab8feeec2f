/** The tool setups of a cutter: what is sent, or which stored one is selected. */
import type { Machine, ToolSetup } from '@lorvek/model';
import { Plus, Trash2 } from 'lucide-react';
import type { ReactNode } from 'react';
import { newId } from '../../document/store.ts';
import { Button, IconButton } from '../../ui/button.tsx';
import { Pick } from '../../ui/pick.tsx';
import { LengthField, NumberField } from '../../ui/fields.tsx';
import { TextCell } from '../../ui/text-cell.tsx';
import { change } from './change.ts';

interface CellProps {
  readonly setup: ToolSetup;
  set(fields: Partial<ToolSetup>): void;
}

interface Column {
  readonly head: string;
  readonly width: string;
  readonly cell: (props: CellProps) => ReactNode;
}

type NumberKey = 'tool' | 'speedMmPerS' | 'forceGrams' | 'passes';
type LengthKey = 'bladeOffsetMm' | 'overcutMm';
type ChoiceKey = 'sends' | 'corners' | 'entry';

interface NumberRange {
  readonly label: string;
  readonly min: number;
  readonly max: number;
  readonly suffix?: string;
  readonly step?: number;
  readonly decimals?: number;
  /** A setup that is stored on the machine has its own. */
  readonly ours?: boolean;
}

const number =
  (key: NumberKey, { ours = false, ...range }: NumberRange): Column['cell'] =>
  ({ setup, set }) => (
    <NumberField
      {...range}
      short=""
      value={setup[key]}
      disabled={ours && setup.sends === 'stored'}
      onChange={(value) => set({ [key]: value })}
    />
  );

const length =
  (key: LengthKey, label: string): Column['cell'] =>
  ({ setup, set }) => <LengthField label={label} short="" mm={setup[key]} unit="mm" minMm={0} onChange={(mm) => set({ [key]: mm })} />;

const choice =
  <K extends ChoiceKey>(
    key: K,
    label: string,
    usual: NonNullable<ToolSetup[K]>,
    options: readonly { readonly value: NonNullable<ToolSetup[K]>; readonly text: string }[],
  ): Column['cell'] =>
  ({ setup, set }) => (
    <Pick label={label} hideLabel value={setup[key] ?? usual} options={options} onChange={(value) => set({ [key]: value })} />
  );

const COLUMNS: readonly Column[] = [
  {
    head: 'Tool setup',
    width: 'min-w-40',
    cell: ({ setup, set }) => <TextCell label="Name of the setup" value={setup.name} onChange={(name) => set({ name })} />,
  },
  {
    head: 'Sends',
    width: 'w-40',
    cell: choice('sends', 'Sends', 'values', [
      { value: 'values', text: 'Our values' },
      { value: 'stored', text: 'Stored on machine' },
    ]),
  },
  { head: 'Tool', width: 'w-16', cell: number('tool', { label: 'Tool number', min: 1, max: 8, decimals: 0 }) },
  {
    head: 'Speed',
    width: 'w-28',
    cell: number('speedMmPerS', { label: 'Speed', suffix: 'mm/s', min: 10, max: 1500, step: 10, ours: true }),
  },
  { head: 'Force', width: 'w-20', cell: number('forceGrams', { label: 'Force', suffix: 'g', min: 5, max: 1000, step: 5, ours: true }) },
  { head: 'Passes', width: 'w-16', cell: number('passes', { label: 'Passes', min: 1, max: 5, decimals: 0 }) },
  { head: 'Blade offset', width: 'w-24', cell: length('bladeOffsetMm', 'Blade offset') },
  { head: 'Overcut', width: 'w-24', cell: length('overcutMm', 'Overcut') },
  {
    head: 'Corners by',
    width: 'w-32',
    cell: choice('corners', 'Corners are turned by', 'machine', [
      { value: 'machine', text: 'the machine' },
      { value: 'file', text: 'the file' },
    ]),
  },
  {
    head: 'Begins',
    width: 'w-36',
    cell: choice('entry', 'A contour begins', 'node', [
      { value: 'node', text: 'at a node' },
      { value: 'straight', text: 'on a straight run' },
    ]),
  },
];

function SetupRow({ machine, setup }: { machine: Machine; setup: ToolSetup }) {
  const set = (fields: Partial<ToolSetup>): void =>
    change(machine.id, { setups: machine.setups.map((s) => (s.id === setup.id ? { ...s, ...fields } : s)) });
  return (
    <tr className="border-b last:border-b-0">
      {COLUMNS.map(({ head, width, cell }) => (
        <td key={head} className={`${width} p-1.5`}>
          {cell({ setup, set })}
        </td>
      ))}
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
            {[...COLUMNS.map(({ head }) => head), ''].map((head) => (
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
