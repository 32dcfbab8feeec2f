import { Module } from '@nestjs/common';
import { AssetsModule } from '../assets/assets.module.ts';
import { ComputeModule } from '../compute/compute.module.ts';
import { FontsModule } from '../fonts/fonts.module.ts';
import { DocumentsService } from './documents.service.ts';
import { JobFileService } from './job-file.service.ts';
import { JobsController } from './jobs.controller.ts';
import { JobsService } from './jobs.service.ts';
import { ThumbnailsService } from './thumbnails.service.ts';

@Module({
  imports: [ComputeModule, FontsModule, AssetsModule],
  controllers: [JobsController],
  providers: [JobsService, DocumentsService, ThumbnailsService, JobFileService],
  exports: [JobsService, DocumentsService],
})
export class JobsModule {}
