/** The sheets of the open job as they would be cut, and their findings; worked out in the worker a moment after each change. */
import { create } from 'zustand';
import { ANY_ROLL, filmsOf, leavesInScope, sheetOf, type Drawing, type Material, type StockFilm } from '@lorvek/model';
import type { FilmLimits, Finding } from '@lorvek/core/check';
import type { PreparedSheet } from '@lorvek/model/prepare';
import { useEffect } from 'react';
import { useShop } from '../api/shop.ts';
import { ask } from '../worker/compute.ts';
import { useDocument } from './store.ts';

interface Sheets {
  sheets: readonly PreparedSheet[];
  /** Findings of the drawing itself. */
  whole: readonly Finding[];
  busy: boolean;
  error: string | undefined;
}

export const useSheets = create<Sheets>(() => ({ sheets: [], whole: [], busy: false, error: undefined }));

const DELAY_MS = 180;
let sequence = 0;

/** The roll a film is laid on, from stock. */
export function materialOf(drawing: Drawing, film: string, stock: readonly StockFilm[] | undefined): Material {
  const { rollId } = sheetOf(drawing, film);
  const roll = stock?.flatMap((entry) => entry.rolls).find((r) => r.id === rollId);
  return roll ? { widthMm: roll.widthMm, lengthMm: roll.lengthLeftMm } : ANY_ROLL;
}

/** What can be weeded from a film, as Stock says. */
export function limitsOf(stockId: string | null | undefined, stock: readonly StockFilm[] | undefined): FilmLimits | undefined {
  const film = stock?.find(({ id }) => id === stockId);
  return film && { smallestPartMm: film.smallestPartMm, thinnestMm: film.thinnestMm };
}

async function refresh(drawing: Drawing, stock: readonly StockFilm[] | undefined): Promise<void> {
  const mine = ++sequence;
  useSheets.setState({ busy: true });
  const inScope = leavesInScope(drawing);
  const films = filmsOf(drawing).filter((film) => inScope.has(film.id));
  try {
    const { whole, sheets } = await ask('sheets', {
      drawing,
      films: films.map((film) => ({
        film: film.id,
        material: materialOf(drawing, film.id, stock),
        limits: limitsOf(film.stockId, stock),
      })),
    });
    if (mine === sequence) useSheets.setState({ sheets, whole, busy: false, error: undefined });
  } catch (error) {
    if (mine === sequence)
      useSheets.setState({ sheets: [], whole: [], busy: false, error: error instanceof Error ? error.message : String(error) });
  }
}

/** Keeps the sheets up to date while a job is open. */
export function useFollowSheets(): void {
  const drawing = useDocument((state) => state.drawing);
  const stock = useShop((state) => state.stock);
  useEffect(() => {
    if (!drawing['page']) return undefined;
    const timer = setTimeout(() => void refresh(drawing, stock), DELAY_MS);
    return () => clearTimeout(timer);
  }, [drawing, stock]);
}

export interface LocatedFinding {
  readonly finding: Finding;
  /** The sheet it was found on; undefined: the drawing itself. */
  readonly sheet: PreparedSheet | undefined;
}

export const findingsOf = ({ sheets, whole }: { sheets: readonly PreparedSheet[]; whole?: readonly Finding[] }): LocatedFinding[] => [
  ...sheets.flatMap((sheet) => sheet.findings.map((finding) => ({ finding, sheet }))),
  ...(whole ?? []).map((finding) => ({ finding, sheet: undefined })),
];
