/** Which machines the work goes to: those chosen last on this computer, while they will do. */
import { printsOf, type Machine } from '@lorvek/model';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { useState } from 'react';
import { machineFor } from './outgoing-rules.ts';

const CHOICE_KEY = 'lorvek.machine';
const PRINTER_KEY = 'lorvek.printer';

/** The machine of a kind: chosen here, or last on this computer. */
function useMachine(key: string, machines: readonly Machine[] | undefined, sheets: readonly SheetPlan[]) {
  const [chosen, setChosen] = useState(() => ({ words: localStorage.getItem(key)?.split('/') ?? [], isHere: false }));
  const [id, setupId] = chosen.words;
  const choose = (machineId: string, setup?: string): void => {
    const words = setup === undefined ? [machineId] : [machineId, setup];
    setChosen({ words, isHere: true });
    localStorage.setItem(key, words.join('/'));
  };
  return { machine: machineFor(machines ?? [], sheets, { id, isHere: chosen.isHere }), setupId, choose };
}

/** The cutter and the setup of its tool. */
export function useChoice(all: readonly Machine[] | undefined, sheets: readonly SheetPlan[]) {
  const machines = all?.filter((one) => !printsOf(one));
  const { machine, setupId, choose } = useMachine(CHOICE_KEY, machines, sheets);
  const suggested =
    sheets.length > 0 && sheets.every(({ layer }) => layer.type === 'film' && layer.transfer)
      ? machine?.setups.find((s) => s.id === 'transfer')
      : undefined;
  const setup = machine?.setups.find((s) => s.id === setupId) ?? suggested ?? machine?.setups[0];
  return { machine, machines, setup, choose };
}

export function usePrinter(all: readonly Machine[] | undefined, sheets: readonly SheetPlan[]) {
  const printers = all?.filter(printsOf) ?? [];
  const { machine, choose } = useMachine(PRINTER_KEY, printers, sheets);
  return { printer: machine, printers, choose };
}

export type Choice = ReturnType<typeof useChoice>;
export type Printing = ReturnType<typeof usePrinter>;
