/** Files that come from outside, read where nothing else is at stake: a worker of the page that can be ended. See `registry.ts`. */
import { readList, type List, type ListOptions } from '@lorvek/core/series';
import type { Host, Tell } from './host.ts';
import { importDrawing, pageLook, tiffToPng, type ImportAsked, type Imported } from './import-drawing.ts';
import type { Table } from './registry.ts';

/** A customer's list, and what is known of how it is to be read. */
export interface ListAsked {
  readonly bytes: Uint8Array;
  readonly fileName: string;
  readonly as: ListOptions;
}

/** What opens files that come from outside. */
export const READING = {
  import: (input: ImportAsked, { fonts }: Host, tell: Tell): Promise<Imported> =>
    importDrawing(input, (wanted, text) => fonts.fontFor(wanted, text), tell),
  'page-look': pageLook,
  tiff: ({ bytes }: { readonly bytes: Uint8Array }) => tiffToPng(bytes),
  /** A customer's list. */
  list: ({ bytes, fileName, as }: ListAsked): List | Promise<List> => readList(bytes, fileName, as),
} as const satisfies Table<Host>;
