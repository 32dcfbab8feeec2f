/**
 * Treatments as records on an item: ordered, switched on or off, each with the film of its piece. Lengths mm in the
 * item's own space at true size, angles degrees counter-clockwise. Bend belongs to lettering and is set before the
 * others, wherever it stands in the list. All fields are always there, so that trying another kind loses nothing.
 */
import { z } from 'zod';
import { colourSchema } from './colour.ts';
import type { LayerId } from './fields.ts';

const id = z.string().regex(/^[a-z]+-[A-Za-z0-9_-]{1,40}$/, 'an id such as treatment-x1');
const layer = (
  z.string().regex(/^(film|print)-[A-Za-z0-9_-]{1,60}$/, 'a layer of the job') as unknown as z.ZodType<LayerId, LayerId>
).nullable();
const mm = z.number().min(-1e5).max(1e5);
const angle = z.number().min(-3600).max(3600);
const path = z.string().max(400_000);
/** The item whose line `path` is: it follows that item on the drawing. */
const lineItem = id.optional();
const base = { id, on: z.boolean() };
/** Its colour where it is printed; absent: the medium's. */
const ink = colourSchema.optional();

/** Words bent along an arch, a circle or a path. */
export const bendSchema = z.object({
  ...base,
  kind: z.literal('bend'),
  line: z.enum(['circle', 'arch', 'path']),
  radiusMm: z.number().min(0.5, 'a radius of 0.5 mm or more').max(1e5),
  /** The lower words' own circle; null: the same. */
  lowerRadiusMm: z.number().min(0.5).max(1e5).nullable(),
  sides: z.enum(['over', 'under', 'both']),
  middleDeg: angle,
  stand: z.enum(['above', 'centred', 'below']),
  sameSide: z.boolean(),
  /** null: as wide as the words are. */
  spreadDeg: z.number().min(1).max(360).nullable(),
  riseMm: mm,
  /** In the item's own space; empty: none yet. */
  path,
  lineItem,
  startMm: mm,
  reverse: z.boolean(),
});

/** A ring round the outline at a distance: a backing under it, or a band. */
export const ringSchema = z.object({
  ...base,
  kind: z.literal('ring'),
  layer,
  ink,
  distanceMm: z.number().min(-1e4).max(1e4),
  corner: z.enum(['round', 'mitre', 'bevel']),
  fill: z.enum(['backing', 'band']),
});

/** A shade: dropped, as a block, converging or cast. */
export const shadeSchema = z.object({
  ...base,
  kind: z.literal('shade'),
  layer,
  ink,
  shade: z.enum(['drop', 'block', 'converging', 'cast']),
  angleDeg: angle,
  depthMm: z.number().min(0).max(1e4),
  pointXMm: mm,
  pointYMm: mm,
  reachPct: z.number().min(0).max(1000),
  leanDeg: z.number().min(-80).max(80),
  meeting: z.enum(['full', 'tucked', 'flush', 'gapped']),
  meetingMm: z.number().min(0).max(1e4),
});

/** The part beyond an edge in another film. */
export const toneSchema = z.object({
  ...base,
  kind: z.literal('two-tone'),
  layer,
  ink,
  edge: z.enum(['straight', 'wave', 'drawn']),
  angleDeg: angle,
  shiftMm: mm,
  amplitudeMm: z.number().min(0).max(1e4),
  waveMm: z.number().min(0.1, 'a wave of 0.1 mm or more').max(1e5),
  phasePct: z.number().min(-1000).max(1000),
  path,
  lineItem,
});

/** What is derived from an item's outline, live. */
export const treatmentSchema = z.discriminatedUnion('kind', [bendSchema, ringSchema, shadeSchema, toneSchema]);
/** In the order they are applied. */
export const treatmentsSchema = z.array(treatmentSchema).max(16);

export type BendTreatment = z.infer<typeof bendSchema>;
export type RingRecord = z.infer<typeof ringSchema>;
export type ShadeRecord = z.infer<typeof shadeSchema>;
export type ToneRecord = z.infer<typeof toneSchema>;
export type TreatmentRecord = z.infer<typeof treatmentSchema>;
/** Kinds of treatments. */
export type TreatmentKind = TreatmentRecord['kind'];

/**
 * A treatment as it begins, sized to the lettering or shape it is for (height of capitals or of the box, mm).
 * @param sizeMm above zero
 */
export function newTreatment(kind: TreatmentKind, newId: string, sizeMm: number, filmId: string | null): TreatmentRecord {
  const tidy = (n: number): number => Math.max(0.5, Math.round(n * 2) / 2);
  const common = { id: newId, on: true };
  switch (kind) {
    case 'bend':
      return {
        ...common,
        kind,
        line: 'arch',
        radiusMm: tidy(sizeMm * 4),
        lowerRadiusMm: null,
        sides: 'both',
        middleDeg: 90,
        stand: 'above',
        sameSide: true,
        spreadDeg: null,
        riseMm: tidy(sizeMm * 0.8),
        path: '',
        startMm: 0,
        reverse: false,
      };
    case 'ring':
      return { ...common, kind, layer: filmId, distanceMm: tidy(sizeMm * 0.08), corner: 'round', fill: 'backing' };
    case 'shade':
      return {
        ...common,
        kind,
        layer: filmId,
        shade: 'block',
        angleDeg: -45,
        depthMm: tidy(sizeMm * 0.15),
        pointXMm: 0,
        pointYMm: -tidy(sizeMm * 3),
        reachPct: 40,
        leanDeg: 40,
        meeting: 'full',
        meetingMm: 1,
      };
    case 'two-tone':
      return {
        ...common,
        kind,
        layer: filmId,
        edge: 'wave',
        angleDeg: 0,
        shiftMm: 0,
        amplitudeMm: tidy(sizeMm * 0.08),
        waveMm: tidy(sizeMm * 1.2),
        phasePct: 0,
        path: '',
      };
  }
}

/**
 * The same treatment for an item that became larger by a factor; drawn paths grow along.
 * @param k above zero
 * @param scalePath gives a path that is k times as large
 */
export function scaleTreatment(t: TreatmentRecord, k: number, scalePath: (path: string) => string): TreatmentRecord {
  const by = (n: number): number => Math.round(n * k * 1e4) / 1e4;
  switch (t.kind) {
    case 'bend':
      return {
        ...t,
        radiusMm: by(t.radiusMm),
        lowerRadiusMm: t.lowerRadiusMm === null ? null : by(t.lowerRadiusMm),
        riseMm: by(t.riseMm),
        startMm: by(t.startMm),
        path: scalePath(t.path),
      };
    case 'ring':
      return { ...t, distanceMm: by(t.distanceMm) };
    case 'shade':
      return { ...t, depthMm: by(t.depthMm), pointXMm: by(t.pointXMm), pointYMm: by(t.pointYMm), meetingMm: by(t.meetingMm) };
    case 'two-tone':
      return { ...t, shiftMm: by(t.shiftMm), amplitudeMm: by(t.amplitudeMm), waveMm: by(t.waveMm), path: scalePath(t.path) };
  }
}
