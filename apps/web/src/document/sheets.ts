/** The sheets of the open job as they would be cut, and their findings; worked out in the worker a moment after each change. */
import { create } from 'zustand';
import type { Drawing, StockFilm } from '@lorvek/model';
import type { Finding } from '@lorvek/core/check';
import type { Bleed } from '@lorvek/model/bleeds';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { useEffect } from 'react';
import { sentenceOf } from '../api/client.ts';
import { useShop } from '../api/shop.ts';
import { ask } from '../worker/compute.ts';
import { useDocument } from './store.ts';

interface Sheets {
  sheets: readonly SheetPlan[];
  /** Findings of the drawing itself. */
  whole: readonly Finding[];
  /** All findings, one a text, those of the sheets first. */
  found: readonly LocatedFinding[];
  /** Ground that films cover more than once, mm². */
  twiceMm2: Readonly<Record<string, number>>;
  /** What edge cuts carry outward, and the drawing that it was worked out for. */
  bleeds: readonly Bleed[];
  bledIn: Drawing;
  busy: boolean;
  /** Nothing is known of this job yet: no list here says "none". */
  unknown: boolean;
  /** How much of what is being worked out is done, 0 to 1. */
  share: number;
  error: string | undefined;
}

const UNKNOWN: Sheets = {
  sheets: [],
  whole: [],
  found: [],
  twiceMm2: {},
  bleeds: [],
  bledIn: {},
  busy: true,
  unknown: true,
  share: 0,
  error: undefined,
};

export const useSheets = create<Sheets>(() => UNKNOWN);

const DELAY_MS = 180;
let sequence = 0;

async function refresh(drawing: Drawing, stock: readonly StockFilm[], jobId: string, jobName: string): Promise<void> {
  const mine = ++sequence;
  useSheets.setState({ busy: true, share: 0 });
  try {
    const { whole, sheets, twiceMm2, bleeds } = await ask(
      'sheets',
      { drawing, stock, jobId, jobName },
      (share) => mine === sequence && useSheets.setState({ share }),
    );
    if (mine === sequence)
      useSheets.setState({
        sheets,
        whole,
        found: findingsOf(sheets, whole),
        twiceMm2,
        bleeds,
        bledIn: drawing,
        busy: false,
        unknown: false,
        share: 1,
        error: undefined,
      });
  } catch (error) {
    if (mine === sequence) useSheets.setState({ ...UNKNOWN, busy: false, error: sentenceOf(error) });
  }
}

/** Keeps the sheets up to date while a job is open. */
export function useFollowSheets(): void {
  const jobId = useDocument((state) => state.job?.id);
  const jobName = useDocument((state) => state.job?.name ?? '');
  const drawing = useDocument((state) => state.drawing);
  const stock = useShop((state) => state.stock);
  useEffect(() => {
    sequence++;
    useSheets.setState(UNKNOWN);
  }, [jobId]);
  useEffect(() => {
    if (!drawing['page'] || !stock || !jobId) return undefined;
    // what stands in the list is of the drawing before until the new one has been looked at
    useSheets.setState({ busy: true });
    const timer = setTimeout(() => void refresh(drawing, stock, jobId, jobName), useSheets.getState().unknown ? 0 : DELAY_MS);
    return () => clearTimeout(timer);
  }, [jobId, jobName, drawing, stock]);
}

export interface LocatedFinding {
  readonly finding: Finding;
  /** The sheet it was found on; undefined: the drawing itself. */
  readonly sheet: SheetPlan | undefined;
}

/** One finding a text: what stops an item is found on each of its sheets and on the drawing. */
function findingsOf(sheets: readonly SheetPlan[], whole: readonly Finding[]): LocatedFinding[] {
  const seen = new Set<string>();
  const all = [
    ...whole.map((finding) => ({ finding, sheet: undefined })),
    ...sheets.flatMap((sheet) => sheet.findings.map((finding) => ({ finding, sheet }))),
  ];
  const once = all.filter(({ finding }) => {
    if (finding.code !== 'missing-letters' && finding.code !== 'not-worked-out') return true;
    const key = `${finding.code} ${finding.parts.join()}`;
    return !seen.has(key) && seen.add(key);
  });
  return [...once.filter(({ sheet }) => sheet), ...once.filter(({ sheet }) => !sheet)];
}
