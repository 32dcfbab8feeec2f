/** What a search found and nobody has laid yet, over a reload of the page: kept in this tab, for the job that it was found for. */
import { z } from 'zod';

const KEY = 'lorvek.nest';

const Place = z.object({
  id: z.string(),
  copy: z.number(),
  sheet: z.number(),
  map: z.tuple([z.number(), z.number(), z.number(), z.number(), z.number(), z.number()]),
});
const Kept = z.object({
  job: z.string(),
  layer: z.string(),
  key: z.string(),
  answer: z.object({
    placed: z.array(Place),
    leftOut: z.array(z.object({ id: z.string(), copies: z.number() })),
    usedLengthMm: z.number(),
    partsAreaMm2: z.number(),
    elapsedMs: z.number(),
  }),
  curve: z.array(z.object({ seconds: z.number(), lengthMm: z.number() })),
  beforeMm: z.number(),
  beforePieces: z.number(),
  boxes: z.object({ usedLengthMm: z.number(), sheets: z.number() }).optional(),
});
export type KeptNest = z.infer<typeof Kept>;

/** Keeps what is whole: a search that has found nothing yet takes nothing away. */
export function keepNest(nest: unknown): void {
  const { success, data } = Kept.safeParse(nest);
  if (!success) return;
  try {
    sessionStorage.setItem(KEY, JSON.stringify(data));
  } catch {
    // more than the tab keeps: an older one in its place would mislead
    forgetNest();
  }
}

export const forgetNest = (): void => sessionStorage.removeItem(KEY);

/** What was kept for a job; nothing when that is not whole, as what another version left may be. */
export function keptNest(job: string): KeptNest | undefined {
  try {
    const read = Kept.safeParse(JSON.parse(sessionStorage.getItem(KEY) ?? 'null'));
    return read.success && read.data.job === job ? read.data : undefined;
  } catch {
    // no text of ours
    return undefined;
  }
}
