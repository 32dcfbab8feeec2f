/** Stock as a list that goes out and comes in, labels, and what was used by month. */
import { Injectable } from '@nestjs/common';
import { randomUUID } from 'node:crypto';
import { InputError } from '@lorvek/core';
import { textMeasure, writePdfPages } from '@lorvek/core/format';
import { readList } from '@lorvek/core/series';
import type { StockReading, Usage } from '@lorvek/model';
import { rollLabel } from '@lorvek/model/label';
import { readStockRows, writeStockList, type StockRow } from '@lorvek/model/stock-list';
import { MoreThanOrEqual, type EntityManager } from 'typeorm';
import { RollRow, RunRow, StockFilmRow, SupplyRow } from '../db/entities.ts';
import { Tx } from '../db/tx.ts';
import { StockService } from './stock.service.ts';

const MOST_ROWS = 5000;
/** In charts. */
const LAMINATE_HEX = '#cfd8d6';
const keyOf = ({ series, name }: { series: string; name: string }): string => `${series}\n${name}`;
/** Of a film that comes with a list and says no more. */
const PLAIN = { hex: '#8a8f98', transfer: false, medium: null, pricePerMetre: 0, smallestPartMm: 2, thinnestMm: 0.8, reorderMm: null };

/** A change that was only looked at: it is undone. */
class OnlyLooked extends Error {
  constructor(readonly reading: StockReading) {
    super('only looked');
  }
}

@Injectable()
export class StockListService {
  constructor(
    private readonly tx: Tx,
    private readonly stock: StockService,
  ) {}

  async write(): Promise<string> {
    return writeStockList(await this.stock.list());
  }

  /**
   * Takes a list in: new films and rolls are added, those that are there are changed, nothing is taken away.
   * @param dry says only what would change
   * @throws InputError for a file that is no list, or where rows cannot be read and it is not only looked at
   */
  async read(bytes: Uint8Array, name: string, dry: boolean): Promise<StockReading> {
    const { rows, wrong } = readStockRows(await readList(bytes, name, { header: true }));
    if (rows.length > MOST_ROWS) throw new InputError('list', `A list of Stock has at most ${MOST_ROWS} rows.`);
    if (wrong.length > 0 && !dry)
      throw new InputError('list', `Row ${wrong[0]?.row}: ${wrong[0]?.text}. Nothing was changed.`, { field: 'bytes' });
    try {
      return await this.tx.run(async (manager) => {
        const reading = { ...(await this.apply(manager, rows)), wrong };
        if (dry) throw new OnlyLooked(reading);
        return reading;
      });
    } catch (error) {
      if (error instanceof OnlyLooked) return error.reading;
      throw error;
    }
  }

  private async apply(manager: EntityManager, rows: readonly StockRow[]): Promise<Omit<StockReading, 'wrong'>> {
    const films = new Map((await manager.find(StockFilmRow)).map((film) => [keyOf(film), film]));
    const rolls = await manager.find(RollRow);
    const taken = new Set<string>();
    const [fresh, changed] = [new Set<string>(), new Set<string>()];
    const seen = new Set<string>();
    let position = (await manager.maximum(StockFilmRow, 'position')) ?? -1;
    for (const { row: _row, roll, ...fields } of rows) {
      const title = `${fields.series} ${fields.name}`;
      const known = films.get(keyOf(fields));
      seen.add(title);
      if (!known) {
        const film: StockFilmRow = { ...PLAIN, press: null, ...fields, id: `stock-${randomUUID().slice(0, 8)}`, position: ++position };
        await manager.insert(StockFilmRow, film);
        films.set(keyOf(film), film);
        fresh.add(title);
      } else if (Object.entries(fields).some(([field, value]) => known[field as keyof StockFilmRow] !== value)) {
        Object.assign(known, fields);
        await manager.update(StockFilmRow, { id: known.id }, fields);
        changed.add(title);
      }
      const film = films.get(keyOf(fields)) as StockFilmRow;
      if (!roll) continue;
      const same = rolls.find(
        (one) => one.filmId === film.id && one.widthMm === roll.widthMm && one.isOffcut === roll.isOffcut && !taken.has(one.id),
      );
      if (!same) {
        const id = `roll-${randomUUID().slice(0, 8)}`;
        await manager.insert(RollRow, { id, filmId: film.id, ...roll, outline: null });
        taken.add(id);
        if (!fresh.has(title)) changed.add(title);
        continue;
      }
      taken.add(same.id);
      if (Math.abs(same.lengthLeftMm - roll.lengthLeftMm) < 1) continue;
      await manager.update(RollRow, { id: same.id }, { lengthLeftMm: roll.lengthLeftMm });
      if (!fresh.has(title)) changed.add(title);
    }
    return { fresh: [...fresh], changed: [...changed], same: seen.size - fresh.size - changed.size };
  }

  /** @throws InputError `input.missing` */
  async label(rollId: string): Promise<Uint8Array> {
    const stock = await this.stock.list();
    const film = stock.find(({ rolls }) => rolls.some(({ id }) => id === rollId));
    const roll = film?.rolls.find(({ id }) => id === rollId);
    if (!film || !roll) throw new InputError('missing', 'This roll is no longer in Stock.');
    const today = new Date().toISOString().slice(0, 10);
    return writePdfPages([rollLabel(film, roll, await textMeasure(), today)], `${film.series} ${film.name}`);
  }

  /** What was used in each of the last months, the oldest first, those without anything too. */
  async usage(months: number, now = new Date()): Promise<Usage[]> {
    const names = Array.from({ length: months }, (_, i) =>
      new Date(Date.UTC(now.getUTCFullYear(), now.getUTCMonth() - months + 1 + i, 1)).toISOString().slice(0, 7),
    );
    const rows = await this.tx.read((manager) =>
      manager.find(RunRow, { where: { state: 'done', endedAt: MoreThanOrEqual(`${names[0]}-01`) } }),
    );
    const supplies = await this.tx.read((manager) => manager.find(SupplyRow));
    // one that was taken out of Stock is counted too
    const laminateOf = (id: string): string => supplies.find((one) => one.id === id)?.name ?? 'Laminates no longer in Stock';
    return names.map((month): Usage => {
      const own = rows.filter(({ endedAt }) => endedAt?.startsWith(month));
      const films = new Map<string, { title: string; hex: string; mm: number }>();
      const inkMl: Record<string, number> = {};
      const add = (title: string, hex: string, mm: number): void =>
        void films.set(title, { title, hex, mm: (films.get(title)?.mm ?? 0) + mm });
      for (const { rollId, title: whole, filmHex, lengthMm, inkMl: ink, laminateId } of own) {
        // which of its sheets it was is nothing to the film
        const title = whole.replace(/ · sheet \d+ of \d+$/, '');
        if (rollId !== null) add(title, filmHex, lengthMm);
        if (laminateId !== null) add(laminateOf(laminateId), LAMINATE_HEX, lengthMm);
        for (const [name, ml] of Object.entries(ink ?? {})) inkMl[name] = (inkMl[name] ?? 0) + ml;
      }
      return { month, films: [...films.values()].sort((a, b) => b.mm - a.mm), inkMl };
    });
  }
}
