/** /api/jobs/:id/versions: states of a job under names, with pictures, to look at and to go back to. */
import { Body, Controller, Delete, Get, Header, Injectable, Module, Param, Post } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { randomUUID } from 'node:crypto';
import { LRUCache } from 'lru-cache';
import { createZodDto } from 'nestjs-zod';
import { InputError, LimitError } from '@lorvek/core';
import { newVersionSchema, type Drawing, type JobVersion, type NewVersion } from '@lorvek/model';
import { ComputeModule } from '../compute/compute.module.ts';
import { AssetsModule } from '../assets/assets.module.ts';
import { PicturesService, printedAssets } from '../assets/pictures.service.ts';
import { ComputeService } from '../compute/compute.service.ts';
import { JobVersionRow } from '../db/entities.ts';
import { Tx } from '../db/tx.ts';
import { EventsService } from '../events/events.service.ts';
import { DocumentsService } from './documents.service.ts';
import { JobsModule } from './jobs.module.ts';

class NewVersionDto extends createZodDto(newVersionSchema) {}

const MOST_VERSIONS = 500;
const PICTURES = 200;

const toVersion = ({ jobId: _job, ...version }: JobVersionRow): JobVersion => version;

@Injectable()
export class VersionsService {
  private readonly pictures = new LRUCache<string, string>({ max: PICTURES });

  constructor(
    private readonly tx: Tx,
    private readonly documents: DocumentsService,
    private readonly compute: ComputeService,
    private readonly small: PicturesService,
    events: EventsService,
  ) {
    events.onRestored(() => this.pictures.clear());
  }

  /** Newest first. */
  async list(jobId: string): Promise<JobVersion[]> {
    const rows = await this.tx.read((manager) => manager.find(JobVersionRow, { where: { jobId }, order: { madeAt: 'DESC', id: 'ASC' } }));
    return rows.map(toVersion);
  }

  /** @throws StaleError when the drawing has changed since it was looked at */
  async keep(jobId: string, { name, revision }: NewVersion): Promise<JobVersion> {
    const row: JobVersionRow = { id: `version-${randomUUID().slice(0, 13)}`, jobId, name, revision, madeAt: new Date().toISOString() };
    await this.tx.run(async (manager) => {
      if ((await manager.countBy(JobVersionRow, { jobId })) >= MOST_VERSIONS)
        throw new LimitError('versions', `A job keeps ${MOST_VERSIONS} versions. Take away some that are not needed.`);
      await this.documents.fasten(manager, jobId, revision);
      await manager.insert(JobVersionRow, row);
    });
    return toVersion(row);
  }

  /** The drawing as it was. @throws InputError `input.missing` */
  drawing(jobId: string, id: string): Promise<Drawing> {
    return this.tx.read(async (manager) => {
      const row = await manager.findOneBy(JobVersionRow, { jobId, id });
      if (!row) throw new InputError('missing', 'This version is no longer kept.');
      return this.documents.at(manager, jobId, row.revision);
    });
  }

  async picture(jobId: string, id: string): Promise<string> {
    const known = this.pictures.get(id);
    if (known) return known;
    const drawing = await this.drawing(jobId, id);
    const svg = await this.compute.run('thumbnail', { drawing, pictures: await this.small.smallCopies(printedAssets(drawing)) });
    this.pictures.set(id, svg);
    return svg;
  }

  /** Takes away the name; the history of the job stays as it is. */
  async remove(jobId: string, id: string): Promise<void> {
    await this.tx.run((manager) => manager.delete(JobVersionRow, { jobId, id }));
    this.pictures.delete(id);
  }
}

@ApiTags('jobs')
@Controller('api/jobs/:id/versions')
export class VersionsController {
  constructor(private readonly versions: VersionsService) {}

  @Get()
  list(@Param('id') id: string): Promise<JobVersion[]> {
    return this.versions.list(id);
  }

  @Post()
  keep(@Param('id') id: string, @Body() body: NewVersionDto): Promise<JobVersion> {
    return this.versions.keep(id, body);
  }

  @Get(':version')
  async drawing(@Param('id') id: string, @Param('version') version: string): Promise<{ records: Drawing }> {
    return { records: await this.versions.drawing(id, version) };
  }

  @Get(':version/picture.svg')
  @Header('content-type', 'image/svg+xml')
  @Header('cache-control', 'private, max-age=31536000, immutable')
  @Header('content-security-policy', "default-src 'none'; style-src 'unsafe-inline'; sandbox")
  picture(@Param('id') id: string, @Param('version') version: string): Promise<string> {
    return this.versions.picture(id, version);
  }

  @Delete(':version')
  async remove(@Param('id') id: string, @Param('version') version: string): Promise<{ removed: true }> {
    await this.versions.remove(id, version);
    return { removed: true };
  }
}

@Module({ imports: [JobsModule, ComputeModule, AssetsModule], controllers: [VersionsController], providers: [VersionsService] })
export class VersionsModule {}
