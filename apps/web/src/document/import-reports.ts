/** What came in with each file: kept in the browser, so that a reload does not lose it. */
import { create } from 'zustand';
import { persist } from 'zustand/middleware';
import type { Matrix } from '@lorvek/core/geometry';
import type { Remark } from '@lorvek/core/format';
import type { WholePart } from './stacking.ts';

/** A file of the Inbox, and which saving of it. */
export interface InboxOrigin {
  readonly id: string;
  readonly stamp: string;
}

export interface Report {
  readonly file: string;
  readonly widthMm: number;
  readonly heightMm: number;
  readonly parts: number;
  readonly remarks: readonly Remark[];
  readonly inbox?: InboxOrigin;
  /** From the file's page to the drawing, as it was laid. */
  readonly placedBy?: Matrix;
  /** Some of its items and how they were laid, which tell how the whole was moved since. */
  readonly witnesses?: readonly { readonly id: string; readonly matrix: Matrix }[];
  /** Names of the spot colours that the file's colours are made of. */
  readonly spots?: Readonly<Record<string, string>>;
  /** Items of each colour of the file, to give them another film at once. */
  readonly byColour: Readonly<Record<string, readonly string[]>>;
  /** Whole outlines, where parts were cut out of one another; only while the page is open. */
  readonly whole?: readonly WholePart[];
}

const MOST_KEPT = 20;
/** Reports on more parts than this are kept while the page is open only. */
const LARGEST_KEPT = 3000;

interface Reports {
  readonly reports: Readonly<Record<string, Report>>;
}

/** Reports by the item that came in. */
export const useReports = create<Reports>()(
  persist((): Reports => ({ reports: {} }), {
    name: 'lorvek.importReports',
    partialize: ({ reports }) => ({
      reports: Object.fromEntries(
        Object.entries(reports)
          .filter(([, report]) => report.parts <= LARGEST_KEPT)
          .slice(-MOST_KEPT)
          .map(([key, { whole: _whole, ...report }]) => [key, report]),
      ),
    }),
  }),
);

export const keepReport = (item: string, report: Report): void =>
  void useReports.setState(({ reports }) => ({ reports: { ...reports, [item]: report } }));

export const putAway = (item: string): void =>
  void useReports.setState(({ reports }) => ({ reports: Object.fromEntries(Object.entries(reports).filter(([key]) => key !== item)) }));
