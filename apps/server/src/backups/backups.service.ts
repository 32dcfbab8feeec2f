/**
 * Copies of all that the shop holds: by itself every day and before the data are upgraded, by hand at any time. A backup
 * is the database as it stood (SQLite's online backup) and, in a folder that all backups share, the files that it names,
 * by content and as further names of the same files on disk. To be taken away it is one tar (POSIX.1-2001) of both.
 * Bringing one back keeps what stood there before as a backup of its own.
 */
import { Inject, Injectable, Logger, type OnApplicationBootstrap, type OnModuleDestroy } from '@nestjs/common';
import { copyFile, link, mkdir, readdir, rename, rm, stat } from 'node:fs/promises';
import { createReadStream } from 'node:fs';
import { join } from 'node:path';
import tar, { type Pack } from 'tar-stream';
import { InputError } from '@lorvek/core';
import type { Backup } from '@lorvek/model';
import { CONFIG, type Config } from '../config.ts';
import { BACKUP_NAME, backupName, backupNames, backupsDir, databasePath, lookAtDatabase } from '../db/shop-folder.ts';
import { Tx } from '../db/tx.ts';
import { EventsService } from '../events/events.service.ts';
import { FILE_NAME, filesDir, hashOfFile } from '../files/files.service.ts';
import { INCOMING } from '../http/uploads.service.ts';
import { RunnerService } from '../queue/runner.service.ts';
import { addFile, unpackTar } from './tar-files.ts';
import { statIfThere } from '../files/stat-if-there.ts';

const DAY_MS = 24 * 3600_000;
const LOOK_MS = 15 * 60_000;
const DAILY = 'daily';
export const DATABASE_ENTRY = 'lorvek.sqlite';
/** In a tar it is named by its content: a database with a broken page may still open. */
const PACKED_DATABASE = /^lorvek-([0-9a-f]{64})\.sqlite$/;
const FILE_ENTRY = /^files\/([0-9a-f]{64})$/;

/** A further name for a file; a copy where the disk cannot do that. Nothing when it is there. */
async function share(from: string, to: string): Promise<void> {
  if (await statIfThere(to)) return;
  try {
    await link(from, to);
  } catch {
    await copyFile(from, `${to}.tmp`);
    await rename(`${to}.tmp`, to);
  }
}

/** Names of the files kept in a folder by content. */
async function namesIn(dir: string): Promise<string[]> {
  const folders = await readdir(dir).catch(() => [] as string[]);
  const names = await Promise.all(folders.map((folder) => readdir(join(dir, folder)).catch(() => [] as string[])));
  return names.flat().filter((name) => FILE_NAME.test(name));
}

/** All files kept by content in one folder under the same names in another. */
export async function shareAll(from: string, to: string): Promise<void> {
  for (const name of await namesIn(from)) {
    await mkdir(join(to, name.slice(0, 2)), { recursive: true });
    await share(join(from, name.slice(0, 2), name), join(to, name.slice(0, 2), name));
  }
}

/** Unpacks a backup's file into a folder. @throws InputError `input.backup` for anything else */
export async function unpackBackup(path: string, dir: string): Promise<void> {
  await unpackTar(createReadStream(path), dir, (entry) => {
    const database = PACKED_DATABASE.exec(entry)?.[1];
    if (database !== undefined) return { to: DATABASE_ENTRY, hash: database };
    const hash = FILE_ENTRY.exec(entry)?.[1];
    return hash === undefined ? undefined : { to: join('files', hash.slice(0, 2), hash), hash };
  });
  if (!(await statIfThere(join(dir, DATABASE_ENTRY))))
    throw new InputError('backup', 'This file is no backup of a shop.', { field: 'file' });
}

@Injectable()
export class BackupsService implements OnApplicationBootstrap, OnModuleDestroy {
  private readonly dir: string;
  private readonly files: string;
  private readonly logger = new Logger('Backups');
  private timer: NodeJS.Timeout | undefined;

  constructor(
    @Inject(CONFIG) private readonly config: Config,
    private readonly tx: Tx,
    private readonly events: EventsService,
    private readonly runner: RunnerService,
  ) {
    this.dir = backupsDir(config.dataDir);
    this.files = join(this.dir, 'files');
  }

  onApplicationBootstrap(): void {
    const look = (): void => void this.keepDaily().catch((error: unknown) => this.logger.error(error));
    look();
    this.timer = setInterval(look, LOOK_MS);
    this.timer.unref();
  }

  onModuleDestroy(): void {
    clearInterval(this.timer);
  }

  /** Newest first. */
  async list(): Promise<Backup[]> {
    return Promise.all(
      backupNames(this.config.dataDir).map(async (name) => {
        const [, at = '', why = ''] = BACKUP_NAME.exec(name) ?? [];
        const madeAt = at.replace(/T(\d\d)-(\d\d)-(\d\d)-(\d{3})Z/, 'T$1:$2:$3.$4Z');
        return { name, madeAt, why, bytes: (await stat(join(this.dir, name))).size };
      }),
    );
  }

  /** Makes one when the newest daily one is a day old and there is anything to keep. */
  private async keepDaily(): Promise<void> {
    const daily = (await this.list()).filter(({ why }) => why === DAILY);
    if (daily[0] && Date.now() - Date.parse(daily[0].madeAt) < DAY_MS) return;
    const [{ jobs } = { jobs: 0 }] = await this.tx.read(
      (manager) => manager.query('SELECT count(*) AS jobs FROM job') as Promise<{ jobs: number }[]>,
    );
    if (jobs === 0) return;
    await this.make(DAILY);
    for (const old of daily.slice(this.config.backupsKept - 1)) await rm(join(this.dir, old.name), { force: true });
  }

  async make(why: string): Promise<Backup> {
    await mkdir(this.files, { recursive: true });
    const name = backupName(why);
    const temporary = join(this.dir, `${name}.tmp`);
    try {
      await this.tx.copyTo(temporary);
      await shareAll(filesDir(this.config.dataDir), this.files);
      await rename(temporary, join(this.dir, name));
    } finally {
      await rm(temporary, { force: true });
    }
    return (await this.list()).find((backup) => backup.name === name) as Backup;
  }

  /** @throws InputError `input.missing` for a name that is no backup's */
  private path(name: string): string {
    if (!BACKUP_NAME.test(name) || !backupNames(this.config.dataDir).includes(name))
      throw new InputError('missing', 'There is no such backup.');
    return join(this.dir, name);
  }

  /** One file with all of a backup in it. @throws InputError `input.missing` */
  packed(name: string): Pack {
    const database = this.path(name);
    const out = tar.pack();
    void (async () => {
      await addFile(out, `lorvek-${await hashOfFile(database)}.sqlite`, database);
      for (const file of await namesIn(this.files)) await addFile(out, `files/${file}`, join(this.files, file.slice(0, 2), file));
      out.finalize();
    })().catch((error: unknown) => out.destroy(error instanceof Error ? error : new Error(String(error))));
    return out;
  }

  /** Puts a kept backup in place of the shop's data. @returns the backup of what stood there before */
  async bringBack(name: string): Promise<Backup> {
    return this.replace(this.path(name), this.files);
  }

  /** The same from a file as `packed` makes it. @throws InputError `input.backup` for anything else */
  async bringBackFile(path: string): Promise<Backup> {
    const dir = join(this.config.dataDir, INCOMING, `backup-${process.pid}-${Date.now()}`);
    try {
      await unpackBackup(path, dir);
      return await this.replace(join(dir, DATABASE_ENTRY), join(dir, 'files'));
    } finally {
      await rm(dir, { recursive: true, force: true });
    }
  }

  private async replace(database: string, files: string): Promise<Backup> {
    if (this.runner.isAtWork)
      throw new InputError('state', 'A machine is at work. Wait until its run is over, or cancel it, then bring the backup back.');
    const found = lookAtDatabase(database);
    if (!found.ok) throw new InputError('backup', `The backup cannot be brought back: its database ${found.why}.`, { field: 'file' });
    const before = await this.make('before-restore');
    const target = databasePath(this.config.dataDir);
    await shareAll(files, filesDir(this.config.dataDir));
    await copyFile(database, `${target}.new`);
    await this.tx.whileClosed(async () => {
      // closed, the database has no journal of its own left
      for (const journal of ['-wal', '-shm']) await rm(`${target}${journal}`, { force: true });
      await rename(`${target}.new`, target);
    });
    this.events.emit({ type: 'restored' });
    return before;
  }
}
