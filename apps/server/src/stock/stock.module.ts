/** /api/stock: films and their rolls. */
import { Body, Controller, Get, Injectable, Module, Param, Patch, Post } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { randomUUID } from 'node:crypto';
import { createZodDto } from 'nestjs-zod';
import { InputError } from '@lorvek/core';
import {
  newStockFilmSchema,
  rollChangeSchema,
  stockFilmChangeSchema,
  type NewStockFilm,
  type Roll,
  type StockFilm,
  type StockFilmChange,
} from '@lorvek/model';
import { RollRow, StockFilmRow } from '../db/entities.ts';
import { Tx } from '../db/tx.ts';

class NewStockFilmDto extends createZodDto(newStockFilmSchema) {}
class RollChangeDto extends createZodDto(rollChangeSchema) {}
class StockFilmChangeDto extends createZodDto(stockFilmChangeSchema) {}

@Injectable()
export class StockService {
  constructor(private readonly tx: Tx) {}

  async list(): Promise<StockFilm[]> {
    const [films, rolls] = await this.tx.read(
      async (manager) =>
        [
          await manager.find(StockFilmRow, { order: { position: 'ASC' } }),
          await manager.find(RollRow, { order: { isOffcut: 'ASC', widthMm: 'ASC' } }),
        ] as const,
    );
    return films.map(({ position: _position, ...film }) => ({
      ...film,
      rolls: rolls.filter((roll) => roll.filmId === film.id).map((roll) => ({ ...roll })),
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
      await manager.insert(StockFilmRow, { ...film, id, press: null, position: await manager.count(StockFilmRow) });
      await manager.insert(RollRow, {
        id: `roll-${randomUUID().slice(0, 8)}`,
        filmId: id,
        widthMm,
        lengthLeftMm: lengthMm,
        isOffcut: false,
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

  async setLength(rollId: string, lengthLeftMm: number): Promise<Roll> {
    await this.tx.run((manager) => manager.update(RollRow, { id: rollId }, { lengthLeftMm }));
    return this.roll(rollId);
  }
}

@ApiTags('stock')
@Controller('api/stock')
export class StockController {
  constructor(private readonly stock: StockService) {}

  @Get()
  list(): Promise<StockFilm[]> {
    return this.stock.list();
  }

  @Post()
  add(@Body() body: NewStockFilmDto): Promise<StockFilm> {
    return this.stock.add(body);
  }

  @Patch('films/:id')
  change(@Param('id') id: string, @Body() body: StockFilmChangeDto): Promise<StockFilm> {
    return this.stock.change(id, body);
  }

  @Patch('rolls/:id')
  setLength(@Param('id') id: string, @Body() body: RollChangeDto): Promise<Roll> {
    return this.stock.setLength(id, body.lengthLeftMm);
  }
}

@Module({ controllers: [StockController], providers: [StockService], exports: [StockService] })
export class StockModule {}
