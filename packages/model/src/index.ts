/** The document, its commands and the API as schemas and the types inferred from them. */
export * from './document.ts';
export * from './treatments.ts';
export * from './read.ts';
export * from './patch.ts';
export * from './history.ts';
export * from './outline.ts';
export { ANY_ROLL, type Material } from './material.ts';
export { DARK_INK, inkOn, isLight, LIGHT_INK } from './ink.ts';
export { validateChange, validateDrawing, validateRecord } from './validate.ts';
export { planOf, refuse, type Change, type Command, type EditorState, type Plan } from './commands/plan.ts';
export * from './commands/items.ts';
export * from './commands/films.ts';
export * from './commands/treatments.ts';
export * from './api/jobs.ts';
export * from './api/shop.ts';
export * from './api/runs.ts';
