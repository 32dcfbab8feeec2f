/** Sheets: work laid on material. */
export { layUp, type LaidUp, type LayUpPart, type LayUpProblem, type PlacedPart } from './lay-up.ts';
