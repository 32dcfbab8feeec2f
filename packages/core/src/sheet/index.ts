/** Sheets: work laid on material. */
export { layUp, type LaidUp, type LayUpProblem } from './lay-up.ts';
export { lyingTogether } from './lying-together.ts';
export { nest, type NestedPart, type NestPart, type NestProblem, type NestResult } from './nest.ts';
export { splitPanels, type Panel, type PanelProblem } from './split-panels.ts';
export { marksBandMm, placeMarks, type MarkKind, type MarksProblem, type PlacedMark } from './place-marks.ts';
export { jobCode, plainFigures } from './job-code.ts';
