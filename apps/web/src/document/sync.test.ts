/** Two pages of one job and a server that loses, delays, repeats and refuses: nothing is lost without a word. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { AppError, InputError, StaleError } from '@lorvek/core';
import {
  applyPatch,
  diff,
  invertPatch,
  isEmptyPatch,
  isSame,
  rebasePatch,
  unpack,
  validateChange,
  type Drawing,
  type Job,
  type LoggedChange,
  type PostChange,
} from '@lorvek/model';
import { createStore, type StoreApi } from 'zustand/vanilla';
import { randomDrawing, randomEdit } from '../../../../packages/model/src/drawing.support.ts';
import { CLOSED, type Kept, type OpenDocument } from './open-document.ts';
import { DocumentSync } from './sync.ts';

const JOB = { id: 'job-1', name: 'Both' } as Job;
type Fault = 'none' | 'lost before' | 'lost after' | 'full' | 'broken' | 'refuse';

/** What waits to happen: answers, events, timers. One after the other, in an order by lot. */
class Turns {
  private waiting: (() => void)[] = [];

  add(work: () => void): () => void {
    this.waiting.push(work);
    return () => {
      this.waiting = this.waiting.filter((other) => other !== work);
    };
  }

  get count(): number {
    return this.waiting.length;
  }

  async take(n: number): Promise<void> {
    const [work] = this.waiting.splice(n % Math.max(1, this.waiting.length), 1);
    work?.();
    // lets everything that follows from it at once happen
    for (let k = 0; k < 40; k++) await Promise.resolve();
  }
}

/** The server's side by the same rules as the real one: revision, once by id, checked. */
class TestServer {
  drawing: Drawing;
  log: LoggedChange[] = [];
  fault: Fault = 'none';
  listeners = new Set<(revision: number) => void>();
  readOnly: string | null = null;

  constructor(
    seed: number,
    private readonly turns: Turns,
  ) {
    this.drawing = randomDrawing(seed);
  }

  get revision(): number {
    return this.log.length;
  }

  private later<T>(work: () => T): Promise<T> {
    return new Promise((resolve, reject) => {
      this.turns.add(() => {
        const { fault } = this;
        try {
          if (fault === 'lost before') throw new AppError('offline', 'away');
          const answer = work();
          if (fault === 'lost after') throw new AppError('offline', 'away');
          resolve(answer);
        } catch (error) {
          reject(error instanceof Error ? error : new Error(String(error)));
        }
      });
    });
  }

  openJob = (id: string) =>
    this.later(() => ({
      job: { ...JOB, id },
      revision: this.revision,
      records: { ...this.drawing },
      note: null,
      readOnly: this.readOnly,
    }));
  changesSince = (_id: string, revision: number) => this.later(() => this.log.slice(revision));
  history = (_id: string, upTo: number) => this.later(() => ({ changes: this.log.slice(0, upTo), texts: {}, closed: false }));

  postChange = (_id: string, sent: PostChange) =>
    this.later(() => {
      const change = JSON.parse(JSON.stringify(sent)) as Required<PostChange>;
      const known = this.log.find(({ changeId }) => changeId === change.changeId);
      if (known) return { revision: known.revision };
      if (this.fault === 'full')
        throw new AppError('storage.full', 'The disk is full; nothing is saved until that is put right.', {
          status: 507,
          since: '2026-05-31T14:02:00Z',
        });
      if (this.fault === 'broken') throw new AppError('internal', 'An error of its own.', { status: 500 });
      if (this.fault === 'refuse') throw new AppError('limit.body', 'Too large.', { status: 413 });
      if (change.baseRevision !== this.revision) throw new StaleError('stale');
      let next: Drawing;
      try {
        const patch = unpack(this.drawing, change.patch);
        next = applyPatch(this.drawing, patch);
        validateChange(next, patch);
      } catch (error) {
        throw new InputError('document', `technical: ${String(error)}`);
      }
      this.drawing = next;
      const { changeId, kind = 'do', origin, group = '', patch } = change;
      this.log.push({ revision: this.revision + 1, changeId, kind, origin, group, patch });
      for (const listener of this.listeners) this.turns.add(() => listener(this.revision));
      return { revision: this.revision };
    });
}

/** One tab: its store, its place for what waits, which outlives it. */
class Tab {
  store: StoreApi<OpenDocument> = createStore(() => CLOSED);
  kept: Kept = { pending: [], aside: [] };
  told: string[] = [];
  sync: DocumentSync;
  isDeaf = false;
  private ids = 0;

  constructor(
    readonly name: string,
    private readonly server: TestServer,
    private readonly turns: Turns,
  ) {
    this.sync = this.begin();
    server.listeners.add((revision) => this.isDeaf || this.sync.notice(JOB.id, revision));
  }

  private begin(): DocumentSync {
    let alive = true;
    const place = {
      keep: (_: string, kept: Kept) => {
        if (alive) this.kept = JSON.parse(JSON.stringify(kept)) as Kept;
      },
      takeOver: () => Promise.resolve(this.kept),
    };
    this.end = () => {
      alive = false;
    };
    return new DocumentSync({
      store: this.store,
      server: this.server,
      place,
      tell: (level, text) => level !== 'info' && this.told.push(text),
      later: (work) => this.turns.add(() => alive && work()),
      newId: () => `change-${this.name}-${++this.ids}`,
      now: () => new Date(0),
    });
  }

  private end = (): void => undefined;

  open = (): Promise<void> => this.sync.open(JOB.id).catch(() => undefined);

  get isOpen(): boolean {
    return this.store.getState().job !== undefined;
  }

  edit(n: number): void {
    const { drawing } = this.store.getState();
    const patch = diff(drawing, randomEdit(drawing, n));
    if (isEmptyPatch(patch)) return;
    this.sync.commit({ kind: 'do', origin: 'test.edit', group: n % 5 === 0 ? 'drag' : '', patch }, []);
  }

  undo(): void {
    const { history, drawing } = this.store.getState();
    const last = history.back.at(-1);
    if (!last) return;
    const { patch } = rebasePatch(drawing, invertPatch(last.patch));
    if (!isEmptyPatch(patch)) this.sync.commit({ kind: 'undo', origin: last.origin, group: '', patch }, []);
  }

  /** The page is gone, in the middle of whatever it did; the browser opens it anew. */
  reload(): void {
    this.end();
    this.store = createStore(() => CLOSED);
    this.sync = this.begin();
    void this.open();
  }
}

interface World {
  turns: Turns;
  server: TestServer;
  tabs: [Tab, Tab];
}

const FAULTS: readonly Fault[] = ['none', 'none', 'lost before', 'lost after', 'full', 'broken', 'refuse'];

async function step({ turns, server, tabs }: World, kind: number, n: number, faults: readonly Fault[]): Promise<void> {
  const tab = tabs[n % 2] as Tab;
  switch (kind) {
    case 0:
    case 1:
      if (tab.isOpen) tab.edit(n);
      return;
    case 2:
      if (tab.isOpen) tab.undo();
      return;
    case 3:
      server.fault = faults[n % faults.length] as Fault;
      return;
    case 4:
      tab.isDeaf = !tab.isDeaf;
      if (!tab.isDeaf) tab.sync.reconnect();
      return;
    case 5:
      if (n % 3 === 0) tab.reload();
      return;
    default:
      for (let k = 0; k < 1 + (n % 4); k++) await turns.take(n + k);
  }
}

async function settle({ turns, server, tabs }: World): Promise<void> {
  server.fault = 'none';
  for (const tab of tabs) {
    tab.isDeaf = false;
    if (!tab.isOpen) void tab.open();
    tab.sync.reconnect();
  }
  for (let k = 0; turns.count > 0 && k < 5000; k++) await turns.take(0);
  for (const tab of tabs) tab.sync.reconnect();
  for (let k = 0; turns.count > 0 && k < 5000; k++) await turns.take(0);
}

async function play(seed: number, steps: readonly (readonly [number, number])[], faults: readonly Fault[]): Promise<World> {
  const turns = new Turns();
  const server = new TestServer(seed, turns);
  const world: World = { turns, server, tabs: [new Tab('a', server, turns), new Tab('b', server, turns)] };
  for (const tab of world.tabs) void tab.open();
  await turns.take(0);
  await turns.take(0);
  for (const [kind, n] of steps) await step(world, kind, n, faults);
  await settle(world);
  return world;
}

const script = fc.array(fc.tuple(fc.nat({ max: 9 }), fc.nat()), { minLength: 5, maxLength: 60 });

function expectAgreed({ server, tabs }: World): void {
  for (const { store } of tabs) {
    const { drawing, base, revision, pending, save } = store.getState();
    expect([save, pending.length, revision]).toEqual(['saved', 0, server.revision]);
    expect(isSame(drawing, server.drawing) && isSame(base, server.drawing)).toBe(true);
  }
}

describe('two pages and a server', () => {
  test('that loses and repeats: both end with the server’s drawing, nothing is refused, nothing doubled', async () => {
    await fc.assert(
      fc.asyncProperty(fc.nat(), script, async (seed, steps) => {
        const world = await play(seed, steps, ['none', 'none', 'lost before', 'lost after', 'full']);
        expectAgreed(world);
        expect(world.tabs.flatMap(({ store }) => store.getState().aside)).toEqual([]);
        const ids = world.server.log.map(({ changeId }) => changeId);
        expect(new Set(ids).size).toBe(ids.length);
      }),
      { numRuns: 200, seed: 71 },
    );
  });

  test('that also breaks and refuses: what it refused is set aside with its reason, the rest is saved', async () => {
    await fc.assert(
      fc.asyncProperty(fc.nat(), script, async (seed, steps) => {
        const world = await play(seed, steps, FAULTS);
        expectAgreed(world);
        for (const { store, kept } of world.tabs) {
          const { aside } = store.getState();
          expect(aside.map(({ reason }) => reason).filter((reason) => reason.includes('technical'))).toEqual([]);
          expect(kept.aside).toEqual(JSON.parse(JSON.stringify(aside)));
        }
      }),
      { numRuns: 200, seed: 71 },
    );
  });

  test('one sets X, the other Y: it lies where one of them put it, and the other is told', async () => {
    const world = await play(4, [], []);
    const [a, b] = world.tabs;
    const { drawing } = a.store.getState();
    const [id, item] = Object.entries(drawing).find(([, record]) => record.type === 'item' && record.kind !== 'group')!;
    if (item.type !== 'item') throw new Error('no item');
    const [m0, m1, m2, m3, x, y] = item.matrix;
    const at = (e: number, f: number) => ({
      [id]: { before: item, after: { ...item, matrix: [m0, m1, m2, m3, e, f] as typeof item.matrix } },
    });
    a.sync.commit({ kind: 'do', origin: 'x.y', group: '', patch: at(300, y) }, []);
    b.sync.commit({ kind: 'do', origin: 'x.y', group: '', patch: at(x, 250) }, []);
    await settle(world);
    expectAgreed(world);
    const now = world.server.drawing[id];
    expect([
      [300, y],
      [x, 250],
    ]).toContainEqual(now?.type === 'item' ? now.matrix.slice(4) : []);
    expect([...a.told, ...b.told]).toHaveLength(1);
  });

  test('a disk that is full: the time since when is told, everything is kept, and goes out when there is room', async () => {
    const world = await play(5, [], []);
    const [a] = world.tabs;
    world.server.fault = 'full';
    a.edit(0);
    a.edit(16);
    for (let k = 0; k < 20; k++) await world.turns.take(0);
    expect(a.store.getState()).toMatchObject({
      save: 'trouble',
      trouble: expect.stringMatching(/^The disk is full; nothing since \d\d:\d\d is saved\./) as unknown as string,
    });
    expect(a.store.getState().pending.length).toBeGreaterThan(0);
    expect(a.kept.pending.length).toBe(a.store.getState().pending.length);
    await settle(world);
    expectAgreed(world);
  });

  test('a page that is gone before its change is out: the next one finds it and sends it once', async () => {
    const world = await play(6, [], []);
    const [a] = world.tabs;
    world.server.fault = 'lost after';
    for (const n of [3, 5, 9, 31]) a.edit(n);
    const made = a.store.getState().drawing;
    for (let k = 0; k < 3; k++) await world.turns.take(0);
    a.reload();
    await settle(world);
    expectAgreed(world);
    expect(isSame(world.server.drawing, made)).toBe(true);
  });

  test('the history beyond this page comes from the log, each step once', async () => {
    const world = await play(7, [], []);
    const [a] = world.tabs;
    for (const n of [0, 48, 64, 80]) a.edit(n);
    const steps = a.store.getState().history.back.length;
    await settle(world);
    a.reload();
    await settle(world);
    a.edit(96);
    const learnt = a.sync.learnLog();
    await settle(world);
    await learnt;
    expect(a.store.getState().history.back.length).toBe(steps + 1);
    let { drawing } = a.store.getState();
    for (const { patch } of [...a.store.getState().history.back].reverse()) drawing = applyPatch(drawing, invertPatch(patch));
    expect(isSame(drawing, randomDrawing(7))).toBe(true);
  });

  test('what was set aside can be made again, or let go', async () => {
    const world = await play(8, [], []);
    const [a] = world.tabs;
    world.server.fault = 'refuse';
    a.edit(0);
    for (let k = 0; k < 3; k++) await world.turns.take(0);
    const [aside] = a.store.getState().aside;
    expect(aside?.reason).toBe('Too large.');
    world.server.fault = 'none';
    a.sync.tryAgain(aside!.changeId);
    await settle(world);
    expect(a.store.getState().aside).toEqual([]);
    expect(world.server.revision).toBe(1);
    expectAgreed(world);
  });
});

describe('a job that can be looked at only', () => {
  test('takes no change, says why, and sets aside what waited for it', async () => {
    const turns = new Turns();
    const server = new TestServer(3, turns);
    const tab = new Tab('a', server, turns);
    void tab.open();
    await turns.take(0);
    server.fault = 'lost before';
    tab.edit(7);
    await turns.take(0);
    expect(tab.kept.pending).toHaveLength(1);
    server.fault = 'none';
    server.readOnly = 'Made by a newer one.';
    tab.reload();
    for (let k = 0; turns.count > 0 && k < 50; k++) await turns.take(0);
    const seen = tab.store.getState();
    expect(seen).toMatchObject({ save: 'read-only', trouble: 'Made by a newer one.', pending: [] });
    expect(seen.aside.map(({ reason }) => reason)).toEqual(['Made by a newer one.']);
    expect(tab.kept.aside).toEqual(seen.aside);
    tab.edit(8);
    tab.sync.tryAgain(seen.aside[0]!.changeId);
    tab.sync.reconnect();
    tab.sync.notice(JOB.id, 99);
    expect(turns.count).toBe(0);
    expect(tab.store.getState()).toMatchObject({ drawing: seen.drawing, save: 'read-only', aside: seen.aside });
    expect(tab.told).toContain('Made by a newer one.');
    expect(server.log).toEqual([]);
  });
});
