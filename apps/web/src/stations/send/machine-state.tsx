/** How a machine is, and what its tool setup says. */
import { pageOf, type Machine, type ToolSetup } from '@lorvek/model';
import { describeLength } from '@lorvek/core/units';
import { Loader2, PlugZap } from 'lucide-react';
import { useMachineReport } from '../../api/machine-report.ts';
import { useDocument } from '../../document/store.ts';
import { Figure, Notice } from '../../ui/card.tsx';

export function MachineState({ machine }: { machine: Machine }) {
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

export function SetupFigures({ setup }: { setup: ToolSetup }) {
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
