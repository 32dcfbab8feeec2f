/** /api/health: does the database answer, and can it be written? */
import { Controller, Get, Inject, Module, Res } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { SkipThrottle } from '@nestjs/throttler';
import type { Response } from 'express';
import { randomBytes } from 'node:crypto';
import type { Health } from '@lorvek/model';
import { CONFIG, type Config } from '../config.ts';
import { databasePath } from '../db/shop-folder.ts';
import { StorageError } from '../db/storage-fault.ts';
import { Tx } from '../db/tx.ts';
import { statIfThere } from '../files/stat-if-there.ts';

const PROBE = 'probe';
const PROBE_BYTES = 32 * 1024;

@ApiTags('health')
@SkipThrottle()
@Controller('api/health')
export class HealthController {
  constructor(
    private readonly tx: Tx,
    @Inject(CONFIG) private readonly config: Config,
  ) {}

  /** 200 when all is well, 503 when the shop cannot be read or nothing can be saved. */
  @Get()
  async health(@Res({ passthrough: true }) response: Response): Promise<Health> {
    const failure = await this.failure();
    if (!failure) return { status: 'ok' };
    response.status(503);
    const { since } = failure.details;
    return {
      status: 'trouble',
      fault: failure.fault,
      text: failure.message,
      ...(typeof since === 'string' ? { since } : {}),
    };
  }

  private async failure(): Promise<StorageError | undefined> {
    try {
      const file = await statIfThere(databasePath(this.config.dataDir));
      if (!file || file.size === 0) return new StorageError('damaged');
      await this.tx.read((manager) => manager.query('SELECT count(*) FROM job'));
      // while writing fails, looking is also trying: with some pages that are really new
      if (this.tx.trouble)
        await this.tx.run(async (manager) => {
          await manager.query('INSERT INTO kept_text (name, body) VALUES (?, ?)', [PROBE, randomBytes(PROBE_BYTES).toString('hex')]);
          await manager.query('DELETE FROM kept_text WHERE name = ?', [PROBE]);
        });
      return undefined;
    } catch (error) {
      return error instanceof StorageError ? error : new StorageError('failing');
    }
  }
}

@Module({ controllers: [HealthController] })
export class HealthModule {}
