/**
 * The data folder of a shop: taken by one server at a time, looked at before anything is opened, copied before its
 * data are upgraded. A folder that has held a shop and whose database is gone or damaged is never opened as an empty
 * shop. The lock is an exclusive transaction in a database file of its own, which the operating system gives back
 * however a server ends.
 */
import Database from 'better-sqlite3';
import { existsSync, mkdirSync, readdirSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { AppError } from '@lorvek/core';
import { MIGRATIONS } from './migrations.ts';
import { storageFaultOf } from './storage-fault.ts';

export const databasePath = (dataDir: string): string => join(dataDir, 'lorvek.sqlite');
export const backupsDir = (dataDir: string): string => join(dataDir, 'backups');

/** Says that a shop lives in this folder. */
const markPath = (dataDir: string): string => join(dataDir, 'shop.json');

/** The server does not start, and why. */
export class StartError extends AppError {
  constructor(what: string, message: string) {
    super(`start.${what}`, message);
  }
}

/** `2026-05-31T14-02-07-123Z-daily.sqlite`: when it was made, and why. */
export const BACKUP_NAME = /^(\d{4}-\d{2}-\d{2}T\d{2}-\d{2}-\d{2}-\d{3}Z)-([a-z-]{1,30})\.sqlite$/;

export const backupName = (why: string, at = new Date()): string => `${at.toISOString().replace(/[:.]/g, '-')}-${why}.sqlite`;

/** Names of backups, newest first. */
export function backupNames(dataDir: string): string[] {
  const dir = backupsDir(dataDir);
  if (!existsSync(dir)) return [];
  return readdirSync(dir)
    .filter((name) => BACKUP_NAME.test(name))
    .sort()
    .reverse();
}

function newestBackup(dataDir: string): string {
  const [newest] = backupNames(dataDir);
  return newest === undefined
    ? 'There is no backup in this folder.'
    : `The newest backup is ${newest}; bring it back with: npm run restore -- ${join(backupsDir(dataDir), newest)}`;
}

const damaged = (dataDir: string, what: string): StartError =>
  new StartError(
    'database',
    `The database ${databasePath(dataDir)} ${what}. Nothing was changed and no empty shop was begun. ${newestBackup(dataDir)}`,
  );

/** Is what lies there a whole database of a shop? @returns the names of the upgrades it has had */
export function lookAtDatabase(path: string): { ok: true; upgrades: string[]; jobs: number } | { ok: false; why: string } {
  let db: Database.Database | undefined;
  try {
    db = new Database(path, { fileMustExist: true });
    const found = db.pragma('quick_check(1)', { simple: true });
    if (found !== 'ok') return { ok: false, why: 'is damaged' };
    const tables = new Set(
      (db.prepare("SELECT name FROM sqlite_master WHERE type = 'table'").all() as { name: string }[]).map((t) => t.name),
    );
    if (!tables.has('job') || !tables.has('migrations')) return { ok: false, why: 'holds no shop' };
    const upgrades = (db.prepare('SELECT name FROM migrations').all() as { name: string }[]).map((row) => row.name);
    const { jobs } = db.prepare('SELECT count(*) AS jobs FROM job').get() as { jobs: number };
    return { ok: true, upgrades, jobs };
  } catch (error) {
    const fault = storageFaultOf(error);
    return {
      ok: false,
      why: fault === 'locked' ? 'is held by another program' : fault === 'read-only' ? 'cannot be opened' : 'is damaged',
    };
  } finally {
    db?.close();
  }
}

/** Copies the database before an upgrade changes it. */
function keepBeforeUpgrade(dataDir: string): void {
  mkdirSync(backupsDir(dataDir), { recursive: true });
  const path = join(backupsDir(dataDir), backupName('before-upgrade'));
  const db = new Database(databasePath(dataDir));
  try {
    db.prepare('VACUUM INTO ?').run(`${path}.tmp`);
  } finally {
    db.close();
  }
  renameSync(`${path}.tmp`, path);
}

function lock(dataDir: string): () => void {
  const db = new Database(join(dataDir, 'lorvek.lock'), { timeout: 200 });
  try {
    db.exec('BEGIN EXCLUSIVE');
  } catch {
    db.close();
    throw new StartError(
      'second',
      `Another server already works with the data in ${dataDir}. Stop it first, or give this one a folder of its own (LORVEK_DATA).`,
    );
  }
  return () => db.close();
}

/** @throws StartError when the database is gone, emptied or damaged, or of a newer version; before an upgrade it is kept */
function checkDatabase(dataDir: string): void {
  const path = databasePath(dataDir);
  const hasHeld = existsSync(markPath(dataDir)) || backupNames(dataDir).length > 0 || existsSync(join(dataDir, 'files'));
  if (!existsSync(path) || statSync(path).size === 0) {
    if (!hasHeld) return;
    throw damaged(dataDir, `is ${existsSync(path) ? 'empty' : 'gone'}, though this folder has held a shop`);
  }
  const found = lookAtDatabase(path);
  if (!found.ok) {
    // a first start that was broken off leaves a database without tables, and nothing else
    if (hasHeld || found.why !== 'holds no shop') throw damaged(dataDir, found.why);
    return;
  }
  if (MIGRATIONS.some((step) => !found.upgrades.includes(step.name))) keepBeforeUpgrade(dataDir);
  const known = new Set(MIGRATIONS.map((step) => step.name));
  if (found.upgrades.some((name) => !known.has(name)))
    throw new StartError(
      'newer',
      `The data in ${dataDir} were made by a newer version of this program. Start that version; nothing was changed.`,
    );
}

/**
 * Takes the folder for this server.
 * @param evenIfDamaged the database is not looked at: something is to be put in its place
 * @returns a function that gives it back
 * @throws StartError when another server has it, or its database is gone, emptied or damaged
 */
export function takeFolder(dataDir: string, { evenIfDamaged = false } = {}): () => void {
  try {
    mkdirSync(dataDir, { recursive: true });
  } catch {
    throw new StartError('folder', `The data folder ${dataDir} cannot be made. Give the server a folder that it may write (LORVEK_DATA).`);
  }
  const release = lock(dataDir);
  if (evenIfDamaged) return release;
  try {
    checkDatabase(dataDir);
    return release;
  } catch (error) {
    release();
    throw error;
  }
}

/** From now on this folder holds a shop. */
export function markFolder(dataDir: string): void {
  const path = markPath(dataDir);
  if (existsSync(path)) return;
  writeFileSync(`${path}.tmp`, `${JSON.stringify({ shop: 'Lorvek', begunAt: new Date().toISOString() })}\n`);
  renameSync(`${path}.tmp`, path);
  rmSync(`${path}.tmp`, { force: true });
}
