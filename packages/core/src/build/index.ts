/** What is cut from which film: the order films lie in, and what is seen of each. */
export { bridgeTo, type Bridge } from './bridge.ts';
export type { SeenPart } from './seen-part.ts';
export { comparedLooks, splitKeys, stackKeys, type SplitKeys, type Stacking } from './stacking.ts';
export { twiceCovered } from './twice-covered.ts';
export { flattenParts, seenOfParts, type FlatPart } from './flatten-parts.ts';
export {
  buildFilms,
  smallOnFill,
  type BuildLayer,
  type BuildOptions,
  type BuildPart,
  type BuiltFilm,
  type BuiltPart,
} from './build-films.ts';
export { placeMarksFor, type PlaceMarks } from './film-marks.ts';
export { costOf, quoteOf, USUAL_WEEDING, type Cost, type CostProblem, type Quote, type Rates, type WeedingRule } from './cost.ts';
