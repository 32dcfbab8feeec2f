/** The fonts that ship with the app. */
import { Inject, Injectable } from '@nestjs/common';
import { readFileSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { z } from 'zod';
import { InputError } from '@lorvek/core';
import { fontEntrySchema, type FontEntry } from '@lorvek/model';
import { CONFIG, type Config } from '../config.ts';

@Injectable()
export class FontsService {
  readonly dir: string;
  private readonly entries: FontEntry[];

  constructor(@Inject(CONFIG) config: Config) {
    this.dir = join(config.assetsDir, 'fonts');
    this.entries = z.array(fontEntrySchema).parse(JSON.parse(readFileSync(join(this.dir, 'fonts.json'), 'utf8')));
  }

  list(): FontEntry[] {
    return this.entries;
  }

  /** A font's file by its place in the font's list, so that no name from outside becomes a path. */
  async file(id: string, index: number): Promise<Buffer> {
    const name = this.entries.find((font) => font.id === id)?.files[index];
    if (name === undefined) throw new InputError('missing', 'This font is not in the shop.');
    return readFile(join(this.dir, name));
  }

  async licence(id: string): Promise<string> {
    if (!this.entries.some((font) => font.id === id)) throw new InputError('missing', 'This font is not in the shop.');
    return readFile(join(this.dir, `${id}.LICENCE.txt`), 'utf8');
  }
}
