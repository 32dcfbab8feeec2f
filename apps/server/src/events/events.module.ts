/** Server-sent events and content-addressed files: used by every other module. */
import { Controller, Global, Module, Sse, type MessageEvent } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { SkipThrottle } from '@nestjs/throttler';
import type { Observable } from 'rxjs';
import { FilesService } from '../files/files.service.ts';
import { UploadsService } from '../http/uploads.service.ts';
import { EventsService } from './events.service.ts';

@ApiTags('events')
@SkipThrottle()
@Controller('api/events')
export class EventsController {
  constructor(private readonly events: EventsService) {}

  @Sse()
  stream(): Observable<MessageEvent> {
    return this.events.stream();
  }
}

@Global()
@Module({
  controllers: [EventsController],
  providers: [EventsService, FilesService, UploadsService],
  exports: [EventsService, FilesService, UploadsService],
})
export class EventsModule {}
