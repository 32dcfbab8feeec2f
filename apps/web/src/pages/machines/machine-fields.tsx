/** How a machine is reached, how wide and long it takes material, which marks it finds. */
import { MARK_KINDS, printsOf, type Connection, type Machine, type MachineKind, type MarkKind } from '@lorvek/model';
import { Switch } from '../../ui/choices.tsx';
import { Pick } from '../../ui/pick.tsx';
import { LengthField, NumberField } from '../../ui/fields.tsx';
import { TextCell } from '../../ui/text-cell.tsx';
import { change } from './change.ts';

const KINDS: Record<MachineKind, string> = {
  cutter: 'Cutter',
  'camera-cutter': 'Cutter with a camera',
  printer: 'Wide printer',
  'desk-printer': 'Desk printer',
};
const BY: Record<Connection['by'], string> = { network: 'the network', serial: 'a serial line', device: 'a device file' };
const FRESH: Record<Connection['by'], Connection> = {
  network: { by: 'network' },
  serial: { by: 'serial', path: '/dev/ttyUSB0', baud: 9600, flow: 'rts-cts', answers: true },
  device: { by: 'device', path: '/dev/usb/lp0', answers: false },
};
const BAUDS = [1200, 2400, 4800, 9600, 19_200, 38_400, 57_600, 115_200];
const FLOWS = { none: 'none', 'xon-xoff': 'XON/XOFF', 'rts-cts': 'RTS/CTS' } as const;
export const MARK_NAMES: Record<MarkKind, string> = {
  'corners-in': 'corners inward',
  'corners-out': 'corners outward',
  dots: 'dots',
  crosses: 'crosses',
};

function ConnectionFields({ machine }: { machine: Machine }) {
  const connection = machine.connection ?? FRESH.network;
  const set = (next: Connection): void => change(machine.id, { connection: next });
  if (connection.by === 'network')
    return (
      <>
        <label className="flex w-44 flex-col gap-1">
          <span className="rule-label">Address</span>
          <TextCell tall label="Address" value={machine.host} onChange={(host) => change(machine.id, { host })} />
        </label>
        <div className="w-24">
          <NumberField
            label="Port"
            above
            value={machine.port}
            decimals={0}
            min={1}
            max={65535}
            onChange={(port) => change(machine.id, { port })}
          />
        </div>
      </>
    );
  return (
    <>
      <label className="flex w-52 flex-col gap-1">
        <span className="rule-label">Device</span>
        <TextCell tall label="Device" value={connection.path} onChange={(path) => set({ ...connection, path })} />
      </label>
      {connection.by === 'serial' ? (
        <>
          <div className="w-32">
            <Pick
              label="Speed"
              value={String(connection.baud)}
              options={BAUDS.map((baud) => ({ value: String(baud), text: `${baud} baud` }))}
              onChange={(baud) => set({ ...connection, baud: Number(baud) })}
            />
          </div>
          <div className="w-32">
            <Pick
              label="Flow control"
              value={connection.flow}
              options={(Object.keys(FLOWS) as (keyof typeof FLOWS)[]).map((flow) => ({ value: flow, text: FLOWS[flow] }))}
              onChange={(flow) => set({ ...connection, flow })}
            />
          </div>
        </>
      ) : null}
      <Switch label="It answers" checked={connection.answers} onChange={(answers) => set({ ...connection, answers })} />
    </>
  );
}

/** Which kinds of registration marks its camera finds. */
function MarkFields({ machine }: { machine: Machine }) {
  const reads = new Set<MarkKind>(machine.readsMarks ?? MARK_KINDS);
  const toggle = (kind: MarkKind): void => {
    const next = MARK_KINDS.filter((one) => (one === kind ? !reads.has(kind) : reads.has(one)));
    change(machine.id, { readsMarks: next.length === MARK_KINDS.length ? null : next });
  };
  return (
    <fieldset className="flex flex-wrap items-center gap-3 border-b px-3 py-2 text-[13px]">
      <legend className="rule-label float-left mr-3 leading-6">Its camera finds</legend>
      {MARK_KINDS.map((kind) => (
        <label key={kind} className="flex items-center gap-1.5">
          <input type="checkbox" checked={reads.has(kind)} onChange={() => toggle(kind)} className="accent-teal" /> {MARK_NAMES[kind]}
        </label>
      ))}
      <span className="ml-auto text-ink-soft">
        {machine.calibration
          ? `Camera ${machine.calibration.dx.toFixed(2)}, ${machine.calibration.dy.toFixed(2)} mm beside the tool${machine.calibration.checked ? ', checked' : ', not checked yet'}`
          : 'Where its camera looks was never measured'}
      </span>
    </fieldset>
  );
}

/** How wide and how long it works, and what a printer uses. */
function SizeFields({ machine }: { machine: Machine }) {
  const prints = printsOf(machine);
  return (
    <>
      <div className="w-32">
        <LengthField
          label={prints ? 'Printing width' : 'Cutting width'}
          above
          mm={machine.widthMm}
          unit="mm"
          minMm={10}
          onChange={(widthMm) => change(machine.id, { widthMm })}
        />
      </div>
      {machine.kind === 'desk-printer' ? null : (
        <div className="w-32">
          <LengthField
            label="Longest sheet"
            hint="Left blank, or 0: as long as the roll is"
            above
            unsaid="as the roll"
            mm={machine.lengthMm ?? 0}
            unit="mm"
            minMm={0}
            onChange={(mm) => change(machine.id, { lengthMm: mm >= 10 ? mm : null })}
          />
        </div>
      )}
      {prints ? (
        <div className="w-36">
          <NumberField
            label="Ink of a full cover"
            short="Ink, full cover"
            above
            unsaid="not known"
            value={machine.inkMlPerM2 ?? 0}
            suffix="ml/m²"
            min={0}
            max={200}
            decimals={1}
            onChange={(ml) => change(machine.id, { inkMlPerM2: ml >= 0.1 ? ml : null })}
          />
        </div>
      ) : null}
    </>
  );
}

export function MachineFields({ machine }: { machine: Machine }) {
  const prints = printsOf(machine);
  return (
    <>
      <div className="flex flex-wrap items-end gap-x-4 gap-y-2 border-b px-3 py-2">
        <div className="w-44">
          <Pick
            label="Kind"
            value={machine.kind}
            options={(Object.keys(KINDS) as MachineKind[])
              .filter((kind) => printsOf({ kind }) === prints)
              .map((kind) => ({ value: kind, text: KINDS[kind] }))}
            onChange={(kind) => change(machine.id, { kind })}
          />
        </div>
        {machine.kind === 'desk-printer' ? null : (
          <div className="w-36">
            <Pick
              label="Reached by"
              value={machine.connection?.by ?? 'network'}
              options={(Object.keys(BY) as Connection['by'][]).map((by) => ({ value: by, text: BY[by] }))}
              onChange={(by) => change(machine.id, { connection: FRESH[by] })}
            />
          </div>
        )}
        <ConnectionFields machine={machine} />
        <SizeFields machine={machine} />
      </div>
      {machine.kind === 'camera-cutter' ? <MarkFields machine={machine} /> : null}
    </>
  );
}
