/** Inks and laminates: what is left, when to order again. */
import { Injectable } from '@nestjs/common';
import { randomUUID } from 'node:crypto';
import { InputError } from '@lorvek/core';
import { newSupplySchema, type NewSupply, type Supply, type SupplyChange } from '@lorvek/model';
import type { EntityManager } from 'typeorm';
import { SupplyRow } from '../db/entities.ts';
import { Tx } from '../db/tx.ts';

@Injectable()
export class SuppliesService {
  constructor(private readonly tx: Tx) {}

  async list(): Promise<Supply[]> {
    const rows = await this.tx.read((manager) => manager.find(SupplyRow, { order: { position: 'ASC' } }));
    return rows.map(({ position: _position, ...supply }) => supply);
  }

  /** @throws InputError `input.state` for a second ink of the same plate */
  async add(input: NewSupply): Promise<Supply> {
    const fields = newSupplySchema.parse(input);
    const id = `supply-${randomUUID().slice(0, 8)}`;
    await this.tx.run(async (manager) => {
      await refuseSecond(manager, fields.plate, id);
      const last = (await manager.maximum(SupplyRow, 'position')) ?? -1;
      await manager.insert(SupplyRow, { ...fields, id, position: last + 1 });
    });
    return this.get(id);
  }

  async change(id: string, fields: SupplyChange): Promise<Supply> {
    await this.tx.run(async (manager) => {
      await refuseSecond(manager, fields.plate ?? null, id);
      await manager.update(SupplyRow, { id }, fields as Partial<SupplyRow>);
    });
    return this.get(id);
  }

  async remove(id: string): Promise<void> {
    await this.tx.run((manager) => manager.delete(SupplyRow, { id }));
  }

  /** @throws InputError `input.missing` */
  private async get(id: string): Promise<Supply> {
    const supply = (await this.list()).find((one) => one.id === id);
    if (!supply) throw new InputError('missing', 'This is no longer in Stock.', { field: 'id' });
    return supply;
  }
}

/** What a print used is taken off one ink, not off two. */
async function refuseSecond(manager: EntityManager, plate: string | null, id: string): Promise<void> {
  const other = plate === null ? null : await manager.findOneBy(SupplyRow, { plate });
  if (other && other.id !== id)
    throw new InputError('state', `“${other.name}” is the ink of the plate ${plate} already.`, { field: 'plate' });
}
