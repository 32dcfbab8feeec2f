/** How a machine is, asked again every few seconds. */
import type { Machine, MachineReport } from '@lorvek/model';
import { useEffect, useState } from 'react';
import { api, sentenceOf } from './client.ts';

const EVERY_MS = 4000;

/** @returns undefined until the machine has been asked */
export function useMachineReport({ id, host, port }: Pick<Machine, 'id' | 'host' | 'port'>): MachineReport | undefined {
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
  }, [id, host, port]);
  return report;
}
