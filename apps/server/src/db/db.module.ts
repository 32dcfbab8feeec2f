/** The database: one SQLite file in WAL mode, every commit synced to disk. */
import { Global, Module } from '@nestjs/common';
import { TypeOrmModule } from '@nestjs/typeorm';
import { CONFIG, type Config } from '../config.ts';
import { ENTITIES } from './entities.ts';
import { MIGRATIONS } from './migrations.ts';
import { databasePath } from './shop-folder.ts';
import { Tx } from './tx.ts';

interface Pragmas {
  pragma(text: string): unknown;
}

/** A short wait blocks the whole server; the longer one is `Tx`'s, between tries. */
const PRAGMAS = ['journal_mode = WAL', 'synchronous = FULL', 'foreign_keys = ON', 'busy_timeout = 50'];

@Global()
@Module({
  imports: [
    TypeOrmModule.forRootAsync({
      inject: [CONFIG],
      useFactory: (config: Config) => ({
        type: 'better-sqlite3' as const,
        database: databasePath(config.dataDir),
        entities: ENTITIES,
        migrations: MIGRATIONS,
        migrationsRun: true,
        synchronize: false,
        retryAttempts: 0,
        prepareDatabase: (db: Pragmas) => {
          for (const pragma of PRAGMAS) db.pragma(pragma);
        },
      }),
    }),
  ],
  providers: [Tx],
  exports: [Tx],
})
export class DbModule {}
