/** How a machine is, asked again every few seconds. */
import { describePlace, type Machine, type MachineReport } from '@lorvek/model';
import { useEffect, useState } from 'react';
import { api, sentenceOf } from './client.ts';

const EVERY_MS = 4000;

/** @returns undefined until the machine has been asked */
export function useMachineReport(machine: Pick<Machine, 'id' | 'host' | 'port' | 'connection'>): MachineReport | undefined {
  const { id } = machine;
  const place = describePlace(machine);
  const [report, setReport] = useState<MachineReport>();
  useEffect(() => {
    let current = true;
    const look = (): void =>
      void api
        .askMachine(id)
        .then((answer) => current && setReport(answer))
        // what it said last may not be so any more
        .catch((error: unknown) => current && setReport({ reachable: false, text: sentenceOf(error) }));
    setReport(undefined);
    look();
    const timer = setInterval(look, EVERY_MS);
    return () => {
      current = false;
      clearInterval(timer);
    };
    // asked anew as soon as it is somewhere else
  }, [id, place]);
  return report;
}
