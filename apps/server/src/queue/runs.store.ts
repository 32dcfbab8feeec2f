/** Runs in the database. Each move of state is one compare-and-set statement, checked against the table of moves. */
import { Injectable } from '@nestjs/common';
import { InputError } from '@lorvek/core';
import { canMove, type Run, type RunState } from '@lorvek/model';
import { In } from 'typeorm';
import { RunRow } from '../db/entities.ts';
import { Tx } from '../db/tx.ts';
import { EventsService } from '../events/events.service.ts';

export type Carriage = Run['carriage'];

const LISTED = 200;

@Injectable()
export class RunsStore {
  /** Where the tools are now; not worth a row. */
  private readonly carriages = new Map<string, Carriage>();

  constructor(
    private readonly tx: Tx,
    private readonly events: EventsService,
  ) {}

  toRun(row: RunRow): Run {
    const { orderId: _order, cutFile: _cut, sheetFile: _sheet, pictureFile, rollId: _roll, ...run } = row;
    return { ...run, hasPicture: pictureFile !== null, carriage: this.carriages.get(row.id) ?? null };
  }

  /** Newest first. */
  async list(): Promise<Run[]> {
    const rows = await this.tx.read((manager) => manager.find(RunRow, { order: { createdAt: 'DESC', id: 'DESC' }, take: LISTED }));
    return rows.map((row) => this.toRun(row));
  }

  /** @throws InputError `input.missing` */
  async row(id: string): Promise<RunRow> {
    const row = await this.tx.read((manager) => manager.findOneBy(RunRow, { id }));
    if (!row) throw new InputError('missing', 'This run does not exist.');
    return row;
  }

  async ofOrder(orderId: string): Promise<Run[]> {
    const rows = await this.tx.read((manager) => manager.find(RunRow, { where: { orderId }, order: { createdAt: 'ASC' } }));
    return rows.map((row) => this.toRun(row));
  }

  /** Adds an order's runs, unless the order was taken before: then the runs it made. */
  async add(orderId: string, rows: readonly RunRow[]): Promise<RunRow[]> {
    const { known, fresh } = await this.tx.run(async (manager) => {
      const before = await manager.find(RunRow, { where: { orderId }, order: { createdAt: 'ASC' } });
      if (before.length === 0) await manager.insert(RunRow, [...rows]);
      return before.length === 0 ? { known: [...rows], fresh: true } : { known: before, fresh: false };
    });
    if (fresh) for (const row of rows) this.events.emit({ type: 'run', run: this.toRun(row) });
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

  async setFields(id: string, fields: Partial<RunRow>): Promise<void> {
    await this.tx.run((manager) => manager.update(RunRow, { id }, fields));
    await this.tell(id);
  }

  /** Progress and place of the tool: told at once, written only with the next move. */
  async place(row: RunRow, state: RunState, progress: number, carriage: Carriage): Promise<void> {
    this.carriages.set(row.id, carriage);
    this.events.emit({ type: 'run', run: { ...this.toRun({ ...row, state, progress }), carriage } });
  }

  async nextWaiting(machineId: string): Promise<RunRow | undefined> {
    const row = await this.tx.read((manager) =>
      manager.findOne(RunRow, { where: { machineId, state: 'waiting' }, order: { createdAt: 'ASC', id: 'ASC' } }),
    );
    return row ?? undefined;
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
