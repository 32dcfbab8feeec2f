/** What Build shows: films as they are cut and as they were drawn, what cannot be weeded, what both ways cost. */
import { describe, expect, test } from '@jest/globals';
import { area, boxShape, mapOutline, translation } from '@lorvek/core/geometry';
import { addFilm, addItems, emptyDrawing, setFilmFields, USUAL_SETTINGS, type Drawing } from '@lorvek/model';
import { film, run, shapeOf, stockOf, words } from '../../model/src/drawing.support.ts';
import { buildView, type BuildAnswer } from './build-view.ts';
import { pictureHost } from './host.support.ts';

const host = pictureHost({});
const stock = ['film-a', 'film-b'].map((id) => stockOf(id));

/** A plate with a smaller one on it, in two films. */
function twoFilms(...more: ReturnType<typeof shapeOf>[]): Drawing {
  const films = ['film-a', 'film-b'].reduce((drawing, id) => run(drawing, addFilm, { film: film(id) }), emptyDrawing());
  const items = [
    shapeOf('item-ground', 'film-a', boxShape(200, 100)),
    shapeOf('item-top', 'film-b', mapOutline(translation(50, 30), boxShape(60, 40))),
    ...more,
  ];
  return run(films, addItems, { items, roots: items.map(({ id }) => id) });
}
async function view(drawing: Drawing): Promise<BuildAnswer> {
  return buildView({ drawing, stock, jobId: 'job-1', settings: USUAL_SETTINGS }, await host.fonts.knowing(drawing, host.pause));
}
const layer = ({ layers }: BuildAnswer, id: string) => layers.find(({ film: of }) => of === id)!;

describe('the films of a job', () => {
  test('come bottom first; laid over one another each is cut as it is drawn', async () => {
    const answer = await view(twoFilms());
    expect(answer.layers.map(({ film: id }) => id)).toEqual(['film-a', 'film-b']);
    for (const { outline, drawn } of answer.layers) expect(area(outline)).toBeCloseTo(area(drawn), 6);
    expect(area(layer(answer, 'film-a').drawn)).toBeCloseTo(20_000, 6);
  });

  test('let in, the film below loses what lies in it, less its trap', async () => {
    const drawing = run(twoFilms(), setFilmFields, { id: 'film-b', fields: { build: 'inlay', trapMm: 0.5 } });
    const answer = await view(drawing);
    expect(area(layer(answer, 'film-a').outline)).toBeCloseTo(20_000 - 59 * 39, 0);
    expect(area(layer(answer, 'film-a').drawn)).toBeCloseTo(20_000, 6);
    expect(area(layer(answer, 'film-b').outline)).toBeCloseTo(2400, 6);
  });

  test('parts that are too small to weed are named with their film', async () => {
    const crumb = shapeOf('item-crumb', 'film-b', mapOutline(translation(150, 80), boxShape(0.3, 0.3)));
    const answer = await view(twoFilms(crumb));
    const found = layer(answer, 'film-b').findings.filter(({ code }) => code === 'tiny-part');
    expect(found.flatMap(({ parts }) => parts)).toContain('item-crumb');
    expect(layer(answer, 'film-a').findings.filter(({ code }) => code === 'tiny-part')).toEqual([]);
  });

  test('what could not be worked out is named, never left out without a word', async () => {
    const drawing = run(twoFilms(), addItems, {
      items: [words('item-w', 'film-b', [1, 0, 0, 1, 0, 0], 20, 'no-such-font')],
      roots: ['item-w'],
    });
    expect((await view(drawing)).unknown).toEqual(['item-w']);
    expect((await view(twoFilms())).unknown).toEqual([]);
  });

  test('packed, a film needs no more of its roll than kept in place', async () => {
    const far = shapeOf('item-far', 'film-b', mapOutline(translation(900, 30), boxShape(60, 40)));
    const { costs, places } = await view(twoFilms(far));
    expect(costs.pack.usedLengthMm).toBeLessThanOrEqual(costs.keep.usedLengthMm);
    expect(costs.keep.layers.map(({ layer: { id } }) => id)).toEqual(['film-a', 'film-b']);
    expect(places.length).toBeGreaterThan(10);
  });

  test('an empty job has nothing to show and nothing that breaks', async () => {
    const answer = await view(emptyDrawing());
    expect(answer).toMatchObject({ layers: [], unknown: [], steps: [] });
  });
});
