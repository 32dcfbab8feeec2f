/** How a machine is. */
import type { Machine } from '@lorvek/model';
import { Loader2, PlugZap } from 'lucide-react';
import { useMachineReport } from '../../api/machine-report.ts';
import { Notice } from '../../ui/card.tsx';

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
