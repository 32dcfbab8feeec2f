/**
 * /api/inbox: the watched folder. Whatever other programs save into it appears in the application and can be placed.
 * The folder is looked at more than once a second; a file counts once its size has held still, so that none is
 * taken half written. Files are asked for by an id, never by a name; links and folders are not followed.
 */
import {
  Controller,
  Get,
  Inject,
  Injectable,
  Logger,
  Module,
  Param,
  Res,
  StreamableFile,
  type OnModuleDestroy,
  type OnModuleInit,
} from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { SkipThrottle } from '@nestjs/throttler';
import type { Response } from 'express';
import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { lstat, mkdir, readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { InputError, LimitError } from '@lorvek/core';
import type { Inbox, InboxFile } from '@lorvek/model';
import { CONFIG, type Config } from '../config.ts';
import { EventsService } from '../events/events.service.ts';
import { statIfThere } from '../files/stat-if-there.ts';

const LOOK_MS = 700;
const MOST_FILES = 500;
const MOST_BYTES = 200 * 1024 * 1024;
const PASSED_OVER = /^[.~]|\.(tmp|part|crdownload|swp|bak)$|~$/i;

const idOf = (name: string): string => createHash('sha256').update(name).digest('hex').slice(0, 20);

@Injectable()
export class InboxService implements OnModuleInit, OnModuleDestroy {
  private readonly dir: string;
  private files: ReadonlyMap<string, InboxFile> = new Map();
  private sizes: ReadonlyMap<string, string> = new Map();
  private timer: NodeJS.Timeout | undefined;
  private looking = false;
  private readonly logger = new Logger('Inbox');

  constructor(
    @Inject(CONFIG) config: Config,
    private readonly events: EventsService,
  ) {
    this.dir = config.inboxDir;
  }

  async onModuleInit(): Promise<void> {
    try {
      await mkdir(this.dir, { recursive: true });
    } catch (error) {
      this.logger.error(`The Inbox ${this.dir} cannot be made: ${String(error)}`);
    }
    await this.look();
    this.timer = setInterval(() => void this.look(), LOOK_MS);
    this.timer.unref();
  }

  onModuleDestroy(): void {
    clearInterval(this.timer);
  }

  private async look(): Promise<void> {
    if (this.looking) return;
    this.looking = true;
    try {
      await this.lookAt(await readdir(this.dir));
    } catch (error) {
      // the folder is away, a drive that sleeps say: what was seen stays listed, reading it says so
      this.logger.warn(`The Inbox cannot be read: ${String(error)}`);
    } finally {
      this.looking = false;
    }
  }

  private async lookAt(all: readonly string[]): Promise<void> {
    const names = all.filter((name) => !PASSED_OVER.test(name)).slice(0, MOST_FILES);
    const seen = new Map<string, string>();
    const files = new Map<string, InboxFile>();
    for (const name of names) {
      const stat = await statIfThere(join(this.dir, name), lstat);
      if (!stat?.isFile() || stat.size === 0) continue;
      const stamp = `${stat.size} ${stat.mtimeMs}`;
      seen.set(name, stamp);
      const known = this.files.get(idOf(name));
      if (this.sizes.get(name) === stamp || known?.stamp === stamp)
        files.set(idOf(name), { id: idOf(name), name, bytes: stat.size, savedAt: stat.mtime.toISOString(), stamp });
      else if (known) files.set(known.id, known);
    }
    const before = JSON.stringify([...this.files.values()]);
    this.sizes = seen;
    this.files = files;
    if (before !== JSON.stringify([...files.values()])) this.events.emit({ type: 'inbox' });
  }

  list(): Inbox {
    return { folder: this.dir, files: [...this.files.values()].sort((a, b) => b.savedAt.localeCompare(a.savedAt)) };
  }

  /** @throws InputError `input.missing`, LimitError `limit.inbox` */
  async read(id: string): Promise<StreamableFile> {
    const file = this.files.get(id);
    const path = join(this.dir, file?.name ?? '');
    const stat = file && (await statIfThere(path, lstat));
    if (!file || !stat?.isFile()) throw new InputError('missing', 'This file is no longer in the Inbox.');
    if (stat.size > MOST_BYTES) throw new LimitError('inbox', `“${file.name}” is larger than 200 MB.`);
    // whatever lies in it is bytes to this page and never shown by the browser itself
    return new StreamableFile(createReadStream(path), { type: 'application/octet-stream', disposition: 'attachment', length: stat.size });
  }
}

@ApiTags('inbox')
@SkipThrottle()
@Controller('api/inbox')
export class InboxController {
  constructor(private readonly inbox: InboxService) {}

  @Get()
  list(): Inbox {
    return this.inbox.list();
  }

  @Get(':id')
  async read(@Param('id') id: string, @Res({ passthrough: true }) response: Response): Promise<StreamableFile> {
    response.setHeader('cache-control', 'no-store');
    return this.inbox.read(id);
  }
}

@Module({ controllers: [InboxController], providers: [InboxService] })
export class InboxModule {}
