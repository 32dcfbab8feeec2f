/** What goes out, in words, and why it cannot yet. */
import { printsOf, type Machine } from '@lorvek/model';
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
export function timeText(seconds: number): string {
  const whole = Math.max(1, Math.round(seconds));
  return whole < 60 ? `${whole} s` : `${Math.floor(whole / 60)} min ${whole % 60} s`;
}

export interface Means {
  readonly cuts: boolean;
  readonly prints: boolean;
  readonly machine: Machine | undefined;
  readonly printer: Machine | undefined;
  readonly sheets: readonly SheetPlan[];
}

/** What is in the way of a sheet on a machine: one that prints prints it, another cuts it; nothing when there is nothing for it. */
function misfitsOn(sheet: SheetPlan, machine: Machine): Misfit[] {
  const { layer, material, usedLengthMm, marks, markSettings, print, lines } = sheet;
  if (printsOf(machine) ? !print : lines.length === 0) return [];
  const kind = marks.length > 0 ? (markSettings?.marks.kind ?? null) : null;
  return misfitsOf({ title: `${layer.series} ${layer.name}`, widthMm: material.widthMm, lengthMm: usedLengthMm, marks: kind }, machine);
}

/**
 * The machine for sheets: that which was chosen here, else that which was chosen last where the sheets go onto it; else the
 * first that they go onto best.
 */
export function machineFor(
  machines: readonly Machine[],
  sheets: readonly SheetPlan[],
  chosen: { readonly id: string | undefined; readonly isHere: boolean },
): Machine | undefined {
  const last = machines.find(({ id }) => id === chosen.id);
  if (last && chosen.isHere) return last;
  const inOrder = last ? [last, ...machines.filter((one) => one !== last)] : machines;
  const gravest = (one: Machine): number => Math.max(0, ...sheets.flatMap((sheet) => misfitsOn(sheet, one)).map(gravityOf));
  const ranked = inOrder.map((one) => ({ one, gravity: gravest(one) }));
  const least = Math.min(...ranked.map(({ gravity }) => gravity));
  return ranked.find(({ gravity }) => gravity === least)?.one;
}

/** A warning is less than what stops, and what a change of the marks puts right less than what nothing does. */
const gravityOf = ({ level, marks }: Misfit): number => (level === 'warning' ? 1 : marks ? 2 : 3);

/** Sheets on their machines: what is in the way. */
export function misfitsWith({ cuts, prints, machine, printer, sheets }: Means): Misfit[] {
  const all = sheets.flatMap((sheet) => [
    ...(prints && printer ? misfitsOn(sheet, printer) : []),
    ...(cuts && machine ? misfitsOn(sheet, machine) : []),
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
