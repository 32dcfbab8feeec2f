/** Small pictures of jobs for the board, drawn by the compute pool, kept until the drawing changes. */
import { Injectable } from '@nestjs/common';
import { ComputeService } from '../compute/compute.service.ts';
import { DocumentsService } from './documents.service.ts';

const KEPT = 300;

@Injectable()
export class ThumbnailsService {
  private readonly kept = new Map<string, { revision: number; svg: string }>();

  constructor(
    private readonly documents: DocumentsService,
    private readonly compute: ComputeService,
  ) {}

  async of(jobId: string): Promise<string> {
    const { revision, drawing } = await this.documents.open(jobId);
    const known = this.kept.get(jobId);
    if (known?.revision === revision) return known.svg;
    const svg = await this.compute.run({ op: 'thumbnail', drawing });
    this.kept.delete(jobId);
    this.kept.set(jobId, { revision, svg });
    const oldest = this.kept.keys().next().value;
    if (this.kept.size > KEPT && oldest !== undefined) this.kept.delete(oldest);
    return svg;
  }
}
