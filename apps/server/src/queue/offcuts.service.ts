/** What is left of a sheet after its cut, from what was cut: looked at, and put into Stock once. */
import { Injectable } from '@nestjs/common';
import { InputError } from '@lorvek/core';
import { bounds, formatPath } from '@lorvek/core/geometry';
import { offcutOf, type Offcut } from '@lorvek/core/sheet';
import type { Leftover } from '@lorvek/model';
import { linesOfCut, type SheetCut } from '@lorvek/model/sheet-cut';
import type { RunRow } from '../db/entities.ts';
import { FilesService } from '../files/files.service.ts';
import { RunsStore } from './runs.store.ts';

/** Left beside the work, mm. */
const GAP_MM = 5;

@Injectable()
export class OffcutsService {
  constructor(
    private readonly store: RunsStore,
    private readonly files: FilesService,
  ) {}

  private async of(row: RunRow): Promise<Offcut | undefined> {
    const { plan } = await this.store.files(row.id);
    if (row.kind !== 'cut' || row.state !== 'done' || row.rollId === null || plan === undefined) return undefined;
    const cut = JSON.parse((await this.files.get(plan)).toString('utf8')) as SheetCut;
    const boxes = linesOfCut(cut).flatMap(({ outline }) => outline.contours.map((contour) => bounds({ contours: [contour] })));
    return offcutOf(boxes, row.lengthMm, row.widthMm, GAP_MM);
  }

  async look(runId: string): Promise<Leftover> {
    const row = await this.store.row(runId);
    const left = row.offcutId === null ? await this.of(row) : undefined;
    return { left: left ? { widthMm: left.widthMm, lengthMm: left.lengthMm, path: formatPath(left.outline, 1) } : null };
  }

  /** @throws InputError `input.state` when nothing worth keeping is left, or it is in Stock already */
  async keep(runId: string): Promise<void> {
    const row = await this.store.row(runId);
    const left = await this.of(row);
    if (!left) throw new InputError('state', 'Nothing worth keeping is left of this sheet.');
    await this.store.keepOffcut(row, left);
  }
}
