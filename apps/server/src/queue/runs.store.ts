/** Runs in the database. Each move of state is one compare-and-set statement, checked against the table of moves. */
import { Injectable } from '@nestjs/common';
import { InputError } from '@lorvek/core';
import { canMove, type Run, type RunState } from '@lorvek/model';
import { In } from 'typeorm';
import { RunRow } from '../db/entities.ts';
import { Tx } from '../db/tx.ts';
import { EventsService } from '../events/events.service.ts';

export type Carriage = Run['carriage'];

/** A run before it has its place in the queue. */
export type NewRun = Omit<RunRow, 'place'>;

const LISTED = 200;

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

  toRun(row: RunRow): Run {
    const { place: _place, orderId: _order, cutFile: _cut, sheetFile: _sheet, pictureFile, rollId: _roll, ...run } = row;
    return { ...run, hasPicture: pictureFile !== null, carriage: this.carriages.get(row.id) ?? null };
  }

  /** Newest first. */
  async list(): Promise<Run[]> {
    const rows = await this.tx.read((manager) => manager.find(RunRow, { order: { place: 'DESC' }, take: LISTED }));
    return rows.map((row) => this.toRun(row));
  }

  /** @throws InputError `input.missing` */
  async row(id: string): Promise<RunRow> {
    const row = await this.tx.read((manager) => manager.findOneBy(RunRow, { id }));
    if (!row) throw new InputError('missing', 'This run does not exist.');
    return row;
  }

  async ofOrder(orderId: string): Promise<Run[]> {
    const rows = await this.tx.read((manager) => manager.find(RunRow, { where: { orderId }, order: { place: 'ASC' } }));
    return rows.map((row) => this.toRun(row));
  }

  /** Adds an order's runs, unless the order was taken before: then the runs it made. */
  async add(orderId: string, rows: readonly NewRun[]): Promise<RunRow[]> {
    const { known, fresh } = await this.tx.run(async (manager) => {
      const before = await manager.find(RunRow, { where: { orderId }, order: { place: 'ASC' } });
      if (before.length > 0) return { known: before, fresh: false };
      const last = (await manager.maximum(RunRow, 'place')) ?? 0;
      const placed = rows.map((row, i): RunRow => ({ ...row, place: last + 1 + i }));
      await manager.insert(RunRow, placed);
      return { known: placed, fresh: true };
    });
    if (fresh) for (const row of known) this.events.emit({ type: 'run', run: this.toRun(row) });
    return known;
  }

  /**
   * Moves a run from one state to another, if it still is in the first.
   * @returns false when somebody else was faster
   */
  async move(id: string, from: RunState, to: RunState, fields: Partial<RunRow> = {}): Promise<boolean> {
    if (!canMove(from, to)) throw new InputError('state', `A run that is ${from} cannot become ${to}.`);
    const endedAt = to === 'done' || to === 'failed' || to === 'cancelled' ? new Date().toISOString() : null;
    const { affected } = await this.tx.run((manager) => manager.update(RunRow, { id, state: from }, { ...fields, state: to, endedAt }));
    if (to !== 'working' && to !== 'paused') this.carriages.delete(id);
    if (affected === 1) await this.tell(id);
    return affected === 1;
  }

  /** A run is done: its state, its picture and the film it used are one transaction. @returns false when it is no longer under way */
  async finish(row: RunRow, pictureFile: string | null): Promise<boolean> {
    const endedAt = new Date().toISOString();
    const done = await this.tx.run(async (manager) => {
      const where = { id: row.id, state: In(['working', 'paused'] satisfies RunState[]) };
      const { affected } = await manager.update(RunRow, where, { state: 'done', progress: 1, reason: null, pictureFile, endedAt });
      if (affected !== 1) return false;
      // a roll that is gone meanwhile is no error
      if (row.rollId !== null)
        await manager.query('UPDATE roll SET length_left_mm = max(0, length_left_mm - ?) WHERE id = ?', [row.lengthMm, row.rollId]);
      return true;
    });
    this.carriages.delete(row.id);
    await this.tell(row.id);
    return done;
  }

  /** Runs that wait for a machine are held, with the reason. */
  async holdWaiting(machineId: string, reason: string): Promise<void> {
    const rows = await this.tx.read((manager) => manager.find(RunRow, { where: { machineId, state: 'waiting' } }));
    for (const row of rows) await this.move(row.id, 'waiting', 'held', { reason });
  }

  /** Progress and place of the tool: told at once, written only with the next move. */
  async place(row: RunRow, state: RunState, progress: number, carriage: Carriage): Promise<void> {
    this.carriages.set(row.id, carriage);
    this.events.emit({ type: 'run', run: { ...this.toRun({ ...row, state, progress }), carriage } });
  }

  /** The next run of a machine; none while one of its runs needs somebody, for its sheet may lie spoilt on the machine. */
  async nextWaiting(machineId: string): Promise<RunRow | undefined> {
    return this.tx.read(async (manager) => {
      if (await manager.existsBy(RunRow, { machineId, state: 'needs-you' })) return undefined;
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
    this.events.emit({ type: 'run', run: this.toRun(await this.row(id)) });
  }
}
