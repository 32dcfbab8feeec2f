/** Sheets of a drawing as the compute pool plans them, and their print files, kept by content. */
import { Injectable } from '@nestjs/common';
import { join } from 'node:path';
import { InputError } from '@lorvek/core';
import type { PlannedSheet } from '@lorvek/computations';
import type { RawPicture } from '@lorvek/computations/with-files';
import type { PaperSize } from '@lorvek/core/print';
import { layerOf, type Drawing, type Machine, type SheetPlates, type SoftLook, type StockFilm } from '@lorvek/model';
import type { Cutting } from '@lorvek/model/cut-file';
import { PicturesService, printedAssets } from '../assets/pictures.service.ts';
import { ComputeService, type Watch } from '../compute/compute.service.ts';
import { StockService } from '../stock/stock.service.ts';
import { JobsService } from '../jobs/jobs.service.ts';
import { ProfilesService } from '../profiles/profiles.module.ts';
import { FilesService } from '../files/files.service.ts';

/** Plates are looked at on a screen, pixels. */
const MOST_PLATE_PIXELS = 1_500_000;
/** A picture that is looked at on them needs no more along its longest side. */
const MOST_LOOKED_PX = 2000;
/** Of the work on a print file, what the unpacking of its pictures is. */
const UNPACKING_SHARE = 0.2;

/** A sheet that is printed, and by which printer; null: by none that is known. */
export interface SheetAsked {
  readonly jobId: string;
  readonly drawing: Drawing;
  readonly layer: string;
  /** From 0. */
  readonly number: number;
  readonly printer: Machine | null;
}

@Injectable()
export class SheetFilesService {
  constructor(
    private readonly compute: ComputeService,
    private readonly files: FilesService,
    private readonly pictures: PicturesService,
    private readonly stock: StockService,
    private readonly jobs: JobsService,
    private readonly profiles: ProfilesService,
  ) {}

  private async given(jobId: string): Promise<{ stock: StockFilm[]; jobName: string }> {
    return { stock: await this.stock.list(), jobName: (await this.jobs.get(jobId)).name };
  }

  /** The sheets of these layers as the page shows them. @throws InputError `input.findings` for what must not go out */
  async plan(jobId: string, drawing: Drawing, layers: readonly string[], cutting: Cutting | null): Promise<readonly PlannedSheet[]> {
    const { stock, jobName } = await this.given(jobId);
    const { sheets, stops, findings } = await this.compute.run('plan', { jobId, jobName, drawing, layers, stock, cutting });
    const [stop, ...others] = stops;
    if (stop) {
      const more = others.length > 0 ? ` And ${others.length} more.` : '';
      throw new InputError('findings', `${stop.text}${more}`, { findings, field: 'layers' });
    }
    if (sheets.length === 0) throw new InputError('findings', 'Nothing on these layers goes to a machine.', { field: 'layers' });
    return sheets;
  }

  /** Whose sheet is printed how. @throws InputError `input.profile` */
  private async asked({ jobId, drawing, layer, number, printer }: SheetAsked) {
    const stockId = layerOf(drawing, layer)?.stockId ?? '';
    return { jobId, drawing, layer, number, ...(await this.given(jobId)), ...(await this.profiles.forPrint(printer, stockId)) };
  }

  /** The plates of a sheet as pictures. @throws InputError `input.sheet` when nothing is printed on it */
  async plates(sheet: SheetAsked): Promise<SheetPlates> {
    const asked = await this.asked(sheet);
    return this.pictures.unpacked(
      printedAssets(sheet.drawing, sheet.layer),
      (pictures) => this.compute.run('plates', { ...asked, pictures, mostPixels: MOST_PLATE_PIXELS }),
      { mostPx: MOST_LOOKED_PX },
    );
  }

  /** How a sheet will look when it is printed. @throws InputError `input.sheet` */
  async soft(sheet: SheetAsked): Promise<SoftLook> {
    const asked = await this.asked(sheet);
    return this.pictures.unpacked(
      printedAssets(sheet.drawing, sheet.layer),
      (pictures) => this.compute.run('soft', { ...asked, pictures, mostPixels: MOST_PLATE_PIXELS }),
      { mostPx: MOST_LOOKED_PX },
    );
  }

  /** @returns the name the file is kept under. @throws InputError `input.picture` for a picture that cannot be read; CancelledError */
  async print(sheet: SheetAsked, paper?: PaperSize, { signal, onShare }: Watch = {}): Promise<string> {
    const asked = await this.asked(sheet);
    const write = async (pictures: Record<string, RawPicture>, dir: string): Promise<string> => {
      const to = join(dir, 'print.pdf');
      const watch = { signal, onShare: (share: number) => onShare?.(UNPACKING_SHARE + (1 - UNPACKING_SHARE) * share) };
      await this.compute.run('print', { ...asked, pictures, to, ...(paper ? { paper } : {}) }, watch);
      return this.files.putFile(to);
    };
    const watch = { signal, onShare: (share: number) => onShare?.(UNPACKING_SHARE * share) };
    return this.pictures.unpacked(printedAssets(sheet.drawing, sheet.layer), write, watch);
  }
}
