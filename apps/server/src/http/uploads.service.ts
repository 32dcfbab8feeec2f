/** Files that come in: streamed to disk, a few at a time, so that memory does not grow with them. */
import { Inject, Injectable } from '@nestjs/common';
import busboy from 'busboy';
import type { Request } from 'express';
import { randomUUID } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { mkdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import type { Readable } from 'node:stream';
import pLimit from 'p-limit';
import { InputError, LimitError } from '@lorvek/core';
import { CONFIG, type Config } from '../config.ts';
import { sizeText } from './bodies.ts';

export interface Upload {
  /** Where it lies until the work with it is over. */
  readonly path: string;
  /** As it was called where it came from: to be shown, never a path. */
  readonly name: string;
  readonly bytes: number;
}

export const INCOMING = 'incoming';
const AT_ONCE = 3;

@Injectable()
export class UploadsService {
  private readonly dir: string;
  private readonly turn = pLimit(AT_ONCE);

  constructor(@Inject(CONFIG) config: Config) {
    this.dir = join(config.dataDir, INCOMING);
  }

  /**
   * Takes the field `file` of a multipart request, works with it, and removes it.
   * @throws LimitError `limit.upload` for one of more than `mostBytes`, InputError `input.upload` when none came
   */
  receive<T>(request: Request, mostBytes: number, work: (upload: Upload) => Promise<T>): Promise<T> {
    return this.turn(async () => {
      await mkdir(this.dir, { recursive: true });
      const path = join(this.dir, randomUUID());
      try {
        return await work(await this.write(request, path, mostBytes));
      } finally {
        await rm(path, { force: true });
      }
    });
  }

  private async write(request: Request, path: string, mostBytes: number): Promise<Upload> {
    if (!/^multipart\/form-data/i.test(request.headers['content-type'] ?? ''))
      throw new InputError('upload', 'This address takes a file as multipart/form-data.', { field: 'file' });
    const parser = busboy({
      headers: request.headers,
      defParamCharset: 'utf8',
      limits: { files: 1, fields: 4, fieldSize: 1000, parts: 8, fileSize: mostBytes },
    });
    let taken: Promise<Upload> | undefined;
    parser.on('file', (_field, stream, { filename }: { filename?: string }) => {
      taken ??= keep(stream, path, filename ?? '', mostBytes);
      taken.catch(() => parser.destroy());
    });
    try {
      await pipeline(request, parser);
    } catch (error) {
      // the first cause is told: too large, or the disk; else the request was no whole multipart body
      await taken;
      throw error instanceof Error && 'code' in error ? error : new InputError('upload', 'The file did not arrive whole. Send it again.');
    }
    if (!taken) throw new InputError('upload', 'No file came with the request.', { field: 'file' });
    return taken;
  }
}

async function keep(stream: Readable & { truncated?: boolean }, path: string, name: string, mostBytes: number): Promise<Upload> {
  let bytes = 0;
  stream.on('data', (chunk: Buffer) => {
    bytes += chunk.length;
  });
  await pipeline(stream, createWriteStream(path));
  if (stream.truncated) throw new LimitError('upload', `The file is larger than ${sizeText(mostBytes)}.`, { field: 'file' });
  return { path, name: name || 'file', bytes };
}
