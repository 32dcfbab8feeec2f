/** Files beside the database, by content: written under a temporary name, synced, renamed. Names never come from outside. */
import { Inject, Injectable } from '@nestjs/common';
import { createHash, randomUUID } from 'node:crypto';
import { mkdir, open, readFile, rename, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { InputError } from '@lorvek/core';
import { CONFIG, type Config } from '../config.ts';

const NAME = /^[0-9a-f]{64}$/;

@Injectable()
export class FilesService {
  private readonly dir: string;

  constructor(@Inject(CONFIG) config: Config) {
    this.dir = join(config.dataDir, 'files');
  }

  /** Where a kept file lies. @throws InputError for anything that is no kept file's name */
  path(name: string): string {
    if (!NAME.test(name)) throw new InputError('missing', 'There is no such file.');
    return join(this.dir, name.slice(0, 2), name);
  }

  /** Keeps bytes. @returns their name: the SHA-256 of the content */
  async put(bytes: Uint8Array): Promise<string> {
    const name = createHash('sha256').update(bytes).digest('hex');
    const path = this.path(name);
    if (await stat(path).catch(() => undefined)) return name;
    await mkdir(join(this.dir, name.slice(0, 2)), { recursive: true });
    const temporary = `${path}.${randomUUID()}.tmp`;
    const file = await open(temporary, 'w');
    try {
      await file.writeFile(bytes);
      await file.sync();
    } finally {
      await file.close();
    }
    await rename(temporary, path);
    return name;
  }

  async get(name: string): Promise<Buffer> {
    return readFile(this.path(name)).catch(() => {
      throw new InputError('missing', 'The file is no longer there.');
    });
  }
}
