/** The fonts of the shop: those that ship with the app, and those the shop brought itself. */
import { Inject, Injectable, type OnModuleInit } from '@nestjs/common';
import { readFileSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { z } from 'zod';
import { InputError } from '@lorvek/core';
import { fontEntrySchema, fontsOf, leavesOf, type Drawing, type FontEntry } from '@lorvek/model';
import { CONFIG, type Config } from '../config.ts';
import { OwnFontRow } from '../db/entities.ts';
import { Tx } from '../db/tx.ts';
import { EventsService } from '../events/events.service.ts';
import { FilesService } from '../files/files.service.ts';

@Injectable()
export class FontsService implements OnModuleInit {
  private readonly dir: string;
  private readonly shipped: readonly FontEntry[];
  private own: readonly OwnFontRow[] = [];

  constructor(
    @Inject(CONFIG) config: Config,
    private readonly files: FilesService,
    private readonly tx: Tx,
    private readonly events: EventsService,
  ) {
    this.dir = join(config.assetsDir, 'fonts');
    this.shipped = z.array(fontEntrySchema).parse(JSON.parse(readFileSync(join(this.dir, 'fonts.json'), 'utf8')));
  }

  async onModuleInit(): Promise<void> {
    this.events.onRestored(() => void this.readOwn());
    await this.readOwn();
  }

  private async readOwn(): Promise<void> {
    this.own = await this.tx.read((manager) => manager.find(OwnFontRow, { order: { addedAt: 'ASC' } }));
  }

  list(): FontEntry[] {
    return [...this.shipped, ...this.own.map((row) => row.entry)];
  }

  /** Keeps a font of the shop's own. The same file again gives the font that is there. */
  async add(row: OwnFontRow): Promise<FontEntry> {
    const known = this.own.find((other) => other.id === row.id);
    if (known) return known.entry;
    await this.tx.run((manager) => manager.insert(OwnFontRow, row));
    this.own = [...this.own, row];
    return row.entry;
  }

  /** Those of the shop's own fonts that are among these. */
  ownAmong(ids: readonly string[]): OwnFontRow[] {
    return this.own.filter((row) => ids.includes(row.id));
  }

  private isOwn(id: string): boolean {
    return this.own.some((row) => row.id === id);
  }

  /** Where a font's files lie, in their order; empty for a font that the shop does not have. */
  private paths(id: string): string[] {
    const entry = this.list().find((font) => font.id === id);
    return (entry?.files ?? []).map((file) => (this.isOwn(id) ? this.files.path(file) : join(this.dir, file)));
  }

  /** Files of all fonts that a drawing uses, by font id. */
  pathsFor(drawing: Drawing): Record<string, string[]> {
    const ids = new Set(leavesOf(drawing).flatMap(fontsOf));
    return Object.fromEntries([...ids].map((id) => [id, this.paths(id)]));
  }

  /** A font's file by its place in the font's list, so that no name from outside becomes a path. */
  async file(id: string, index: number): Promise<Buffer> {
    const path = this.paths(id)[index];
    if (path === undefined) throw new InputError('missing', 'This font is not in the shop.');
    return readFile(path);
  }

  async licence(id: string): Promise<string> {
    const own = this.own.find((row) => row.id === id);
    if (own) return own.licence === '' ? 'This font states no licence. Ask whoever gave it to you.' : own.licence;
    if (!this.shipped.some((font) => font.id === id)) throw new InputError('missing', 'This font is not in the shop.');
    return readFile(join(this.dir, `${id}.LICENCE.txt`), 'utf8');
  }
}
