/** Does a sheet go onto a machine? What is in the way, in words, with the way out: the same on the page and on the server. */
import { printsOf, type Machine } from '../api/shop.ts';
import { MARK_KINDS, type MarkKind } from '../records/lay-up.ts';

/** What counts of a sheet. */
export interface SheetToFit {
  readonly title: string;
  readonly widthMm: number;
  readonly lengthMm: number;
  /** Of its registration marks; null: it has none. */
  readonly marks: MarkKind | null;
}

/** Why a sheet does not go on a machine, or not well. */
export interface Misfit {
  readonly level: 'stop' | 'warning';
  readonly text: string;
  /** Marks that the machine's camera finds, the most like them. */
  readonly marks?: MarkKind;
}

/** Material may be a hair wider than a machine says that it is. */
const TOLERANCE_MM = 0.5;

const NAMES: Record<MarkKind, string> = {
  'corners-in': 'corners inward',
  'corners-out': 'corners outward',
  dots: 'dots',
  crosses: 'crosses',
};

/** The most like each kind first: a camera that finds one angle finds the other by its arms. */
const LIKE: Record<MarkKind, readonly MarkKind[]> = {
  'corners-in': ['corners-out', 'crosses', 'dots'],
  'corners-out': ['corners-in', 'crosses', 'dots'],
  crosses: ['corners-in', 'corners-out', 'dots'],
  dots: ['crosses', 'corners-in', 'corners-out'],
};

/** Of the kinds that a machine finds the one that is most like another; undefined: it finds none. */
export const nearestMark = (kind: MarkKind, { readsMarks }: Pick<Machine, 'readsMarks'>): MarkKind | undefined => {
  const reads = readsMarks ?? MARK_KINDS;
  return [kind, ...LIKE[kind]].find((one) => reads.includes(one));
};

/** What is in the way of printing or cutting a sheet on a machine. */
export function misfitsOf({ title, widthMm, lengthMm, marks }: SheetToFit, machine: Machine): Misfit[] {
  const mm = (v: number): string => `${Math.round(v)} mm`;
  const out: Misfit[] = [];
  if (machine.kind !== 'desk-printer' && widthMm > machine.widthMm + TOLERANCE_MM)
    out.push({ level: 'warning', text: `${title} is ${mm(widthMm)} wide; ${machine.name} takes ${mm(machine.widthMm)}.` });
  if (typeof machine.lengthMm === 'number' && lengthMm > machine.lengthMm + TOLERANCE_MM)
    out.push({
      level: 'stop',
      text: `${title} is ${mm(lengthMm)} long; ${machine.name} takes ${mm(machine.lengthMm)}. Choose shorter sheets on Lay up, or panels.`,
    });
  if (printsOf(machine) || marks === null) return out;
  if (machine.kind !== 'camera-cutter')
    return [...out, { level: 'stop', text: `${machine.name} has no camera for the registration marks. Choose a cutter that has one.` }];
  const nearest = nearestMark(marks, machine);
  if (nearest !== marks)
    out.push({
      level: 'stop',
      text: `${machine.name} does not find ${NAMES[marks]}.${nearest ? ` The nearest that it finds: ${NAMES[nearest]}.` : ''}`,
      ...(nearest ? { marks: nearest } : {}),
    });
  return out;
}
