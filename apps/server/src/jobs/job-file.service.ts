/**
 * A job alone as a file, to be read in another shop: a tar of the drawing as it stands (`job.json`) and, by content, the
 * pictures and the shop's own fonts that it uses. Films keep the names that they had; the other shop's Stock may lack them.
 */
import { Inject, Injectable } from '@nestjs/common';
import { createReadStream } from 'node:fs';
import { readFile, rm } from 'node:fs/promises';
import { join } from 'node:path';
import tar, { type Pack } from 'tar-stream';
import { z } from 'zod';
import { InputError, LimitError } from '@lorvek/core';
import {
  DOCUMENT_VERSION,
  fontEntrySchema,
  fontsOf,
  jobStateSchema,
  leavesOf,
  seriesOf,
  upgradeDrawing,
  type Drawing,
  type Job,
  type LooseDrawing,
} from '@lorvek/model';
import { AssetsService } from '../assets/assets.module.ts';
import { addBytes, addFile, unpackTar } from '../backups/tar-files.ts';
import { CONFIG, type Config } from '../config.ts';
import { storageFaultOf } from '../db/storage-fault.ts';
import { FilesService } from '../files/files.service.ts';
import { FontsService } from '../fonts/fonts.service.ts';
import { depthOf } from '../http/bodies.ts';
import { INCOMING } from '../http/uploads.service.ts';
import { DocumentsService } from './documents.service.ts';
import { JobsService } from './jobs.service.ts';
import { statIfThere } from '../files/stat-if-there.ts';

const JOB_ENTRY = 'job.json';
const FILE_ENTRY = /^files\/([0-9a-f]{64})$/;
const MOST_JSON_BYTES = 256 * 1024 * 1024;
const DEEPEST = 64;

const fileSchema = z.object({
  /** Version of the drawing's shape. */
  lorvekJob: z.number().int().min(1),
  job: z.object({
    name: z.string(),
    customer: z.string(),
    dueOn: z.string().nullable(),
    state: jobStateSchema,
  }),
  drawing: z.record(z.string(), z.unknown()),
  fonts: z.array(z.object({ entry: fontEntrySchema, licence: z.string() })),
});

const assetsIn = (drawing: Drawing): string[] => [
  ...new Set([
    ...leavesOf(drawing).flatMap((leaf) => (leaf.kind === 'picture' ? [leaf.asset] : [])),
    ...(seriesOf(drawing)?.pictures ?? []).map(({ asset }) => asset),
  ]),
];

@Injectable()
export class JobFileService {
  constructor(
    private readonly jobs: JobsService,
    private readonly documents: DocumentsService,
    private readonly files: FilesService,
    private readonly fonts: FontsService,
    private readonly assets: AssetsService,
    @Inject(CONFIG) private readonly config: Config,
  ) {}

  /** @throws InputError `input.missing` */
  async packed(jobId: string): Promise<{ name: string; stream: Pack }> {
    const { name, customer, dueOn, state } = await this.jobs.get(jobId);
    const { drawing } = await this.documents.open(jobId);
    const fonts = this.fonts.ownAmong(leavesOf(drawing).flatMap(fontsOf));
    const names = [...assetsIn(drawing), ...fonts.flatMap(({ entry }) => entry.files)];
    const content: z.infer<typeof fileSchema> = {
      lorvekJob: DOCUMENT_VERSION,
      job: { name, customer, dueOn, state },
      drawing: { ...drawing },
      fonts: fonts.map(({ entry, licence }) => ({ entry, licence })),
    };
    const stream = tar.pack();
    void (async () => {
      await addBytes(stream, JOB_ENTRY, Buffer.from(JSON.stringify(content)));
      for (const file of new Set(names)) await addFile(stream, `files/${file}`, this.files.path(file));
      stream.finalize();
    })().catch((error: unknown) => stream.destroy(error instanceof Error ? error : new Error(String(error))));
    return { name, stream };
  }

  /** Makes a job of a file. @throws InputError `input.job-file` for anything that is none */
  async read(path: string): Promise<Job> {
    const dir = join(this.config.dataDir, INCOMING, `job-${process.pid}-${Date.now()}-${Math.trunc(1e6 * performance.now())}`);
    try {
      await unpackTar(createReadStream(path), dir, (entry) => {
        if (entry === JOB_ENTRY) return { to: entry };
        const hash = FILE_ENTRY.exec(entry)?.[1];
        return hash === undefined ? undefined : { to: hash, hash };
      });
      return await this.make(dir);
    } finally {
      await rm(dir, { recursive: true, force: true });
    }
  }

  private async make(dir: string): Promise<Job> {
    const { lorvekJob, job, drawing: records, fonts } = await readContent(join(dir, JOB_ENTRY));
    const drawing = upgradeDrawing(records as LooseDrawing, lorvekJob);
    for (const asset of assetsIn(drawing)) {
      const kept = await this.assets.keepFile(join(dir, asset)).catch((error: unknown) => {
        if (storageFaultOf(error)) throw error; // a full disk is no fault of the file
        return undefined;
      });
      if (kept?.asset !== asset)
        throw new InputError('job-file', 'A picture of this job is missing from the file or damaged.', { field: 'file' });
    }
    for (const { entry, licence } of fonts) {
      for (const file of entry.files) await this.files.putFile(join(dir, file));
      await this.fonts.add({ id: entry.id, entry: { ...entry, own: true }, licence, addedAt: new Date().toISOString() });
    }
    const made = await this.jobs.create(
      { name: job.name.slice(0, 120) || 'Job from a file', customer: job.customer.slice(0, 120), dueOn: job.dueOn },
      drawing,
    );
    return job.state === made.state ? made : this.jobs.change(made.id, { state: job.state });
  }
}

async function readContent(path: string): Promise<z.infer<typeof fileSchema>> {
  const wrong = (): InputError => new InputError('job-file', 'This file is no job that this program wrote.', { field: 'file' });
  const size = (await statIfThere(path))?.size;
  if (size === undefined) throw wrong();
  if (size > MOST_JSON_BYTES) throw new LimitError('job-file', 'The drawing in this file is larger than can be read.');
  const bytes = await readFile(path);
  if (depthOf(bytes, DEEPEST) > DEEPEST) throw wrong();
  try {
    return fileSchema.parse(JSON.parse(bytes.toString('utf8')));
  } catch {
    throw wrong();
  }
}
