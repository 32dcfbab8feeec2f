/** /api/jobs */
import { Body, Controller, Get, Header, HttpCode, Param, Patch, Post, Query, Req, Res, StreamableFile } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import type { Request, Response } from 'express';
import { createZodDto } from 'nestjs-zod';
import { z } from 'zod';
import { jobChangeSchema, newJobSchema, postChangeSchema, type Job, type JobHistory, type LoggedChange, type OpenJob } from '@lorvek/model';
import { UploadsService } from '../http/uploads.service.ts';
import { DocumentsService } from './documents.service.ts';
import { JobFileService } from './job-file.service.ts';
import { JobsService } from './jobs.service.ts';
import { ThumbnailsService } from './thumbnails.service.ts';

const MOST_JOB_BYTES = 4 * 1024 ** 3;

class NewJobDto extends createZodDto(newJobSchema) {}
class JobChangeDto extends createZodDto(jobChangeSchema) {}
class PostChangeDto extends createZodDto(postChangeSchema) {}
class ListDto extends createZodDto(z.object({ archived: z.enum(['true', 'false']).default('false') })) {}
class UpToDto extends createZodDto(z.object({ upTo: z.coerce.number().int().min(0) })) {}
class SinceDto extends createZodDto(z.object({ since: z.coerce.number().int().min(0) })) {}

@ApiTags('jobs')
@Controller('api/jobs')
export class JobsController {
  constructor(
    private readonly jobs: JobsService,
    private readonly documents: DocumentsService,
    private readonly thumbnails: ThumbnailsService,
    private readonly jobFiles: JobFileService,
    private readonly uploads: UploadsService,
  ) {}

  @Get()
  list(@Query() query: ListDto): Promise<Job[]> {
    return this.jobs.list(query.archived === 'true');
  }

  @Post()
  create(@Body() body: NewJobDto): Promise<Job> {
    return this.jobs.create(body);
  }

  @Post('file')
  readFile(@Req() request: Request): Promise<Job> {
    return this.uploads.receive(request, MOST_JOB_BYTES, ({ path }) => this.jobFiles.read(path));
  }

  @Get(':id/file')
  async file(@Param('id') id: string, @Res({ passthrough: true }) response: Response): Promise<StreamableFile> {
    const { name, stream } = await this.jobFiles.packed(id);
    response.setHeader('content-disposition', `attachment; filename*=UTF-8''${encodeURIComponent(`${name}.lorvek-job`)}`);
    return new StreamableFile(stream as never, { type: 'application/x-tar' });
  }

  @Patch(':id')
  change(@Param('id') id: string, @Body() body: JobChangeDto): Promise<Job> {
    return this.jobs.change(id, body);
  }

  @Post(':id/duplicate')
  duplicate(@Param('id') id: string): Promise<Job> {
    return this.jobs.duplicate(id);
  }

  @Get(':id')
  async open(@Param('id') id: string): Promise<OpenJob> {
    const job = await this.jobs.get(id);
    const { revision, drawing, note, readOnly } = await this.documents.look(id);
    return { job: { ...job, revision }, revision, records: { ...drawing }, note, readOnly };
  }

  @Get(':id/history')
  history(@Param('id') id: string, @Query() query: UpToDto): Promise<JobHistory> {
    return this.documents.history(id, query.upTo);
  }

  @Get(':id/changes')
  since(@Param('id') id: string, @Query() query: SinceDto): Promise<LoggedChange[]> {
    return this.documents.changesSince(id, query.since);
  }

  @Post(':id/changes')
  @HttpCode(200)
  post(@Param('id') id: string, @Body() body: PostChangeDto): Promise<{ revision: number }> {
    return this.documents.change(id, body);
  }

  @Get(':id/thumbnail.svg')
  @Header('content-type', 'image/svg+xml')
  @Header('cache-control', 'no-cache')
  @Header('content-security-policy', "default-src 'none'; style-src 'unsafe-inline'; sandbox")
  thumbnail(@Param('id') id: string): Promise<string> {
    return this.thumbnails.of(id);
  }
}
