/** Which machines the work goes to: those chosen last on this computer, while they will do. */
import { printsOf, type Machine } from '@lorvek/model';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { useState } from 'react';

const CHOICE_KEY = 'lorvek.machine';
const PRINTER_KEY = 'lorvek.printer';

/** The cutter and the setup of its tool. */
export function useChoice(all: readonly Machine[] | undefined, sheets: readonly SheetPlan[]) {
  const [choice, setChoice] = useState(() => localStorage.getItem(CHOICE_KEY)?.split('/') ?? []);
  const machines = all?.filter((one) => !printsOf(one));
  // marks are found by a camera: of machines that nobody chose the first that has one
  const seeing = sheets.some(({ marks }) => marks.length > 0) ? machines?.find(({ kind }) => kind === 'camera-cutter') : undefined;
  const machine = machines?.find((m) => m.id === choice[0] && (!seeing || m.kind === 'camera-cutter')) ?? seeing ?? machines?.[0];
  const suggested =
    sheets.length > 0 && sheets.every(({ layer }) => layer.type === 'film' && layer.transfer)
      ? machine?.setups.find((s) => s.id === 'transfer')
      : undefined;
  const setup = machine?.setups.find((s) => s.id === choice[1]) ?? suggested ?? machine?.setups[0];
  const choose = (machineId: string, setupId: string): void => {
    setChoice([machineId, setupId]);
    localStorage.setItem(CHOICE_KEY, `${machineId}/${setupId}`);
  };
  return { machine, machines, setup, choose };
}

export function usePrinter(all: readonly Machine[] | undefined) {
  const [chosen, setChosen] = useState(() => localStorage.getItem(PRINTER_KEY));
  const printers = all?.filter(printsOf) ?? [];
  const choose = (id: string): void => {
    setChosen(id);
    localStorage.setItem(PRINTER_KEY, id);
  };
  return { printer: printers.find(({ id }) => id === chosen) ?? printers[0], printers, choose };
}

export type Choice = ReturnType<typeof useChoice>;
export type Printing = ReturnType<typeof usePrinter>;
