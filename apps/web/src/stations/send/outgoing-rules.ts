/** What goes out, in words, and why it cannot yet. */
import type { Machine } from '@lorvek/model';
import { misfitsOf, type Misfit } from '@lorvek/model/machine-fit';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { workingText } from '../../frame/findings.tsx';
import { several } from '../../ui/several.ts';

/** What of the sheets goes out. */
export type WhatGoes = 'both' | 'print' | 'cut';

/** What the button will do, in words: it does just that. */
export function describeOrder(
  sheets: readonly SheetPlan[],
  what: WhatGoes,
  printer: Machine | undefined,
  cutter: Machine | undefined,
): string {
  const prints = sheets.filter(({ print }) => print && what !== 'cut');
  const cuts = sheets.filter(({ lines }) => lines.length > 0 && what !== 'print');
  const waiting = cuts.filter((sheet) => prints.includes(sheet));
  const direct = cuts.filter((sheet) => !waiting.includes(sheet));
  const parts = [
    prints.length > 0 && printer ? `Print ${several(prints.length, 'sheet')} on ${printer.name}` : '',
    waiting.length > 0 && cutter ? `hold ${several(waiting.length, 'cut run')} for ${waiting.length === 1 ? 'it' : 'them'}` : '',
    direct.length > 0 && cutter ? `${prints.length > 0 ? 'cut' : 'Cut'} ${several(direct.length, 'sheet')} on ${cutter.name}` : '',
  ].filter(Boolean);
  return parts.join(', ') || 'Nothing to send';
}

/** Minutes and seconds; at least a second. */
export const timeText = (seconds: number): string =>
  seconds < 60 ? `${Math.max(1, Math.round(seconds))} s` : `${Math.floor(seconds / 60)} min ${Math.round(seconds % 60)} s`;

export interface Means {
  readonly cuts: boolean;
  readonly prints: boolean;
  readonly machine: Machine | undefined;
  readonly printer: Machine | undefined;
  readonly sheets: readonly SheetPlan[];
}

/** Sheets on their machines: what is in the way. */
export function misfitsWith({ cuts, prints, machine, printer, sheets }: Means): Misfit[] {
  const of = (sheet: SheetPlan, on: Machine): Misfit[] =>
    misfitsOf(
      {
        title: `${sheet.layer.series} ${sheet.layer.name}`,
        widthMm: sheet.material.widthMm,
        lengthMm: sheet.usedLengthMm,
        marks: sheet.marks.length > 0 ? (sheet.markSettings?.marks.kind ?? null) : null,
      },
      on,
    );
  const all = sheets.flatMap((sheet) => [
    ...(prints && printer && sheet.print ? of(sheet, printer) : []),
    ...(cuts && machine && sheet.lines.length > 0 ? of(sheet, machine) : []),
  ]);
  // the same for every sheet of a film is said once
  return all.filter(({ text }, i) => all.findIndex((other) => other.text === text) === i);
}

/** Why the machines cannot do it. */
export function whyNot(means: Means): string | undefined {
  const { cuts, prints, machine, printer } = means;
  if (cuts && !machine) return 'No cutter is set up.';
  if (prints && !printer) return 'No printer is set up: see Machines.';
  return misfitsWith(means).find(({ level }) => level === 'stop')?.text;
}

export interface Readiness {
  readonly error: string | undefined;
  readonly isUnknown: boolean;
  readonly share: number;
  readonly sheets: readonly SheetPlan[];
  readonly stops: number;
  readonly save: string;
}

/** Why the drawing cannot go out yet. */
export function whyNotYet({ error, isUnknown, share, sheets, stops, save }: Readiness): string | undefined {
  if (save === 'read-only') return 'A newer version of Lorvek saved this job; send it from there.';
  if (error) return 'The Cut check could not be done, so nothing goes out.';
  if (isUnknown) return workingText(share);
  if (sheets.length === 0) return 'There is nothing to send.';
  if (stops > 0) return 'Something found by the Cut check must be put right first.';
  return save === 'saved' ? undefined : 'The last changes are still being saved.';
}
