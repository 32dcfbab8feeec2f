/**
 * How cut lines are named in print files: each kind a colour of its own (Separation), on a layer of its own with the
 * keys of ISO 19593-1 that tell a finishing machine what it is. One table, so that a name is changed in one place.
 */
import type { PrintLineKind } from './page.ts';

/** The named ink of a kind of line. */
export interface LineInk {
  readonly name: string;
  /** ISO 19593-1 group and type. */
  readonly group: string;
  readonly type: string;
  /** How it looks where the ink is not known, process values. */
  readonly look: readonly [number, number, number, number];
  readonly hex: string;
}

/** Named inks by the kind of line that they carry. */
export const LINE_INKS: Readonly<Record<PrintLineKind, LineInk>> = {
  kiss: { name: 'Lorvek Kiss', group: 'Structural', type: 'PartialCutting', look: [0.9, 0.2, 0.45, 0.1], hex: '#0b6e6b' },
  score: { name: 'Lorvek Score', group: 'Structural', type: 'Creasing', look: [0, 0.45, 0.9, 0.2], hex: '#a86a12' },
  perforated: { name: 'Lorvek Perforated', group: 'Structural', type: 'Perforating', look: [0.6, 0.8, 0, 0], hex: '#6b3fa0' },
  through: { name: 'Lorvek Through', group: 'Structural', type: 'Cutting', look: [0, 0.9, 0.7, 0.2], hex: '#9c2f1d' },
};
