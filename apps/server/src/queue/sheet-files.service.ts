/** Sheets of a drawing as the compute pool plans them, and their print files, kept by content. */
import { Inject, Injectable } from '@nestjs/common';
import { join } from 'node:path';
import { InputError } from '@lorvek/core';
import type { PaperSize } from '@lorvek/core/print';
import type { Drawing, SheetPlates, StockFilm } from '@lorvek/model';
import type { Cutting } from '@lorvek/model/cut-file';
import { PicturesService, printedAssets } from '../assets/pictures.service.ts';
import type { PlannedSheet } from '../compute/compute-ops.ts';
import { ComputeService } from '../compute/compute.service.ts';
import { StockService } from '../stock/stock.service.ts';
import { JobsService } from '../jobs/jobs.service.ts';
import { CONFIG, type Config } from '../config.ts';
import { FilesService } from '../files/files.service.ts';

/** Plates are looked at on a screen, pixels. */
const MOST_PLATE_PIXELS = 1_500_000;
/** Ships with the program; see THIRD_PARTY.md. */
const PROFILE = join('profiles', 'coated-fogra39.icc');

@Injectable()
export class SheetFilesService {
  constructor(
    private readonly compute: ComputeService,
    private readonly files: FilesService,
    private readonly pictures: PicturesService,
    private readonly stock: StockService,
    private readonly jobs: JobsService,
    @Inject(CONFIG) private readonly config: Config,
  ) {}

  private async given(jobId: string): Promise<{ stock: StockFilm[]; jobName: string }> {
    return { stock: await this.stock.list(), jobName: (await this.jobs.get(jobId)).name };
  }

  /** The sheets of these layers as the page shows them. @throws InputError `input.findings` for what must not go out */
  async plan(jobId: string, drawing: Drawing, layers: readonly string[], cutting: Cutting | null): Promise<readonly PlannedSheet[]> {
    const { stock, jobName } = await this.given(jobId);
    const { sheets, stops, findings } = await this.compute.run({ op: 'plan', jobId, jobName, drawing, layers, stock, cutting });
    const [stop, ...others] = stops;
    if (stop) {
      const more = others.length > 0 ? ` And ${others.length} more.` : '';
      throw new InputError('findings', `${stop.text}${more}`, { findings, field: 'layers' });
    }
    if (sheets.length === 0) throw new InputError('findings', 'Nothing on these layers goes to a machine.', { field: 'layers' });
    return sheets;
  }

  /** The plates of a sheet as pictures. @throws InputError `input.sheet` when nothing is printed on it */
  async plates(jobId: string, drawing: Drawing, layer: string, number: number): Promise<SheetPlates> {
    const given = await this.given(jobId);
    const profile = join(this.config.assetsDir, PROFILE);
    return this.pictures.unpacked(printedAssets(drawing, layer), (pictures) =>
      this.compute.run({ op: 'plates', jobId, drawing, layer, number, pictures, profile, mostPixels: MOST_PLATE_PIXELS, ...given }),
    );
  }

  /** @returns the name the file is kept under. @throws InputError `input.picture` for a picture that cannot be read */
  async print(jobId: string, drawing: Drawing, layer: string, number: number, paper?: PaperSize): Promise<string> {
    const { stock, jobName } = await this.given(jobId);
    const profile = join(this.config.assetsDir, PROFILE);
    return this.pictures.unpacked(printedAssets(drawing, layer), async (pictures, dir) => {
      const to = join(dir, 'print.pdf');
      await this.compute.run({
        op: 'print',
        jobId,
        jobName,
        drawing,
        layer,
        number,
        stock,
        pictures,
        profile,
        to,
        ...(paper ? { paper } : {}),
      });
      return this.files.putFile(to);
    });
  }
}
