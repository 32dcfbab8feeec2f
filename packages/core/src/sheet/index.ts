/** Sheets: work laid on material. */
export { frameSheet, layUp, type LaidUp, type LayUpProblem, type SheetFrame } from './lay-up.ts';
export { gridFill, type GridPlace, type GridProblem, type GridResult } from './grid-fill.ts';
export { weedLines, type WeedLinesProblem } from './weed-lines.ts';
export { lyingTogether } from './lying-together.ts';
export { nest } from './nest.ts';
export { triedStep } from './nest-problem.ts';
export type { NestedPart, NestPart, NestProblem, NestResult } from './nest-problem.ts';
export { evenSeams, seamsByWidth, splitPanels, type Panel, type PanelProblem } from './split-panels.ts';
export { marksBandMm, placeMarks, type MarkKind, type MarksProblem, type PlacedMark } from './place-marks.ts';
export { jobCode, lettersLength, plainLetters, plainStrokes } from './job-code.ts';
export { LEAST_OFFCUT_MM, offcutOf, type Offcut } from './offcut.ts';
