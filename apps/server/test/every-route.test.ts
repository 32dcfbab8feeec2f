/** Every request that the server says it takes, asked wrongly: a plain answer each time, and the server goes on. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { addMachines, addStock, freePort, startServer, type TestServer } from './support.ts';

interface Route {
  readonly method: 'get' | 'post' | 'put' | 'patch' | 'delete';
  readonly path: string;
}
const METHODS = ['get', 'post', 'put', 'patch', 'delete'] as const;

let server: TestServer;
let routes: Route[] = [];
let jobId = '';
beforeAll(async () => {
  server = await startServer();
  await addMachines(server, await freePort());
  await addStock(server);
  jobId = ((await server.http.post('/api/jobs').send({ name: 'Kept' }).expect(201)).body as { id: string }).id;
  const { body } = await server.http.get('/api/docs-json').expect(200);
  const { paths } = body as { paths: Record<string, object> };
  routes = Object.entries(paths).flatMap(([path, ways]) =>
    METHODS.filter((method) => method in ways).map((method): Route => ({ method, path })),
  );
  // the stream of events has no end
  routes = routes.filter(({ path }) => path !== '/api/events');
});
afterAll(() => server.close());

/** Names that are none, are too long, or try to lead elsewhere. */
const anyName = fc.oneof(
  fc.constantFrom(
    'none',
    '0',
    '-1',
    'null',
    '__proto__',
    'constructor',
    '%00',
    '%2e%2e%2f%2e%2e%2fetc%2fpasswd',
    '..%5c..%5c',
    'a'.repeat(3000),
  ),
  fc.string({ minLength: 1, maxLength: 30 }).map(encodeURIComponent),
);
/** Bodies that are none of those that are asked for, nearly always. */
const anyBody = fc.oneof(
  fc.constantFrom<unknown>(null, [], '', 'text', 0, -1, 1e300, true, { name: null }, { name: 'x'.repeat(20_000) }, { id: { $ne: 1 } }),
  fc.jsonValue(),
  fc.record({ name: fc.jsonValue(), revision: fc.jsonValue(), changeId: fc.jsonValue(), patch: fc.jsonValue(), what: fc.jsonValue() }),
);

const asked = ({ method, path }: Route, names: readonly string[], query: string) => {
  let n = 0;
  const at = path.replace(/\{\w+\}/g, () => names[n++ % names.length] ?? 'none');
  return server.http[method](`${at}${query}`);
};

/** What an answer to a wrong question has to look like. */
function expectPlain({ status, body, text = '' }: { status: number; body: unknown; text?: string }, route: Route): void {
  const where = `${route.method} ${route.path}: ${status} ${text.slice(0, 200)}`;
  expect(where).toMatch(/: [234]\d\d /);
  if (status < 400) return;
  // what, and the way on; never where in the program it was found
  expect({ where, code: typeof (body as { type?: unknown }).type }).toEqual({ where, code: 'string' });
  expect(text).not.toMatch(/node_modules|\.ts:\d|\.js:\d|SQLITE|SELECT /);
}

describe('every route', () => {
  test('is told of: jobs, the queue, stock and machines are among them', () => {
    expect(routes.length).toBeGreaterThan(60);
    for (const path of ['/api/jobs', '/api/jobs/{id}/changes', '/api/machines', '/api/stock'])
      expect(routes.map((route) => route.path)).toContain(path);
  });

  test('answers names that are none plainly', async () => {
    for (const route of routes.filter(({ path }) => path.includes('{')))
      await fc.assert(
        fc.asyncProperty(fc.array(anyName, { minLength: 1, maxLength: 3 }), async (names) => {
          expectPlain(await asked(route, names, ''), route);
        }),
        { numRuns: 6 },
      );
  });

  test('answers bodies and questions that are none plainly', async () => {
    // brought back and taken over are whole shops: they have tests of their own
    const taking = routes.filter(({ method, path }) => method !== 'get' && method !== 'delete' && !path.includes('backups'));
    for (const route of taking)
      await fc.assert(
        fc.asyncProperty(anyBody, fc.boolean(), async (sent, isKnown) => {
          const request = asked(route, [isKnown ? jobId : 'none'], '').set('content-type', 'application/json');
          expectPlain(await request.send(JSON.stringify(sent) ?? ''), route);
        }),
        { numRuns: 8 },
      );
    for (const route of routes.filter(({ method }) => method === 'get'))
      await fc.assert(
        fc.asyncProperty(fc.constantFrom('?page=-1', '?take=1e9', '?since=never', '?a[b]=c', '?__proto__[x]=1', '?q=%'), async (query) => {
          expectPlain(await asked(route, [jobId], query), route);
        }),
        { numRuns: 3 },
      );
  });

  test('answers what is no JSON, or none of its kind, plainly', async () => {
    for (const route of routes.filter(({ method }) => method === 'post' || method === 'patch' || method === 'put')) {
      if (route.path.includes('backups')) continue;
      for (const [type, text] of [
        ['application/json', '{"name":'],
        ['application/xml', '<name/>'],
        ['multipart/form-data; boundary=x', '--x\r\nbroken'],
        ['text/plain', 'name'],
      ] as const)
        expectPlain(await asked(route, ['none'], '').set('content-type', type).send(text), route);
    }
  });

  test('left the job where it was, and the server at work', async () => {
    await server.http.get('/api/health').expect(200);
    // its name may have become another: a name is what it may be asked for
    expect((await server.http.get(`/api/jobs/${jobId}`).expect(200)).body).toMatchObject({ job: { id: jobId } });
    // nothing of the names went anywhere
    expect(({} as { x?: unknown }).x).toBeUndefined();
  });
});
