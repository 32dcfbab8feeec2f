/** /api/jobs */
import { Body, Controller, Get, Header, HttpCode, Param, Patch, Post, Query } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { createZodDto } from 'nestjs-zod';
import { z } from 'zod';
import { jobChangeSchema, newJobSchema, postChangeSchema, type Job, type LoggedChange, type OpenJob } from '@lorvek/model';
import { DocumentsService } from './documents.service.ts';
import { JobsService } from './jobs.service.ts';
import { ThumbnailsService } from './thumbnails.service.ts';

class NewJobDto extends createZodDto(newJobSchema) {}
class JobChangeDto extends createZodDto(jobChangeSchema) {}
class PostChangeDto extends createZodDto(postChangeSchema) {}
class ListDto extends createZodDto(z.object({ archived: z.enum(['true', 'false']).default('false') })) {}
class SinceDto extends createZodDto(z.object({ since: z.coerce.number().int().min(0) })) {}

@ApiTags('jobs')
@Controller('api/jobs')
export class JobsController {
  constructor(
    private readonly jobs: JobsService,
    private readonly documents: DocumentsService,
    private readonly thumbnails: ThumbnailsService,
  ) {}

  @Get()
  list(@Query() query: ListDto): Promise<Job[]> {
    return this.jobs.list(query.archived === 'true');
  }

  @Post()
  create(@Body() body: NewJobDto): Promise<Job> {
    return this.jobs.create(body);
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
    const { revision, drawing, recent } = await this.documents.open(id);
    return { job: { ...job, revision }, revision, records: { ...drawing }, recent };
  }

  @Get(':id/changes')
  since(@Param('id') id: string, @Query() query: SinceDto): Promise<LoggedChange[]> {
    return this.documents.changesSince(id, query.since);
  }

  @Post(':id/changes')
  @HttpCode(200)
  post(@Param('id') id: string, @Body() body: PostChangeDto): Promise<{ revision: number }> {
    return this.documents.change(id, body as z.input<typeof postChangeSchema>);
  }

  @Get(':id/thumbnail.svg')
  @Header('content-type', 'image/svg+xml')
  @Header('cache-control', 'no-cache')
  @Header('content-security-policy', "default-src 'none'; style-src 'unsafe-inline'; sandbox")
  thumbnail(@Param('id') id: string): Promise<string> {
    return this.thumbnails.of(id);
  }
}
