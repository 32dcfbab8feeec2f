/** The document, its commands and the API as schemas and the types inferred from them. */
export * from './document.ts';
export * from './treatments.ts';
export * from './read.ts';
export * from './patch.ts';
export { rebasePatch, type Rebased } from './rebase.ts';
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
} from './packed.ts';
export * from './history.ts';
export * from './outline.ts';
export { ANY_ROLL, chooseRoll, materialOf, narrowestThatFits, type Material, type RollChoice } from './material.ts';
export { stopsOf } from './stops.ts';
export { isUnknown, type Known, type KnownOf } from './known-pieces.ts';
export { DARK_INK, inkOn, isLight, LIGHT_INK } from './ink.ts';
export { validateChange, validateDrawing, validateRecord } from './validate.ts';
export { planOf, refuse, type Change, type Command, type EditorState, type Plan } from './commands/plan.ts';
export * from './commands/items.ts';
export * from './commands/films.ts';
export * from './commands/treatments.ts';
export * from './api/jobs.ts';
export * from './api/shop.ts';
export * from './api/runs.ts';
