/**
 * Files beside the database, by content: written under a temporary name, synced, renamed. Names never come from
 * outside. A file that is there counts only when its content is what its name says, so that one torn on disk heals
 * when it is brought again.
 */
import { Inject, Injectable, Logger, type OnModuleInit } from '@nestjs/common';
import { createHash, randomUUID } from 'node:crypto';
import { createReadStream, type ReadStream } from 'node:fs';
import { copyFile, mkdir, open, readdir, readFile, rename, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { InputError } from '@lorvek/core';
import { CONFIG, type Config } from '../config.ts';
import { storageFaultOf } from '../db/storage-fault.ts';
import { INCOMING } from '../http/uploads.service.ts';
import { statIfThere } from './stat-if-there.ts';

export const FILE_NAME = /^[0-9a-f]{64}$/;
const UNFINISHED = /\.tmp$/;

export const filesDir = (dataDir: string): string => join(dataDir, 'files');

/** SHA-256 of a file's content. */
export async function hashOfFile(path: string): Promise<string> {
  const hash = createHash('sha256');
  await pipeline(createReadStream(path), hash);
  return hash.digest('hex');
}

const missing = (): InputError => new InputError('missing', 'The file is no longer there.');

@Injectable()
export class FilesService implements OnModuleInit {
  private readonly dir: string;
  private readonly incoming: string;
  private readonly logger = new Logger('Files');

  constructor(@Inject(CONFIG) config: Config) {
    this.dir = filesDir(config.dataDir);
    this.incoming = join(config.dataDir, INCOMING);
  }

  /** What a stopped server left unfinished is swept. */
  async onModuleInit(): Promise<void> {
    try {
      await rm(this.incoming, { recursive: true, force: true });
      await mkdir(this.dir, { recursive: true });
      for (const folder of await readdir(this.dir)) {
        const names = (await readdir(join(this.dir, folder))).filter((name) => UNFINISHED.test(name));
        await Promise.all(names.map((name) => rm(join(this.dir, folder, name), { force: true })));
      }
    } catch (error) {
      this.logger.error(error);
    }
  }

  /** Where a kept file lies. @throws InputError for anything that is no kept file's name */
  path(name: string): string {
    if (!FILE_NAME.test(name)) throw new InputError('missing', 'There is no such file.');
    return join(this.dir, name.slice(0, 2), name);
  }

  /** Keeps bytes. @returns their name: the SHA-256 of the content */
  async put(bytes: Uint8Array): Promise<string> {
    const name = createHash('sha256').update(bytes).digest('hex');
    if (!(await this.isWhole(name, bytes.length))) await this.write(name, (temporary) => writeSynced(temporary, bytes));
    return name;
  }

  /** Keeps a file that lies elsewhere on this disk; the file itself stays. @returns the SHA-256 of its content */
  async putFile(path: string): Promise<string> {
    const name = await hashOfFile(path);
    const { size } = await stat(path);
    if (!(await this.isWhole(name, size)))
      await this.write(name, async (temporary) => {
        await copyFile(path, temporary);
        await sync(temporary);
      });
    return name;
  }

  private async isWhole(name: string, bytes: number): Promise<boolean> {
    const path = this.path(name);
    const known = await statIfThere(path);
    return known?.size === bytes && (await hashOfFile(path)) === name;
  }

  private async write(name: string, fill: (temporary: string) => Promise<void>): Promise<void> {
    await mkdir(join(this.dir, name.slice(0, 2)), { recursive: true });
    const temporary = `${this.path(name)}.${randomUUID()}.tmp`;
    try {
      await fill(temporary);
      await rename(temporary, this.path(name));
    } catch (error) {
      await rm(temporary, { force: true }).catch((other: unknown) => this.logger.error(other));
      throw error;
    }
  }

  /** @throws InputError `input.missing` */
  async get(name: string): Promise<Buffer> {
    try {
      return await readFile(this.path(name));
    } catch (error) {
      if (storageFaultOf(error)) throw error;
      throw missing();
    }
  }

  /** A kept file as a stream. @throws InputError `input.missing` */
  async stream(name: string): Promise<ReadStream> {
    if (!(await statIfThere(this.path(name)))) throw missing();
    return createReadStream(this.path(name));
  }

  /** The first bytes of a kept file. @throws InputError `input.missing` */
  async head(name: string, bytes: number): Promise<Buffer> {
    return headOf(this.path(name), bytes).catch(() => {
      throw missing();
    });
  }
}

/** The first bytes of a file. */
export async function headOf(path: string, bytes: number): Promise<Buffer> {
  const file = await open(path, 'r');
  try {
    const buffer = Buffer.alloc(bytes);
    const { bytesRead } = await file.read(buffer, 0, bytes, 0);
    return buffer.subarray(0, bytesRead);
  } finally {
    await file.close();
  }
}

async function writeSynced(path: string, bytes: Uint8Array): Promise<void> {
  const file = await open(path, 'w');
  try {
    await file.writeFile(bytes);
    await file.sync();
  } finally {
    await file.close();
  }
}

async function sync(path: string): Promise<void> {
  const file = await open(path, 'r+');
  try {
    await file.sync();
  } finally {
    await file.close();
  }
}
