/** How long the sheets take to cut. */
import type { Cutting } from '@lorvek/model/cut-file';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { useEffect, useState } from 'react';
import { ask } from '../../worker/compute.ts';

/** Seconds of each sheet, worked out in the worker. */
export function useMinutes(sheets: readonly SheetPlan[], cutting: Cutting | undefined): Record<string, number> {
  const [seconds, setSeconds] = useState<Record<string, number>>({});
  useEffect(() => {
    let current = true;
    if (!cutting) return undefined;
    void Promise.all(
      sheets.map(async ({ id, lines }) => {
        const { seconds: own } = await ask('cut', { lines, cutting });
        return [id, own] as const;
      }),
    )
      .then((entries) => current && setSeconds(Object.fromEntries(entries)))
      // unknown: dashes stand where the times would
      .catch(() => current && setSeconds({}));
    return () => {
      current = false;
    };
  }, [sheets, cutting]);
  return seconds;
}
