/** Films and their rolls. */
import { Injectable } from '@nestjs/common';
import { randomUUID } from 'node:crypto';
import { InputError } from '@lorvek/core';
import {
  newRollSchema,
  newStockFilmSchema,
  OPEN_STATES,
  type NewRoll,
  type NewStockFilm,
  type Roll,
  type StockFilm,
  type StockFilmChange,
} from '@lorvek/model';
import { In, type EntityManager } from 'typeorm';
import { RollRow, RunRow, StockFilmRow } from '../db/entities.ts';
import { Tx } from '../db/tx.ts';
import { reservedOn } from '../queue/reserved.ts';

@Injectable()
export class StockService {
  constructor(private readonly tx: Tx) {}

  async list(): Promise<StockFilm[]> {
    const [films, rolls, reserved] = await this.tx.read(async (manager) => {
      const all = await manager.find(RollRow, { order: { isOffcut: 'ASC', widthMm: 'ASC' } });
      const kept = await reservedOn(
        manager,
        all.map(({ id }) => id),
      );
      return [await manager.find(StockFilmRow, { order: { position: 'ASC' } }), all, kept] as const;
    });
    return films.map(({ position: _position, ...film }) => ({
      ...film,
      rolls: rolls.filter((roll) => roll.filmId === film.id).map((roll) => ({ ...roll, reservedMm: reserved.get(roll.id) ?? 0 })),
    }));
  }

  async roll(id: string): Promise<Roll> {
    const row = await this.tx.read((manager) => manager.findOneBy(RollRow, { id }));
    if (!row) throw new InputError('missing', 'This roll is no longer in stock.', { field: 'rollId' });
    return { ...row };
  }

  async add(input: NewStockFilm): Promise<StockFilm> {
    const { widthMm, lengthMm, ...film } = newStockFilmSchema.parse(input);
    const id = `stock-${randomUUID().slice(0, 8)}`;
    await this.tx.run(async (manager) => {
      await manager.insert(StockFilmRow, { ...film, id, press: null, reorderMm: null, position: await manager.count(StockFilmRow) });
      await manager.insert(RollRow, {
        id: `roll-${randomUUID().slice(0, 8)}`,
        filmId: id,
        widthMm,
        lengthLeftMm: lengthMm,
        isOffcut: false,
        outline: null,
      });
    });
    return (await this.list()).find((entry) => entry.id === id) as StockFilm;
  }

  async change(id: string, fields: StockFilmChange): Promise<StockFilm> {
    await this.tx.run((manager) => manager.update(StockFilmRow, { id }, fields as Partial<StockFilmRow>));
    const film = (await this.list()).find((entry) => entry.id === id);
    if (!film) throw new InputError('missing', 'This film is no longer in stock.', { field: 'id' });
    return film;
  }

  /** Puts a roll of a film into Stock. @throws InputError `input.missing` for an unknown film */
  async addRoll(filmId: string, input: NewRoll): Promise<Roll> {
    const roll: RollRow = { id: `roll-${randomUUID().slice(0, 8)}`, filmId, ...newRollSchema.parse(input), outline: null };
    await this.tx.run(async (manager) => {
      if (!(await manager.existsBy(StockFilmRow, { id: filmId })))
        throw new InputError('missing', 'This film is no longer in stock.', { field: 'filmId' });
      await manager.insert(RollRow, roll);
    });
    return { ...roll };
  }

  /** @throws InputError `input.state` while a run is to be cut from it */
  async removeRoll(id: string): Promise<void> {
    await this.tx.run(async (manager) => {
      await refuseUsed(manager, [id]);
      await manager.delete(RollRow, { id });
    });
  }

  /** Takes a film out of Stock with its rolls; jobs that use it keep its colour. @throws InputError `input.state` */
  async remove(id: string): Promise<void> {
    await this.tx.run(async (manager) => {
      const rolls = await manager.find(RollRow, { where: { filmId: id }, select: { id: true } });
      await refuseUsed(
        manager,
        rolls.map((roll) => roll.id),
      );
      await manager.delete(StockFilmRow, { id });
    });
  }

  async setLength(rollId: string, lengthLeftMm: number): Promise<Roll> {
    await this.tx.run((manager) => manager.update(RollRow, { id: rollId }, { lengthLeftMm }));
    return this.roll(rollId);
  }
}

/** Runs that are not over keep the rolls that they are to be cut from. */
async function refuseUsed(manager: EntityManager, rollIds: readonly string[]): Promise<void> {
  const used = await manager.findOne(RunRow, { where: { rollId: In([...rollIds]), state: In([...OPEN_STATES]) } });
  if (used)
    throw new InputError('state', `“${used.jobName}” in the Queue is to be cut from it. Cancel that run first, or wait until it is done.`);
}
