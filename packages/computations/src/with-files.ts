/** What is worked out where files can be read and written: see `registry.ts`. */
import type { FileHost } from './host.ts';
import type { Table } from './registry.ts';
import { platesOfSheet, printSheet, softLook } from './print-sheet.ts';
import { describeFontFile, describeProfile } from './shop-files.ts';

/** What needs files. */
export const WITH_FILES = {
  print: printSheet,
  plates: platesOfSheet,
  soft: softLook,
  font: describeFontFile,
  profile: describeProfile,
} as const satisfies Table<FileHost>;

export type { RawPicture } from './print-sheet.ts';
