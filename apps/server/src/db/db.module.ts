/** The database: one SQLite file in WAL mode, every commit synced to disk. */
import { Global, Module } from '@nestjs/common';
import { TypeOrmModule } from '@nestjs/typeorm';
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { CONFIG, type Config } from '../config.ts';
import { ENTITIES } from './entities.ts';
import { MIGRATIONS } from './migrations.ts';
import { Tx } from './tx.ts';

interface Pragmas {
  pragma(text: string): unknown;
}

@Global()
@Module({
  imports: [
    TypeOrmModule.forRootAsync({
      inject: [CONFIG],
      useFactory: (config: Config) => {
        mkdirSync(config.dataDir, { recursive: true });
        return {
          type: 'better-sqlite3' as const,
          database: join(config.dataDir, 'lorvek.sqlite'),
          entities: ENTITIES,
          migrations: MIGRATIONS,
          migrationsRun: true,
          synchronize: false,
          retryAttempts: 0,
          prepareDatabase: (db: Pragmas) => {
            for (const pragma of ['journal_mode = WAL', 'synchronous = FULL', 'foreign_keys = ON', 'busy_timeout = 5000'])
              db.pragma(pragma);
          },
        };
      },
    }),
  ],
  providers: [Tx],
  exports: [Tx],
})
export class DbModule {}
