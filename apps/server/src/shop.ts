/** Commands on a shop's data folder: backup, restore, passphrase. Each takes the folder as a server would, so never beside one. */
import { createWriteStream, existsSync, statSync } from 'node:fs';
import { copyFile, mkdir, rename, rm } from 'node:fs/promises';
import { basename, join, resolve } from 'node:path';
import { createInterface } from 'node:readline/promises';
import { pipeline } from 'node:stream/promises';
import { AppError } from '@lorvek/core';
import { LEAST_LETTERS, writePassphrase } from './access/passphrase.ts';
import { BackupsService, DATABASE_ENTRY, shareAll, unpackBackup } from './backups/backups.service.ts';
import { createApp } from './bootstrap.ts';
import { readConfig, type Config } from './config.ts';
import { filesDir } from './files/files.service.ts';
import { backupName, backupsDir, databasePath, lookAtDatabase, StartError, takeFolder } from './db/shop-folder.ts';

const say = (text: string): void => void process.stdout.write(`${text}\n`);

/** The folder opened as a server opens it, without listening. */
async function within<T>(config: Config, work: (backups: BackupsService) => Promise<T>): Promise<T> {
  const app = await createApp({ ...config, host: '127.0.0.1', logLevel: 'error' });
  try {
    await app.init();
    return await work(app.get(BackupsService));
  } finally {
    await app.close();
  }
}

async function backup(config: Config, file: string): Promise<void> {
  await within(config, async (backups) => {
    const { name } = await backups.make('by-hand');
    await pipeline(backups.packed(name), createWriteStream(file));
  });
  say(`The shop in ${config.dataDir} is in ${file} (${Math.round(statSync(file).size / 1000)} kB).`);
}

/** A kept database put in place of one that may be gone or damaged: nothing is opened before it is whole. */
async function putBack(config: Config, source: string, files: string): Promise<void> {
  const found = lookAtDatabase(source);
  if (!found.ok) throw new StartError('backup', `${source} ${found.why}; it is not brought back.`);
  const release = takeFolder(config.dataDir, { evenIfDamaged: true });
  try {
    const target = databasePath(config.dataDir);
    await mkdir(backupsDir(config.dataDir), { recursive: true });
    await shareAll(files, filesDir(config.dataDir));
    await copyFile(source, `${target}.new`);
    for (const tail of ['', '-wal', '-shm'])
      if (existsSync(`${target}${tail}`))
        await rename(`${target}${tail}`, join(backupsDir(config.dataDir), `${backupName('before-restore')}${tail}`));
    await rename(`${target}.new`, target);
  } finally {
    release();
  }
}

async function restore(config: Config, from: string): Promise<void> {
  const kept = join(backupsDir(config.dataDir), basename(from));
  const path = existsSync(from) ? resolve(from) : kept;
  if (!existsSync(path))
    throw new StartError('backup', `There is no file ${from}, and no backup of that name in ${backupsDir(config.dataDir)}.`);
  const dir = join(config.dataDir, `restore-${process.pid}`);
  try {
    if (path.endsWith('.sqlite')) await putBack(config, path, join(backupsDir(config.dataDir), 'files'));
    else {
      await unpackBackup(path, dir);
      await putBack(config, join(dir, DATABASE_ENTRY), join(dir, 'files'));
    }
  } finally {
    await rm(dir, { recursive: true, force: true });
  }
  say(`${path} is back in ${config.dataDir}. What stood there before is among its backups.`);
}

async function passphrase(config: Config): Promise<void> {
  const lines = createInterface({ input: process.stdin, output: process.stdout });
  const text = (await lines.question('New passphrase of the shop: ')).trim();
  lines.close();
  if (text.length < LEAST_LETTERS)
    throw new StartError('passphrase', `A passphrase has ${LEAST_LETTERS} letters or more. Nothing was changed.`);
  await mkdir(config.dataDir, { recursive: true });
  await writePassphrase(config.dataDir, text);
  say('The passphrase is set. It counts from the next start of the server.');
}

try {
  const config = readConfig();
  const [command = '', file = ''] = process.argv.slice(2);
  if (command === 'backup' && file !== '') await backup(config, resolve(file));
  else if (command === 'restore' && file !== '') await restore(config, file);
  else if (command === 'passphrase') await passphrase(config);
  else throw new StartError('command', 'Say what to do: backup FILE.tar, restore FILE.tar or the name of a kept backup, or passphrase.');
  process.exit(0);
} catch (error) {
  process.stderr.write(`${error instanceof AppError ? error.message : String(error)}\n`);
  process.exit(1);
}
