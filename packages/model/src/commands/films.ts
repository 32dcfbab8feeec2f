/** Commands on the film strip, the page and the sheets. */
import type { LayerId } from '../records/fields.ts';
import {
  buildSchema,
  PAGE_ID,
  surfaceSchema,
  unitSchema,
  type Build,
  type Drawing,
  type Guide,
  type Page,
  type Scope,
  type Surface,
} from '../records/document.ts';
import { filmSchema, printSchema, type Film, type Layer, type PrintLayer } from '../records/layers.ts';
import { layUpIdOf, layUpSchema, type LayUp } from '../records/lay-up.ts';
import { isSame } from '../records/patch.ts';
import { buildOf, layerOf, leavesOf, pageOf, layUpOf } from '../queries/queries.ts';
import { describeIssue } from '../records/plain-issue.ts';
import { planOf, refuse, type Command } from './plan.ts';

const withPage = (drawing: Drawing, fields: Partial<Page>): Drawing => ({ ...drawing, [PAGE_ID]: { ...pageOf(drawing), ...fields } });

/**
 * Takes a film or a print from Stock into the job, on top of the strip.
 * @param again a further layer of a film that the job has, for work that lies both over and under another film
 */
export const addFilm: Command<{ film: Layer; again?: boolean }> = (state, { film, again = false }) => {
  const page = pageOf(state.drawing);
  const same = page.layers.map((id) => layerOf(state.drawing, id)).find((other) => other?.stockId === film.stockId);
  if (!again && same?.type === film.type) return refuse(`${same.series} ${same.name} is in the strip already.`);
  return planOf(state, () => withPage({ ...state.drawing, [film.id]: film }, { layers: [...page.layers, film.id] }));
};

/** Takes a film out of the job; refused while something is cut from it. */
export const removeFilm: Command<{ id: LayerId }> = (state, { id }) => {
  const page = pageOf(state.drawing);
  const users = leavesOf(state.drawing).filter(
    (leaf) => leaf.layer === id || leaf.treatments?.some((t) => t.kind !== 'bend' && t.layer === id),
  ).length;
  const gone = layerOf(state.drawing, id);
  if (!gone) return refuse('This film is no longer there.');
  const what = gone.type === 'film' ? 'cut from this film' : 'printed with it';
  if (users > 0) return refuse(`${users} ${users === 1 ? 'item is' : 'items are'} ${what}. Give them another layer first.`);
  return planOf(state, () => {
    const { [id]: _film, [layUpIdOf(id)]: _sheet, ...rest } = state.drawing;
    const scope: Scope = page.scope.kind === 'layer' && page.scope.layer === id ? { kind: 'everything' } : page.scope;
    return withPage(rest, { layers: page.layers.filter((film) => film !== id), scope });
  });
};

/** A new stacking order, bottom first. */
export const restackFilms: Command<{ films: readonly string[] }> = (state, { films }) => {
  const now = pageOf(state.drawing).layers;
  if (films.length !== now.length || !now.every((id) => films.includes(id))) return refuse('The strip has changed meanwhile.');
  return planOf(state, () => withPage(state.drawing, { layers: [...films] }));
};

type FilmFields = Partial<Pick<Film, 'visible' | 'locked' | 'build' | 'trapMm' | 'placeMarks' | 'leftOut' | 'inlaid'>> & {
  white?: PrintLayer['white'] | undefined;
  passes?: PrintLayer['passes'] | undefined;
  spots?: PrintLayer['spots'] | undefined;
};

/** How a film is shown and how it meets those below. */
export const setFilmFields: Command<{ id: LayerId; fields: FilmFields }> = (state, { id, fields }) => {
  const film = layerOf(state.drawing, id);
  if (!film) return refuse('This film is no longer there.');
  const parsed = (film.type === 'film' ? filmSchema : printSchema).safeParse({ ...film, ...fields });
  return parsed.success
    ? planOf(state, () => ({ ...state.drawing, [id]: parsed.data }))
    : refuse(`That cannot be: ${describeIssue(parsed.error.issues[0])}.`);
};

/** How the films are put together. */
export const setBuild: Command<{ fields: Partial<Build> }> = (state, { fields }) => {
  const parsed = buildSchema.safeParse({ ...buildOf(state.drawing), ...fields });
  return parsed.success
    ? planOf(state, () => withPage(state.drawing, { build: parsed.data }))
    : refuse(`That cannot be: ${describeIssue(parsed.error.issues[0])}.`);
};

/** Everything as it was in another state of the same drawing. */
export const takeDrawing: Command<{ drawing: Drawing }> = (state, { drawing }) =>
  isSame(state.drawing, drawing) ? refuse('The drawing is already as it was then.') : planOf(state, () => drawing, []);

/** The unit in which the job is measured; nothing is changed in size. */
export const setUnit: Command<{ unit: Page['unit'] }> = (state, { unit }) =>
  unitSchema.safeParse(unit).success ? planOf(state, () => withPage(state.drawing, { unit })) : refuse('There is no such unit.');

/** Size and colour of what the work is fitted on. */
export const setSurface: Command<{ fields: Partial<Surface> }> = (state, { fields }) => {
  const parsed = surfaceSchema.safeParse({ ...pageOf(state.drawing).surface, ...fields });
  return parsed.success
    ? planOf(state, () => withPage(state.drawing, { surface: parsed.data }))
    : refuse(`The surface cannot be like that: ${describeIssue(parsed.error.issues[0])}.`);
};

/** All guides at once: adding, moving and removing are lists. */
export const setGuides: Command<{ guides: readonly Guide[] }> = (state, { guides }) => {
  if (guides.length > 200) return refuse('A drawing holds at most 200 guides.');
  if (!guides.every((guide) => Math.abs(guide.mm) <= 1e7)) return refuse('A guide cannot lie that far out.');
  return planOf(state, () => withPage(state.drawing, { guides: [...guides] }));
};

/** Below which width parts of treatments are taken off. */
export const setSliver: Command<{ mm: number }> = (state, { mm }) =>
  mm >= 0 && mm <= 50 ? planOf(state, () => withPage(state.drawing, { sliverMm: mm })) : refuse('The limit lies between 0 and 50 mm.');

/** What Lay up and Send take. */
export const setScope: Command<{ scope: Scope }> = (state, { scope }) => {
  if (scope.kind === 'selection' && scope.items.length === 0) return refuse('Select something on the drawing first.');
  return planOf(state, () => withPage(state.drawing, { scope }));
};

/** How one film is laid up. */
export const setLayUp: Command<{ film: LayerId; fields: Partial<LayUp> }> = (state, { film, fields }) => {
  if (!layerOf(state.drawing, film)) return refuse('This film is no longer there.');
  const parsed = layUpSchema.safeParse({ ...layUpOf(state.drawing, film), ...fields });
  return parsed.success
    ? planOf(state, () => ({ ...state.drawing, [layUpIdOf(film)]: parsed.data }))
    : refuse(`That cannot be: ${describeIssue(parsed.error.issues[0])}.`);
};
