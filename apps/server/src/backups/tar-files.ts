/** Files into a tar and out of one. What comes out goes only where its caller says; its content is checked by name. */
import { createHash } from 'node:crypto';
import { createReadStream, createWriteStream } from 'node:fs';
import { mkdir, stat } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { Transform, type Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import tar, { type Extract, type Pack } from 'tar-stream';
import { InputError } from '@lorvek/core';

/** Adds a file as it is now. */
export async function addFile(out: Pack, name: string, path: string): Promise<void> {
  const { size } = await stat(path);
  await pipeline(createReadStream(path, { end: Math.max(0, size - 1) }), out.entry({ name, size }));
}

export function addBytes(out: Pack, name: string, bytes: Uint8Array): Promise<void> {
  return new Promise((resolve, reject) => {
    out.entry({ name }, Buffer.from(bytes), (error) => (error ? reject(error) : resolve()));
  });
}

/** Where an entry goes, and what its content must be; undefined: nowhere. */
type Place = (entry: string) => { readonly to: string; readonly hash?: string } | undefined;

const broken = (): InputError => new InputError('backup', 'The file is damaged or not one that this program wrote.', { field: 'file' });

/**
 * Unpacks into `dir` what `place` gives a place to, relative to it; everything else is passed over.
 * @throws InputError `input.backup` for a file that is no tar, or whose content is not what its name says
 */
export async function unpackTar(from: Readable, dir: string, place: Place): Promise<void> {
  const reader = tar.extract();
  const done = pipeline(from, reader).catch((error: unknown) => {
    throw error instanceof Error && 'code' in error ? error : broken();
  });
  // an entry of a file that breaks off never ends by itself
  const failed = new Promise<never>((_, reject) => done.catch(reject));
  const unpacked = unpackEntries(reader, dir, place);
  for (const one of [failed, unpacked]) one.catch(() => undefined);
  try {
    await Promise.race([unpacked, failed]);
  } catch (error) {
    throw error instanceof InputError || (error instanceof Error && 'code' in error) ? error : broken();
  }
  await done;
}

async function unpackEntries(reader: Extract, dir: string, place: Place): Promise<void> {
  for await (const entry of reader) {
    const target = entry.header.type === 'file' ? place(entry.header.name) : undefined;
    if (!target) {
      entry.resume();
      continue;
    }
    const path = join(dir, target.to);
    await mkdir(dirname(path), { recursive: true });
    const hash = createHash('sha256');
    const through = new Transform({
      transform(chunk: Buffer, _encoding, next) {
        hash.update(chunk);
        next(null, chunk);
      },
    });
    await pipeline(entry, through, createWriteStream(path));
    if (target.hash !== undefined && hash.digest('hex') !== target.hash) throw broken();
  }
}
