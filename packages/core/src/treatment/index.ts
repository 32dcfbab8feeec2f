/** Treatments: ring, shade, two-tone on an item's outline; pieces by film. Bend lives with the lettering. */
export {
  evaluateTreatments,
  type Evaluated,
  type Meeting,
  type Piece,
  type RingTreatment,
  type ShadeTreatment,
  type ToneTreatment,
  type Treatment,
} from './evaluate.ts';
export { sweepAlong, sweepToward } from './sweep.ts';
export { trimSlivers } from './trim-slivers.ts';
