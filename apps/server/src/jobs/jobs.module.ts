import { Module } from '@nestjs/common';
import { ComputeModule } from '../compute/compute.module.ts';
import { DocumentsService } from './documents.service.ts';
import { JobsController } from './jobs.controller.ts';
import { JobsService } from './jobs.service.ts';
import { ThumbnailsService } from './thumbnails.service.ts';

@Module({
  imports: [ComputeModule],
  controllers: [JobsController],
  providers: [JobsService, DocumentsService, ThumbnailsService],
  exports: [JobsService, DocumentsService],
})
export class JobsModule {}
