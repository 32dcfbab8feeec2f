/** Sheets: work laid on material. */
export { layUp, type LaidUp, type LayUpPart, type LayUpProblem, type PlacedPart } from './lay-up.ts';
export { lyingTogether } from './lying-together.ts';
export { nest, type NestedPart, type NestPart, type NestProblem, type NestResult } from './nest.ts';
export { splitPanels, type Panel, type PanelProblem } from './split-panels.ts';
