/** The document, its commands and the API as schemas and the types inferred from them. */
export * from './records/document.ts';
export * from './records/items.ts';
export * from './records/layers.ts';
export * from './records/lay-up.ts';
export * from './records/series.ts';
export * from './records/treatments.ts';
export * from './queries/queries.ts';
export * from './records/patch.ts';
export { rebasePatch, type Rebased } from './records/rebase.ts';
export {
  isPacked,
  LONG_TEXT,
  pack,
  packedForLog,
  textName,
  textsIn,
  textsNamed,
  textsOut,
  unpack,
  unpackBack,
  unpackLoosely,
  type Packed,
  type TextOf,
} from './records/packed.ts';
export * from './records/history.ts';
export { readNewer, upgradeDrawing, type LooseDrawing } from './records/upgrades.ts';
export { causeKey } from './queries/cause-key.ts';
export * from './queries/plain-outline.ts';
export { ANY_ROLL, chooseRoll, materialOf, narrowestThatFits, type Material, type RollChoice } from './plans/material.ts';
export { spotInksOf, type SpotInk } from './plans/spot-inks.ts';
export { usualPasses } from './plans/print-passes.ts';
export { spotsOf, USUAL_WHITE, type WhiteRule } from './plans/white-ink.ts';
export { stopsOf } from './plans/stops.ts';
export { fillOf, pictureMatrix, printedGradient } from './plans/print-art.ts';
export { isUnknown, type Known, type KnownOf } from './queries/known-pieces.ts';
export { isLineSource, lineFor } from './queries/drawn-lines.ts';
export { BELOW_ALL, looseRanks, ranksAbove } from './queries/painting-order.ts';
export { DARK_INK, inkOn, isLight, LIGHT_INK } from './queries/ink.ts';
export { validateChange, validateDrawing, validateRecord } from './records/validate.ts';
export { planOf, refuse, type Change, type Command, type EditorState, type Plan } from './commands/plan.ts';
export * from './commands/items.ts';
export * from './commands/films.ts';
export { setShapeSize, type ShapeSize } from './commands/shape-size.ts';
export * from './commands/treatments.ts';
export * from './commands/series.ts';
export { addToRow, endRow, FEWEST_IN_ROW, setRow, shortenRow } from './commands/rows.ts';
export * from './queries/series-rows.ts';
export * from './api/jobs.ts';
export * from './api/shop.ts';
export * from './api/runs.ts';
export { describeIssue, fieldWords, plainIssue } from './records/plain-issue.ts';
