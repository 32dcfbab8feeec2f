/** Colour profiles of the shop, by printer and medium: what is shown and what is written goes through the same one. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { readFileSync } from 'node:fs';
import type { Profile, SheetPlates, SoftLook } from '@lorvek/model';
import { JobsService } from '../src/jobs/jobs.service.ts';
import { addMedium, MEDIUM, print, sticker } from './sticker.ts';
import { addMachines, addStock, startServer, type TestServer } from './support.ts';

const WIDE = 'machine-wide-1600';
let server: TestServer;
let base: string;

beforeAll(async () => {
  server = await startServer();
  await addMachines(server, 1);
  await addStock(server);
  await addMedium(server);
  const job = await server.app.get(JobsService).create({ name: 'Ovals' }, await sticker(server, '#00d21e'));
  base = `/api/jobs/${job.id}/sheets/${print.id}`;
});
afterAll(() => server.close());

const icc = readFileSync('assets/profiles/coated-fogra39.icc');
const bring = (bytes: Buffer, name = 'glossy.icc') => server.http.post('/api/profiles').attach('file', bytes, name);
const plates = async (printer?: string): Promise<number[]> => {
  const { body } = await server.http.get(`${base}/plates${printer ? `?printer=${printer}` : ''}`).expect(200);
  return (body as SheetPlates).passes[0]!.plates.map(({ cover }) => Math.round(1e5 * cover));
};

describe('colour profiles', () => {
  test('are read before they are kept, once each, and refused by what they are', async () => {
    const made = (await bring(icc).expect(201)).body as Profile;
    expect(made.name).toMatch(/FOGRA39/);
    expect(((await bring(icc, 'again.icc').expect(201)).body as Profile).id).toBe(made.id);
    expect((await server.http.get('/api/profiles').expect(200)).body).toHaveLength(1);
    await bring(Buffer.from('no profile')).expect(400);
    const screen = Buffer.from(icc);
    screen.write('mntr', 12, 'latin1');
    expect(((await bring(screen).expect(400)).body as { detail: string }).detail).toMatch(/of a screen/);
  });

  test('a printer has one by medium: plates, print file and soft view go through it, and it is not taken away', async () => {
    const [profile] = (await server.http.get('/api/profiles')).body as [Profile];
    const shipped = await plates();
    expect(await plates(WIDE)).toEqual(shipped);
    const rule = { profileId: profile.id, intent: 'saturation', blackPoint: false };
    await server.http
      .patch(`/api/machines/${WIDE}`)
      .send({ colours: { [MEDIUM]: rule } })
      .expect(200);
    const own = await plates(WIDE);
    expect(own).not.toEqual(shipped);
    expect(await plates()).toEqual(shipped);
    // another medium's rule is not this one's
    await server.http
      .patch(`/api/machines/${WIDE}`)
      .send({ colours: { other: rule } })
      .expect(200);
    expect(await plates(WIDE)).toEqual(shipped);
    await server.http
      .patch(`/api/machines/${WIDE}`)
      .send({ colours: { every: rule } })
      .expect(200);
    expect(await plates(WIDE)).toEqual(own);
    const pdf = (await server.http.get(`${base}/print.pdf?printer=${WIDE}`).buffer().expect(200)).body as Buffer;
    const usual = (await server.http.get(`${base}/print.pdf`).buffer().expect(200)).body as Buffer;
    expect(pdf.equals(usual)).toBe(false);
    const soft = (await server.http.get(`${base}/soft?printer=${WIDE}`).expect(200)).body as SoftLook;
    expect(soft.profile).toBe(profile.name);
    // this green is more than four inks can do
    expect(soft.beyondShare).toBeGreaterThan(0.8);
    expect(soft.picture).toMatch(/^data:image\/png;base64,/);
    await server.http.delete(`/api/profiles/${profile.id}`).expect(409);
    await server.http.patch(`/api/machines/${WIDE}`).send({ colours: null }).expect(200);
    await server.http.delete(`/api/profiles/${profile.id}`).expect(200);
    await server.http
      .patch(`/api/machines/${WIDE}`)
      .send({ colours: { every: rule } })
      .expect(200);
    expect(((await server.http.get(`${base}/plates?printer=${WIDE}`).expect(400)).body as { detail: string }).detail).toMatch(
      /no longer there/,
    );
    await server.http.patch(`/api/machines/${WIDE}`).send({ colours: null }).expect(200);
    await server.http.get(`${base}/soft?sheet=9`).expect(400);
  });
});
