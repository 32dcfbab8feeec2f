/** Nobody gets in: names, origins, bodies, the passphrase, machines' addresses. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { mkdtempSync, rmSync } from 'node:fs';
import { createServer, type Server } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { isNear } from '../src/machines/machine-address.ts';
import { depthOf } from '../src/http/bodies.ts';
import { addMachines, startServer, type TestServer } from './support.ts';

describe('a server on loopback', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await startServer(undefined, { hosts: ['signs.tern-lane.test'] });
    await addMachines(server, 9);
  });
  afterAll(() => server.close());

  test('goes by its own names only, also when a foreign name is pointed at it', async () => {
    await server.http.get('/api/jobs').set('host', 'rebound.example:80').expect(421);
    await server.http.get('/').set('host', '127.0.0.1.rebound.example').expect(421);
    await server.http.get('/api/jobs').set('host', 'localhost:7410').expect(200);
    await server.http.get('/api/jobs').set('host', 'signs.tern-lane.test').expect(200);
  });

  test('takes writes from its own pages only', async () => {
    const post = () => server.http.post('/api/jobs').send({ name: 'From elsewhere' });
    await post().set('origin', 'http://elsewhere.example').expect(403);
    await post().set('origin', 'null').expect(403);
    await post().set('sec-fetch-site', 'cross-site').expect(403);
    await post().set('sec-fetch-site', 'same-site').expect(403);
    await server.http.get('/api/jobs').set('sec-fetch-site', 'cross-site').expect(403);
    await post().set('host', 'localhost:7410').set('origin', 'http://localhost:7410').set('sec-fetch-site', 'same-origin').expect(201);
    await server.http.post('/api/assets').set('origin', 'http://elsewhere.example').attach('file', Buffer.from('x'), 'x.png').expect(403);
    expect(((await server.http.get('/api/jobs').expect(200)).body as unknown[]).length).toBe(1);
  });

  test('takes JSON and nothing that a foreign form can send', async () => {
    await server.http.post('/api/jobs').type('form').send({ name: 'A form' }).expect(415);
    await server.http.post('/api/jobs').set('content-type', 'text/plain').send('{"name":"Plain"}').expect(415);
    await server.http.post('/api/jobs').field('name', 'Parts').expect(415);
    await server.http.post('/api/assets').type('application/json').send({ file: 'x' }).expect(400);
  });

  test('looks at depth and size before it parses', async () => {
    const deep = `${'['.repeat(6_000_000)}`;
    const answer = await server.http.post('/api/jobs').set('content-type', 'application/json').send(deep).expect(413);
    expect((answer.body as { type: string }).type).toBe('limit.depth');
    expect(depthOf(Buffer.from('{"a":"[[[[[[","b":[[1]]}'), 64)).toBe(3);
    const large = await server.http
      .post('/api/assets')
      .attach('file', Buffer.alloc(65 * 1024 * 1024), 'large.png')
      .expect(413);
    expect((large.body as { detail: string }).detail).toBe('The file is larger than 64 MB.');
  });

  test('refuses changes of nothing and days that are none', async () => {
    await server.http.patch('/api/machines/machine-bench-610').send({ colour: 'red' }).expect(400);
    await server.http.patch('/api/stock/films/x').send({}).expect(400);
    for (const dueOn of ['9999-99-99', '2026-02-30', '1026-01-01', 'tomorrow'])
      await server.http.post('/api/jobs').send({ name: 'When', dueOn }).expect(400);
    await server.http.post('/api/jobs').send({ name: 'When', dueOn: '2028-02-29' }).expect(201);
  });

  test('speaks to machines on this computer and private networks only, and tells nothing of what else is there', async () => {
    expect(['127.0.0.1', '10.1.2.3', '192.168.7.7', '172.31.0.1', '::1', 'fd00::1'].map(isNear)).not.toContain(false);
    expect(['8.8.8.8', '172.32.0.1', '2001:db8::1', '0.0.0.0', '255.255.255.255'].map(isNear)).not.toContain(true);
    const refused = await server.http.patch('/api/machines/machine-bench-610').send({ host: '93.184.216.34' }).expect(400);
    expect((refused.body as { type: string }).type).toBe('input.address');
    const greeter: Server = createServer((socket) => socket.end('SSH-2.0-secret\r\n'));
    await new Promise<void>((resolve) => greeter.listen(0, '127.0.0.1', resolve));
    const { port } = greeter.address() as { port: number };
    const ask = async (at: number) => {
      await server.http.patch('/api/machines/machine-bench-610').send({ host: '127.0.0.1', port: at }).expect(200);
      const begun = performance.now();
      const { body } = await server.http.get('/api/machines/machine-bench-610/report').expect(200);
      return { text: (body as { text: string }).text.replace(/:\d+/, ''), slow: performance.now() - begun > 4500 };
    };
    const [open, closed] = [await ask(port), await ask(9)];
    expect(open).toEqual(closed);
    expect(open.slow).toBe(true);
    greeter.close();
    let last = 200;
    for (let k = 0; k < 40 && last === 200; k++)
      last = (await server.http.patch('/api/machines/machine-bench-610').send({ port: 1000 + k })).status;
    expect(last).toBe(429);
  }, 40_000);
});

describe('a server that others can reach', () => {
  test('does not start without a passphrase', async () => {
    const dir = mkdtempSync(join(tmpdir(), 'lorvek-open-'));
    await expect(startServer(dir, { host: '0.0.0.0' })).rejects.toMatchObject({ code: 'start.open' });
    rmSync(dir, { recursive: true, force: true });
  });

  test('lets in who knows it, for as long as they stay, and nobody else; wrong ones are counted', async () => {
    let server = await startServer(undefined, { host: '0.0.0.0', passphrase: 'low water at nine' });
    await server.http.get('/api/jobs').expect(401);
    await server.http.get('/api/events').expect(401);
    await server.http.get('/api/health').expect(200);
    await server.http.get('/api/access').expect(200, { asked: true, signedIn: false });
    await server.http.post('/api/access').send({ passphrase: 'high water' }).expect(401);
    const answer = await server.http.post('/api/access').send({ passphrase: 'low water at nine' }).expect(200);
    const cookie = String((answer.headers['set-cookie'] as unknown as string[])[0]);
    expect(cookie).toMatch(/HttpOnly/i);
    expect(cookie).toMatch(/SameSite=Strict/i);
    const token = cookie.split(';')[0] as string;
    await server.http.get('/api/jobs').set('cookie', token).expect(200);
    await server.http.get('/api/jobs').set('cookie', `${token}x`).expect(401);
    server = await server.restart();
    await server.http.get('/api/jobs').set('cookie', token).expect(200);
    const other = await server.http.post('/api/access').set('cookie', token).send({ passphrase: 'low water at nine' }).expect(200);
    const next = String((other.headers['set-cookie'] as unknown as string[])[0]).split(';')[0] as string;
    expect(next).not.toBe(token);
    await server.http.get('/api/jobs').set('cookie', token).expect(401);
    await server.http.delete('/api/access').set('cookie', next).expect(200, { asked: true, signedIn: false });
    await server.http.get('/api/jobs').set('cookie', next).expect(401);
    const tries = await Promise.all(Array.from({ length: 12 }, () => server.http.post('/api/access').send({ passphrase: 'guess' })));
    expect(tries.filter(({ status }) => status === 401).length).toBeLessThanOrEqual(5);
    await server.http.post('/api/access').send({ passphrase: 'low water at nine' }).expect(429);
    await server.close();
  });
});
