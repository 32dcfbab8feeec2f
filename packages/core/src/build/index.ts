/** What is cut from which film: the order films lie in, and what is seen of each. */
export type { SeenPart } from './seen-part.ts';
export { comparedLooks, stackKeys, type Stacking } from './stacking.ts';
export { twiceCovered } from './twice-covered.ts';
export { flattenParts, seenOfParts, type FlatPart } from './flatten-parts.ts';
