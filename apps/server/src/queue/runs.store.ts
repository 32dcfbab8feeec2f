/** Runs in the database. Each move of state is one compare-and-set statement, checked against the table of moves. */
import { Injectable } from '@nestjs/common';
import { randomUUID } from 'node:crypto';
import { InputError } from '@lorvek/core';
import { formatPath } from '@lorvek/core/geometry';
import type { Offcut } from '@lorvek/core/sheet';
import { canMove, MOVABLE_STATES, OPEN_STATES, type CutRun, type Run, type RunEvent, type RunState, type RunTotals } from '@lorvek/model';
import { And, In, IsNull, LessThan, MoreThanOrEqual, Not, type EntityManager, type QueryDeepPartialEntity } from 'typeorm';
import { RollRow, RunFileRow, RunLogRow, RunRow, type RunFileRole } from '../db/entities.ts';
import { Tx } from '../db/tx.ts';
import { reservedOn } from './reserved.ts';
import { EventsService } from '../events/events.service.ts';

export type Carriage = CutRun['carriage'];

/** A run before it has its place in the queue, with its files. */
export interface NewRun {
  readonly row: Omit<RunRow, 'place'>;
  readonly files: Readonly<Partial<Record<RunFileRole, string>>>;
}

const LISTED = 200;
const LOAD_IT = 'The sheet is printed. Put it into the cutter, then let the camera read its code and find its marks.';

@Injectable()
export class RunsStore {
  /** Where the tools are now; not worth a row. */
  private readonly carriages = new Map<string, Carriage>();

  constructor(
    private readonly tx: Tx,
    private readonly events: EventsService,
  ) {
    events.onRestored(() => this.carriages.clear());
  }

  toRun(row: RunRow, hasPicture: boolean): Run {
    const {
      orderId: _order,
      rollId: _roll,
      kind,
      cutMm,
      after,
      heldFor,
      step,
      marks,
      correction,
      offMm,
      inkMl,
      paper: _paper,
      laminateId: _laminate,
      origin,
      goOnAt: _goOnAt,
      ...run
    } = row;
    if (kind === 'print') return { ...run, kind, inkMl, hasPicture };
    return {
      ...run,
      kind,
      cutMm,
      after,
      heldFor,
      step,
      marks,
      correction,
      origin,
      offMm,
      hasPicture,
      carriage: this.carriages.get(row.id) ?? null,
    };
  }

  private async toRuns(rows: readonly RunRow[]): Promise<Run[]> {
    const ids = rows.map(({ id }) => id);
    const pictures = await this.tx.read((manager) => manager.find(RunFileRow, { where: { runId: In(ids), role: 'picture' } }));
    const pictured = new Set(pictures.map(({ runId }) => runId));
    return rows.map((row) => this.toRun(row, pictured.has(row.id)));
  }

  /**
   * All that are not over, and of those that are the newest, the ones before a place when it is given; newest first.
   * @returns at most `LISTED` that are over: fewer are all that there are
   */
  async list(before?: number): Promise<Run[]> {
    const rows = await this.tx.read(async (manager) => {
      const over = await manager.find(RunRow, {
        where: { state: Not(In([...OPEN_STATES])), ...(before === undefined ? {} : { place: LessThan(before) }) },
        order: { place: 'DESC' },
        take: LISTED,
      });
      if (before !== undefined) return over;
      return [...(await manager.find(RunRow, { where: { state: In([...OPEN_STATES]) }, order: { place: 'DESC' } })), ...over];
    });
    return this.toRuns(rows.sort((a, b) => b.place - a.place));
  }

  /** What happened to a run, first things first. */
  async log(runId: string): Promise<RunEvent[]> {
    const rows = await this.tx.read((manager) => manager.find(RunLogRow, { where: { runId }, order: { id: 'ASC' } }));
    return rows.map(({ at, text }) => ({ at, text }));
  }

  /** What was done between two instants, ISO 8601. */
  async totals(from: string, to: string): Promise<RunTotals> {
    const [since, until] = [new Date(from).toISOString(), new Date(to).toISOString()];
    const rows = await this.tx.read((manager) =>
      manager.find(RunRow, { where: { endedAt: And(MoreThanOrEqual(since), LessThan(until)) } }),
    );
    const done = rows.filter(({ state }) => state === 'done');
    const sum = (of: (row: RunRow) => number): number => done.reduce((total, row) => total + of(row), 0);
    const inkMl: Record<string, number> = {};
    for (const row of done) for (const [name, ml] of Object.entries(row.inkMl ?? {})) inkMl[name] = (inkMl[name] ?? 0) + ml;
    return {
      cuts: done.filter(({ kind }) => kind === 'cut').length,
      prints: done.filter(({ kind }) => kind === 'print').length,
      filmMm: sum(({ rollId, lengthMm }) => (rollId === null ? 0 : lengthMm)),
      cutMm: sum(({ cutMm }) => cutMm),
      inkMl,
      failed: rows.filter(({ state }) => state === 'failed').length,
    };
  }

  /**
   * Gives a run that waits another place among those of its machine that wait.
   * @param before the run that comes after it; null: it comes last
   * @throws InputError `input.state` when one of the two waits no longer
   */
  async reorder(id: string, before: string | null): Promise<void> {
    const changed = await this.tx.run(async (manager) => {
      const moved = await manager.findOneBy(RunRow, { id });
      if (!moved) throw new InputError('missing', 'This run does not exist.');
      const where = { machineId: moved.machineId, state: In([...MOVABLE_STATES]) };
      const rows = await manager.find(RunRow, { where, order: { place: 'ASC' } });
      const others = rows.filter((row) => row.id !== id);
      const at = before === null ? others.length : others.findIndex((row) => row.id === before);
      if (others.length === rows.length || at < 0)
        throw new InputError('state', 'Only runs that wait for the same machine change places; one of these waits no longer.');
      const wanted = [...others.slice(0, at), moved, ...others.slice(at)];
      const places = rows.map(({ place }) => place);
      const out = wanted.flatMap((row, i) => (row.place === places[i] ? [] : [{ id: row.id, place: places[i] as number }]));
      for (const row of out) await manager.update(RunRow, { id: row.id }, { place: row.place });
      if (out.length > 0) await note(manager, id, before === null ? 'Put last in the queue.' : 'Given another place in the queue.');
      return out;
    });
    for (const row of changed) await this.tell(row.id);
  }

  /** Sets where a cut begins. @returns false when it is under way meanwhile */
  async setOrigin(row: RunRow, origin: { x: number; y: number } | null): Promise<boolean> {
    const text = origin ? `Begins at ${origin.x.toFixed(1)}, ${origin.y.toFixed(1)} mm.` : 'Begins at the machine’s own origin.';
    return this.giveTo(row, { origin }, {}, text);
  }

  /** The first of those that wait for its machine; null: none waits. */
  async firstOf(machineId: string): Promise<string | null> {
    const where = { machineId, state: In([...MOVABLE_STATES]) };
    return (await this.tx.read((manager) => manager.findOne(RunRow, { where, order: { place: 'ASC' } })))?.id ?? null;
  }

  /** Gives a run that is not under way to another machine, with the file for it. @returns false when it is under way meanwhile */
  async giveTo(row: RunRow, fields: Partial<RunRow>, files: Partial<Record<RunFileRole, string>>, text: string): Promise<boolean> {
    const moved = await this.tx.run(async (manager) => {
      // elsewhere it begins anew
      const changes = { progress: 0, goOnAt: null, ...fields } as QueryDeepPartialEntity<RunRow>;
      const { affected } = await manager.update(RunRow, { id: row.id, state: row.state }, changes);
      if (affected !== 1) return false;
      for (const [role, file] of Object.entries(files) as [RunFileRole, string][])
        await manager.upsert(RunFileRow, { runId: row.id, role, file }, ['runId', 'role']);
      await note(manager, row.id, text);
      return true;
    });
    if (moved) await this.tell(row.id);
    return moved;
  }

  /** @throws InputError `input.missing` */
  async run(id: string): Promise<Run> {
    const [run] = await this.toRuns([await this.row(id)]);
    return run as Run;
  }

  /** Name of the kept file that a run has for something; undefined when it has none. */
  async file(runId: string, role: RunFileRole): Promise<string | undefined> {
    return (await this.tx.read((manager) => manager.findOneBy(RunFileRow, { runId, role })))?.file;
  }

  async files(runId: string): Promise<Partial<Record<RunFileRole, string>>> {
    const rows = await this.tx.read((manager) => manager.find(RunFileRow, { where: { runId } }));
    return Object.fromEntries(rows.map(({ role, file }) => [role, file]));
  }

  /** @throws InputError `input.missing` */
  async row(id: string): Promise<RunRow> {
    const row = await this.tx.read((manager) => manager.findOneBy(RunRow, { id }));
    if (!row) throw new InputError('missing', 'This run does not exist.');
    return row;
  }

  async ofOrder(orderId: string): Promise<Run[]> {
    const rows = await this.tx.read((manager) => manager.find(RunRow, { where: { orderId }, order: { place: 'ASC' } }));
    return this.toRuns(rows);
  }

  /**
   * Adds an order's runs, unless the order was taken before: then the runs it made. Their length is kept on their rolls.
   * @throws InputError `input.roll` when the runs fit singly, and not together with what is kept already
   */
  async add(orderId: string, runs: readonly NewRun[]): Promise<RunRow[]> {
    const { known, fresh } = await this.tx.run(async (manager) => {
      const before = await manager.find(RunRow, { where: { orderId }, order: { place: 'ASC' } });
      if (before.length > 0) return { known: before, fresh: false };
      const last = (await manager.maximum(RunRow, 'place')) ?? 0;
      await reserve(manager, runs);
      const placed = runs.map(({ row }, i): RunRow => ({ ...row, place: last + 1 + i }));
      await manager.insert(RunRow, placed as QueryDeepPartialEntity<RunRow>[]);
      const files = runs.flatMap(({ row, files }) =>
        (Object.entries(files) as [RunFileRole, string][]).map(([role, file]) => ({ runId: row.id, role, file })),
      );
      await manager.insert(RunFileRow, files);
      for (const row of placed) await note(manager, row.id, `Sent to ${row.machineName}. ${SAID[row.state]}`);
      return { known: placed, fresh: true };
    });
    if (fresh) for (const row of known) this.events.emit({ type: 'run', run: this.toRun(row, false) });
    return known;
  }

  /**
   * Moves a run from one state to another, if it still is in the first.
   * @returns false when somebody else was faster
   */
  async move(id: string, from: RunState, to: RunState, fields: Partial<RunRow> = {}): Promise<boolean> {
    if (!canMove(from, to)) throw new InputError('state', `A run that is ${from} cannot become ${to}.`);
    const endedAt = to === 'done' || to === 'failed' || to === 'cancelled' ? new Date().toISOString() : null;
    const affected = await this.tx.run(async (manager) => {
      const changes = { ...fields, state: to, endedAt } as QueryDeepPartialEntity<RunRow>;
      const done = await manager.update(RunRow, { id, state: from }, changes);
      if (done.affected === 1) await note(manager, id, fields.reason ? `${SAID[to]} ${fields.reason}` : SAID[to]);
      if (done.affected === 1 && to === 'working') await forgetGoingOn(manager, id);
      return done.affected;
    });
    if (to !== 'working' && to !== 'paused') this.carriages.delete(id);
    if (affected === 1) await this.tell(id);
    return affected === 1;
  }

  /** Notes something of a run without a move, and tells it. */
  async note(id: string, fields: Partial<RunRow>, files: Partial<Record<RunFileRole, string>> = {}): Promise<void> {
    await this.tx.run(async (manager) => {
      if (Object.keys(fields).length > 0) await manager.update(RunRow, { id }, fields as QueryDeepPartialEntity<RunRow>);
      if (fields.reason) await note(manager, id, fields.reason);
      if (fields.correction)
        await note(
          manager,
          id,
          fields.step === 'ready' ? `Marks found, corrected by ${fields.correction.model}.` : 'Not all marks were found.',
        );
      for (const [role, file] of Object.entries(files) as [RunFileRole, string][])
        await manager.upsert(RunFileRow, { runId: id, role, file }, ['runId', 'role']);
    });
    await this.tell(id);
  }

  /**
   * A run is done: its state, its picture, the film it used and the cut that waited for a print are one transaction.
   * @returns false when it is no longer under way
   */
  async finish(
    row: RunRow,
    result: { pictureFile: string | null; offMm: number | null; inkMl: Record<string, number> | null; reason: string | null },
  ): Promise<boolean> {
    const { pictureFile, offMm, inkMl, reason } = result;
    const endedAt = new Date().toISOString();
    const done = await this.tx.run(async (manager) => {
      const where = { id: row.id, state: In(['working', 'paused'] satisfies RunState[]) };
      const { affected } = await manager.update(RunRow, where, { state: 'done', progress: 1, reason, offMm, inkMl, endedAt });
      if (affected !== 1) return false;
      await note(manager, row.id, SAID.done);
      if (pictureFile !== null) await manager.upsert(RunFileRow, { runId: row.id, role: 'picture', file: pictureFile }, ['runId', 'role']);
      await manager.update(
        RunRow,
        { after: row.id, state: 'held', heldFor: 'print' },
        { state: 'needs-you', heldFor: null, step: 'load', reason: LOAD_IT },
      );
      // a roll that is gone meanwhile is no error
      if (row.rollId !== null)
        await manager.query('UPDATE roll SET length_left_mm = max(0, length_left_mm - ?) WHERE id = ?', [row.lengthMm, row.rollId]);
      // neither is a laminate
      if (row.laminateId !== null)
        await manager.query('UPDATE supply SET left_amount = max(0, left_amount - ?) WHERE id = ?', [row.lengthMm, row.laminateId]);
      // ink that nobody keeps in Stock is not missed
      for (const [plate, ml] of Object.entries(inkMl ?? {}))
        await manager.query('UPDATE supply SET left_amount = max(0, left_amount - ?) WHERE plate = ?', [ml, plate]);
      return true;
    });
    this.carriages.delete(row.id);
    await this.tell(row.id);
    if (done && row.kind === 'print') for (const id of await this.followers(row.id)) await this.tell(id);
    return done;
  }

  /** Puts what is left of a run's sheet into Stock, once. @throws InputError `input.state`, `input.missing` when its film is gone */
  async keepOffcut(row: RunRow, { widthMm, lengthMm, outline }: Offcut): Promise<void> {
    await this.tx.run(async (manager) => {
      const roll = row.rollId === null ? null : await manager.findOneBy(RollRow, { id: row.rollId });
      if (!roll) throw new InputError('missing', 'The roll that this was cut from is no longer in Stock. Enter the offcut there by hand.');
      const id = `roll-${randomUUID().slice(0, 8)}`;
      const { affected } = await manager.update(RunRow, { id: row.id, offcutId: IsNull() }, { offcutId: id });
      if (affected !== 1) throw new InputError('state', 'What is left of this sheet is in Stock already.');
      const piece: RollRow = { id, filmId: roll.filmId, widthMm, lengthLeftMm: lengthMm, isOffcut: true, outline: formatPath(outline, 1) };
      await manager.insert(RollRow, piece);
      await note(manager, row.id, `What is left went into Stock: ${Math.round(widthMm)} × ${Math.round(lengthMm)} mm.`);
    });
    await this.tell(row.id);
  }

  /** How far the files of an order are that is not taken yet. */
  tellSending(orderId: string, share: number): void {
    this.events.emit({ type: 'sending', orderId, share });
  }

  /** Cuts that wait for a print. */
  async followers(printId: string): Promise<string[]> {
    const rows = await this.tx.read((manager) => manager.find(RunRow, { where: { after: printId }, select: { id: true } }));
    return rows.map(({ id }) => id);
  }

  /** Runs that wait for a machine are held, with the reason. */
  async holdWaiting(machineId: string, reason: string): Promise<void> {
    const rows = await this.tx.read((manager) => manager.find(RunRow, { where: { machineId, state: 'waiting' } }));
    for (const row of rows) await this.move(row.id, 'waiting', 'held', { reason, heldFor: 'you', goOnAt: null, progress: 0 });
  }

  /** How far a run under way is, for a server that is stopped before it can say so. */
  async keepProgress(id: string, progress: number): Promise<void> {
    await this.tx.run((manager) => manager.update(RunRow, { id, state: In(['working', 'paused'] satisfies RunState[]) }, { progress }));
  }

  /** Progress and place of the tool: told at once, written with the next move or by `keepProgress`. */
  async place(row: RunRow, state: RunState, progress: number, carriage: Carriage): Promise<void> {
    this.carriages.set(row.id, carriage);
    this.events.emit({ type: 'run', run: this.toRun({ ...row, state, progress }, false) });
  }

  /**
   * The next run of a machine; none while one of its runs needs somebody, for its sheet may lie spoilt on the machine. A
   * printed sheet that is to be put in, or whose marks were found, holds nobody up.
   */
  async nextWaiting(machineId: string): Promise<RunRow | undefined> {
    return this.tx.read(async (manager) => {
      if (await manager.existsBy(RunRow, { machineId, state: 'needs-you', step: IsNull() })) return undefined;
      return (await manager.findOne(RunRow, { where: { machineId, state: 'waiting' }, order: { place: 'ASC' } })) ?? undefined;
    });
  }

  async waitingMachines(): Promise<string[]> {
    const rows = await this.tx.read((manager) =>
      manager.find(RunRow, { where: { state: 'waiting' }, select: { id: true, machineId: true } }),
    );
    return [...new Set(rows.map((row) => row.machineId))];
  }

  /** Runs that were under way when the server stopped. They never go on by themselves. */
  async interrupted(): Promise<RunRow[]> {
    return this.tx.read((manager) => manager.find(RunRow, { where: { state: In(['working', 'paused']) } }));
  }

  private async tell(id: string): Promise<void> {
    this.events.emit({ type: 'run', run: await this.run(id) });
  }
}

/** The states as they are written down. */
const SAID: Record<RunState, string> = {
  held: 'Held.',
  waiting: 'Waits for its turn.',
  working: 'Goes to the machine.',
  paused: 'Paused.',
  'needs-you': 'Needs somebody.',
  done: 'Done.',
  failed: 'Failed.',
  cancelled: 'Cancelled.',
};

/** Writes a line into a run's log. */
const note = (manager: EntityManager, runId: string, text: string): Promise<unknown> =>
  manager.insert(RunLogRow, { runId, at: new Date().toISOString(), text });

/** What another run does on a machine puts an end to cuts that were to go on there: the sheet they were begun on is gone. */
async function forgetGoingOn(manager: EntityManager, startedId: string): Promise<void> {
  const { machineId } = await manager.findOneByOrFail(RunRow, { id: startedId });
  const where = { machineId, id: Not(startedId), state: In([...MOVABLE_STATES]), goOnAt: Not(IsNull()) };
  for (const { id } of await manager.find(RunRow, { where })) {
    await manager.update(RunRow, { id }, { goOnAt: null, progress: 0 });
    await note(manager, id, 'Another run came before it: it is cut from its beginning.');
  }
}

/** Is there enough on each roll for these runs and those before them? @throws InputError `input.roll` */
async function reserve(manager: EntityManager, runs: readonly NewRun[]): Promise<void> {
  const wanted = new Map<string, { mm: number; title: string }>();
  for (const { row } of runs)
    if (row.rollId !== null) wanted.set(row.rollId, { mm: (wanted.get(row.rollId)?.mm ?? 0) + row.lengthMm, title: row.title });
  const kept = await reservedOn(manager, [...wanted.keys()]);
  for (const [id, { mm, title }] of wanted) {
    const roll = await manager.findOneBy(RollRow, { id });
    const before = kept.get(id) ?? 0;
    if (!roll || mm + before <= roll.lengthLeftMm + 0.01) continue;
    const metres = (length: number): string => (length / 1000).toFixed(2);
    throw new InputError(
      'roll',
      `The roll of ${title} has ${metres(roll.lengthLeftMm)} m left; runs in the Queue are to take ${metres(before)} m of it, and this one ${metres(mm)} m. Together they do not fit: take another roll, or wait.`,
      { field: 'layers' },
    );
  }
}
