/** The sheet that the ticket is about. */
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { useSheets } from '../../document/sheets.ts';
import { useView } from '../../drawing/view.ts';
import { useLaying } from './laying.ts';

/** Of the film chosen in the strip the first sheet, or the one that a chosen piece lies on; else the topmost film's. */
export function useActiveSheet(): SheetPlan | undefined {
  const sheets = useSheets((state) => state.sheets);
  const film = useView((state) => state.film);
  const chosen = useLaying((state) => state.chosen);
  const own = sheets.filter((sheet) => sheet.layer.id === film);
  const list = own.length > 0 ? own : sheets.filter((sheet) => sheet.layer.id === sheets.at(-1)?.layer.id);
  return list.find((sheet) => sheet.placements.some(({ copy, part }) => chosen.has(`${sheet.layer.id} ${copy} ${part}`))) ?? list[0];
}
