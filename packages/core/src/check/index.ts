/** Cut check: findings with place and reason. */
export { listed } from './listed.ts';
export { checkFilm, checkSheet, crossingPairs, type CheckPart, type Finding, type FindingCode } from './cut-check.ts';
export { bumpsOf } from './nodes.ts';
export type { FilmLimits, KnownSpots, Spot } from './weeding.ts';
