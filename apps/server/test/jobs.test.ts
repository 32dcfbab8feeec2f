import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import {
  PAGE_ID,
  emptyDrawing,
  historyOf,
  stepsOf,
  type Drawing,
  type JobHistory,
  type JobVersion,
  type LoggedChange,
  type Packed,
} from '@lorvek/model';
import { box, change, firstPatch, startServer, type TestServer } from './support.ts';

let server: TestServer;
beforeAll(async () => {
  server = await startServer();
});
afterAll(() => server.close());

const newJob = async (): Promise<string> =>
  ((await server.http.post('/api/jobs').send({ name: 'Test' }).expect(201)).body as { id: string }).id;
const open = async (id: string) =>
  (await server.http.get(`/api/jobs/${id}`).expect(200)).body as {
    revision: number;
    records: Drawing;
  };

describe('jobs', () => {
  test('are made, changed, duplicated with their drawing, and archived', async () => {
    const id = await newJob();
    await server.http
      .post(`/api/jobs/${id}/changes`)
      .send(change(firstPatch(['item-1']), 0))
      .expect(200);
    const changed = await server.http.patch(`/api/jobs/${id}`).send({ name: 'New name', dueOn: '2027-01-31', state: 'ready' }).expect(200);
    expect(changed.body).toMatchObject({ name: 'New name', dueOn: '2027-01-31', state: 'ready' });
    const copy = (await server.http.post(`/api/jobs/${id}/duplicate`).expect(201)).body as { id: string; name: string };
    expect(copy.name).toBe('New name – copy');
    expect((await open(copy.id)).records['item-1']).toEqual(box('item-1'));
    await server.http.patch(`/api/jobs/${copy.id}`).send({ archived: true }).expect(200);
    const board = (await server.http.get('/api/jobs').expect(200)).body as { id: string }[];
    expect(board.map((job) => job.id)).not.toContain(copy.id);
  });

  test('a thumbnail shows the drawing in its films', async () => {
    const id = await newJob();
    await server.http
      .post(`/api/jobs/${id}/changes`)
      .send(change(firstPatch(['item-1']), 0))
      .expect(200);
    const { body } = await server.http.get(`/api/jobs/${id}/thumbnail.svg`).expect(200).expect('content-type', /svg/);
    expect(String(body)).toContain('fill="#0f5e66"');
  });
});

describe('changes of a drawing', () => {
  test('are logged with a new revision, and the log gives the history back', async () => {
    const id = await newJob();
    await server.http
      .post(`/api/jobs/${id}/changes`)
      .send(change(firstPatch(['item-1']), 0, { group: 'g' }))
      .expect(200, { revision: 1 });
    const wider = { 'item-1': { before: box('item-1'), after: box('item-1', 55) } };
    await server.http.post(`/api/jobs/${id}/changes`).send(change(wider, 1)).expect(200, { revision: 2 });
    const back = { 'item-1': { before: box('item-1', 55), after: box('item-1') } };
    await server.http
      .post(`/api/jobs/${id}/changes`)
      .send(change(back, 2, { kind: 'undo' }))
      .expect(200, { revision: 3 });
    const { records, revision } = await open(id);
    expect([revision, records['item-1']]).toEqual([3, box('item-1')]);
    const { changes, texts } = (await server.http.get(`/api/jobs/${id}/history?upTo=3`).expect(200)).body as JobHistory;
    const history = historyOf(stepsOf(records, changes, texts));
    expect([history.back.length, history.forward.length]).toEqual([1, 1]);
    expect(history.forward[0]?.patch['item-1']?.after).toEqual(box('item-1', 55));
  });

  test('made on an old revision are refused with what changed since', async () => {
    const id = await newJob();
    await server.http
      .post(`/api/jobs/${id}/changes`)
      .send(change(firstPatch(['item-1']), 0))
      .expect(200);
    const late = await server.http
      .post(`/api/jobs/${id}/changes`)
      .send(change(firstPatch(['item-2']), 0))
      .expect(409);
    expect(late.body).toMatchObject({ type: 'stale', revision: 1 });
    expect((late.body as { missed: LoggedChange[] }).missed.map((c) => Object.keys(c.patch.records).sort())).toEqual([
      ['film-a', 'item-1', PAGE_ID],
    ]);
  });

  test('sent twice are taken once', async () => {
    const id = await newJob();
    const once = change(firstPatch(['item-1']), 0);
    await server.http.post(`/api/jobs/${id}/changes`).send(once).expect(200, { revision: 1 });
    await server.http.post(`/api/jobs/${id}/changes`).send(once).expect(200, { revision: 1 });
  });

  test('at the same time: one is taken, the others are refused, none is mixed', async () => {
    const id = await newJob();
    const answers = await Promise.all(
      Array.from({ length: 8 }, (_, k) => server.http.post(`/api/jobs/${id}/changes`).send(change(firstPatch([`item-${k}`]), 0))),
    );
    expect(answers.map((a) => a.status).sort()).toEqual([200, 409, 409, 409, 409, 409, 409, 409]);
    const { records } = await open(id);
    expect(Object.keys(records).filter((key) => key.startsWith('item-')).length).toBe(1);
  });

  test('survive a restart, by snapshot and log', async () => {
    const id = await newJob();
    await server.http
      .post(`/api/jobs/${id}/changes`)
      .send(change(firstPatch(['item-1']), 0))
      .expect(200);
    for (let width = 41; width <= 110; width++) {
      const patch = { 'item-1': { before: box('item-1', width - 1), after: box('item-1', width) } };
      await server.http
        .post(`/api/jobs/${id}/changes`)
        .send(change(patch, width - 40))
        .expect(200);
    }
    server = await server.restart();
    const { revision, records } = await open(id);
    expect([revision, records['item-1']]).toEqual([71, box('item-1', 110)]);
  });
});

/** As a hand would write it: records before and after, whatever they are. */
const packedAs = (records: unknown): Packed => ({ v: 2, records: records as Packed['records'] });

describe('named versions', () => {
  test('are kept with a picture, survive a restart, give their drawing back, and are taken away', async () => {
    const id = await newJob();
    await server.http
      .post(`/api/jobs/${id}/changes`)
      .send(change(firstPatch(['item-1']), 0))
      .expect(200);
    const kept = (await server.http.post(`/api/jobs/${id}/versions`).send({ name: 'First idea', revision: 1 }).expect(201))
      .body as JobVersion;
    const wider = { 'item-1': { before: box('item-1'), after: box('item-1', 90) } };
    await server.http.post(`/api/jobs/${id}/changes`).send(change(wider, 1)).expect(200);
    await server.http.post(`/api/jobs/${id}/versions`).send({ name: 'Late', revision: 1 }).expect(409);
    await server.http.post(`/api/jobs/${id}/versions`).send({ name: ' ', revision: 2 }).expect(400);
    server = await server.restart();
    const list = (await server.http.get(`/api/jobs/${id}/versions`).expect(200)).body as JobVersion[];
    expect(list).toEqual([kept]);
    const { records } = (await server.http.get(`/api/jobs/${id}/versions/${kept.id}`).expect(200)).body as { records: Drawing };
    expect(records['item-1']).toEqual(box('item-1'));
    const picture = await server.http.get(`/api/jobs/${id}/versions/${kept.id}/picture.svg`).expect(200).expect('content-type', /svg/);
    expect(String(picture.body)).toContain('fill="#0f5e66"');
    await server.http.delete(`/api/jobs/${id}/versions/${kept.id}`).expect(200);
    await server.http.get(`/api/jobs/${id}/versions/${kept.id}`).expect(404);
    await server.http.get(`/api/jobs/${id}/versions/version-none`).expect(404);
  });
});

describe('a client that writes by hand', () => {
  const page = emptyDrawing()[PAGE_ID] as object;
  const bad: [string, unknown][] = [
    ['a width below zero', { ...firstPatch(['item-1']), 'item-1': { before: null, after: box('item-1', -5) } }],
    ['a number that is text', { ...firstPatch(['item-1']), 'item-1': { before: null, after: { ...box('item-1'), widthMm: '40' } } }],
    ['an unknown kind', { ...firstPatch(['item-1']), 'item-1': { before: null, after: { ...box('item-1'), kind: 'blob' } } }],
    ['an id that is not its own', { ...firstPatch(['item-1']), 'item-1': { before: null, after: box('item-2') } }],
    [
      'a tree that names what is not there',
      { ...firstPatch(['item-1']), [PAGE_ID]: { before: page, after: { ...page, layers: ['film-a'], root: ['item-1', 'item-9'] } } },
    ],
    ['an item that stands nowhere', { ...firstPatch(['item-1']), 'item-2': { before: null, after: box('item-2') } }],
    [
      'a group in itself',
      {
        ...firstPatch(['item-g']),
        'item-g': {
          before: null,
          after: { type: 'item', kind: 'group', id: 'item-g', name: '', film: null, matrix: [1, 0, 0, 1, 0, 0], children: ['item-g'] },
        },
      },
    ],
    [
      'a film that the job does not have',
      { ...firstPatch(['item-1']), 'item-1': { before: null, after: { ...box('item-1'), layer: 'film-z' } } },
    ],
    ['no page', { [PAGE_ID]: { before: page, after: null } }],
    ['a flat matrix', { ...firstPatch(['item-1']), 'item-1': { before: null, after: { ...box('item-1'), matrix: [0, 0, 0, 0, 0, 0] } } }],
    ['nothing', {}],
    ['a list', []],
    ['prototype games', JSON.parse('{"__proto__":{"before":null,"after":null},"constructor":{"before":null,"after":{"type":"page"}}}')],
  ];

  test.each(bad)('%s is refused and the drawing is unharmed', async (_, patch) => {
    const id = await newJob();
    const answer = await server.http.post(`/api/jobs/${id}/changes`).send(change({}, 0, { patch: packedAs(patch) }));
    expect(answer.status).toBe(400);
    expect((answer.body as { detail: string }).detail.length).toBeGreaterThan(10);
    const { revision, records } = await open(id);
    expect([revision, records]).toEqual([0, emptyDrawing()]);
  });

  test('a change on what is not so, broken JSON and too much are said, unknown jobs are not found', async () => {
    const id = await newJob();
    await server.http
      .post(`/api/jobs/${id}/changes`)
      .send(change({ 'item-1': { before: box('item-1'), after: null } }, 0))
      .expect(400);
    await server.http.post(`/api/jobs/${id}/changes`).set('content-type', 'application/json').send('{"a":').expect(400);
    const huge = await server.http.post('/api/jobs').send({ text: 'x'.repeat(9 * 1024 * 1024) });
    expect([huge.status, (huge.body as { detail: string }).detail]).toEqual([413, 'The request is larger than this address takes (8 MB).']);
    await server.http.get('/api/jobs/job-that-is-not').expect(404);
    await server.http
      .post('/api/jobs/job-that-is-not/changes')
      .send(change(firstPatch(['item-1']), 0))
      .expect(404);
    await server.http.post('/api/jobs').send({ name: '   ' }).expect(400);
    await server.http.get('/api/fonts/..%2F..%2Fpackage/files/0').expect(404);
    await server.http.get('/api/health').expect(200, { status: 'ok' });
  });

  test('the API describes itself', async () => {
    const { body } = await server.http.get('/api/docs-json').expect(200);
    expect(Object.keys((body as { paths: object }).paths)).toContain('/api/jobs/{id}/changes');
  });
});
