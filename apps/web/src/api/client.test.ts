/** What the page makes of the server's answers, of no answer, and of answers that are none. */
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { gunzipSync } from 'node:zlib';
import type { PostChange } from '@lorvek/model';
import { verdictOf } from '../document/refusals.ts';
import { api, whenSignInIsAsked } from './client.ts';

const given = globalThis.fetch;
let asked: { url: string; init: RequestInit }[] = [];
const answering = (answer: () => Response | Promise<Response>): void => {
  globalThis.fetch = (url, init) => {
    asked.push({ url: String(url), init: init ?? {} });
    return Promise.resolve().then(answer);
  };
};
const problem = (status: number, body: object | string): Response =>
  new Response(typeof body === 'string' ? body : JSON.stringify(body), { status, headers: { 'content-type': 'application/problem+json' } });

beforeEach(() => {
  asked = [];
});
afterEach(() => {
  globalThis.fetch = given;
});

/** What a call ends with. */
const endOf = (call: Promise<unknown>): Promise<unknown> => call.then((value) => ({ value })).catch((error: unknown) => error);

describe('an answer', () => {
  test('of the server is what it says', async () => {
    answering(() => new Response('[{"id":"job-1"}]'));
    expect(await api.jobs(true)).toEqual([{ id: 'job-1' }]);
    expect(asked[0]?.url).toBe('/api/jobs?archived=true');
  });

  test('that refuses is told in the server’s words, with its code and the way out', async () => {
    answering(() =>
      problem(400, { type: 'input.patch', title: 'x', status: 400, detail: 'It does not fit.', remedy: 'Send less.', field: 'patch' }),
    );
    expect(await endOf(api.stock())).toMatchObject({
      code: 'input.patch',
      message: 'It does not fit. Send less.',
      details: { field: 'patch', status: 400 },
    });
  });

  test.each(['<html>Gateway</html>', '{"error":1}', '', '{"type":'])(
    'that refuses without saying why (%s) is told by its number',
    async (body) => {
      answering(() => problem(502, body));
      expect(await endOf(api.stock())).toMatchObject({ code: 'http.502', message: 'The server answered with 502. Try again.' });
    },
  );

  test.each(['<html>Sign in to this network</html>', '', '{"revision":'])(
    'that is none (%s) counts as none: what was sent waits',
    async (body) => {
      answering(() => new Response(body, { status: 200 }));
      const error = await endOf(api.openJob('job-1'));
      expect(error).toMatchObject({ code: 'offline' });
      expect(verdictOf(error, 0)).toBe('wait');
    },
  );

  test('that does not come is told, and what was made waits', async () => {
    answering(() => Promise.reject(new TypeError('Failed to fetch')));
    const error = await endOf(api.openJob('job-1'));
    expect(error).toMatchObject({ code: 'offline' });
    expect(verdictOf(error, 0)).toBe('wait');
  });

  test('that nobody is signed in asks for the passphrase, once for each refusal', async () => {
    let times = 0;
    whenSignInIsAsked(() => times++);
    answering(() => problem(401, { type: 'access.sign-in', title: 'x', status: 401, detail: 'Sign in.' }));
    expect(await endOf(api.jobs(false))).toMatchObject({ code: 'access.sign-in' });
    expect(times).toBe(1);
    answering(() => problem(403, { type: 'access.host', title: 'x', status: 403, detail: 'Not here.' }));
    await endOf(api.jobs(false));
    expect(times).toBe(1);
    whenSignInIsAsked(() => undefined);
  });
});

describe('what is asked', () => {
  const change = (origin: string): PostChange => ({
    changeId: 'change-12345678',
    baseRevision: 3,
    origin,
    patch: { v: 2, records: {} } as never,
  });

  test('goes out as it is when it is short, packed when it is long, and is the same text', async () => {
    answering(() => new Response('{"revision":4}'));
    for (const length of [10, 200_000]) {
      const sent = { ...change('item.move'), group: 'x'.repeat(length) };
      await api.postChange('job-1', sent);
      const { init } = asked.at(-1)!;
      const headers = init.headers as Record<string, string>;
      const isPacked = headers['content-encoding'] === 'gzip';
      expect(isPacked).toBe(length > 64 * 1024);
      const text = isPacked ? gunzipSync(Buffer.from(await (init.body as Blob).arrayBuffer())).toString() : (init.body as string);
      expect(JSON.parse(text)).toEqual(sent);
    }
  });

  test('names what it is about safely, whatever an id holds', async () => {
    answering(() => new Response('{}'));
    await api.openJob('../stock?x=1#y');
    expect(asked[0]?.url).toBe('/api/jobs/..%2Fstock%3Fx%3D1%23y');
  });
});
