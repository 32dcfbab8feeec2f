/** What is kept on rolls for runs that are not over. */
import { OPEN_STATES } from '@lorvek/model';
import { In, type EntityManager } from 'typeorm';
import { RunRow } from '../db/entities.ts';

/** Length that runs which are not over are to take off their rolls, by roll. */
export async function reservedOn(manager: EntityManager, rollIds: readonly string[]): Promise<Map<string, number>> {
  const rows = await manager.find(RunRow, {
    where: { rollId: In([...rollIds]), state: In([...OPEN_STATES]) },
    select: { id: true, rollId: true, lengthMm: true },
  });
  const out = new Map<string, number>();
  for (const { rollId, lengthMm } of rows) if (rollId !== null) out.set(rollId, (out.get(rollId) ?? 0) + lengthMm);
  return out;
}
