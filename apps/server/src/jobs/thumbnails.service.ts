/** Small pictures of jobs for the board, drawn by the compute pool, kept until the drawing changes. */
import { Injectable } from '@nestjs/common';
import { LRUCache } from 'lru-cache';
import { PicturesService, printedAssets } from '../assets/pictures.service.ts';
import { ComputeService } from '../compute/compute.service.ts';
import { EventsService } from '../events/events.service.ts';
import { DocumentsService } from './documents.service.ts';

const KEPT = 300;

@Injectable()
export class ThumbnailsService {
  private readonly kept = new LRUCache<string, { revision: number; svg: string }>({ max: KEPT });

  constructor(
    private readonly documents: DocumentsService,
    private readonly compute: ComputeService,
    private readonly small: PicturesService,
    events: EventsService,
  ) {
    events.onRestored(() => this.kept.clear());
  }

  async of(jobId: string): Promise<string> {
    const { revision, drawing } = await this.documents.look(jobId);
    const known = this.kept.get(jobId);
    if (known?.revision === revision) return known.svg;
    const svg = await this.compute.run('thumbnail', { drawing, pictures: await this.small.smallCopies(printedAssets(drawing)) });
    this.kept.set(jobId, { revision, svg });
    return svg;
  }
}
