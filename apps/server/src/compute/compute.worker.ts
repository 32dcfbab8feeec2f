/** A thread of the compute pool: answers by the tables of computations, with the shop's fonts and files. */
import { once } from 'node:events';
import { createWriteStream } from 'node:fs';
import { open, readFile, writeFile } from 'node:fs/promises';
import type { MessagePort } from 'node:worker_threads';
import { deflateSync } from 'node:zlib';
import wawoff2 from 'wawoff2';
import { answerTo, COMPUTATIONS, FontsAtHand, type Answer, type FileHost, type OpOf, type QuestionOf } from '@lorvek/computations';
import { WITH_FILES } from '@lorvek/computations/with-files';

export const SERVER_COMPUTATIONS = { ...COMPUTATIONS, ...WITH_FILES } as const;
export type ServerOp = OpOf<typeof SERVER_COMPUTATIONS>;

/** A question to a thread. */
export interface PoolTask {
  readonly question: QuestionOf<typeof SERVER_COMPUTATIONS>;
  /** The files of the fonts that its drawing uses, by font. */
  readonly fonts: Readonly<Record<string, readonly string[]>>;
  /** Told how much is done, 0 to 1. */
  readonly port: MessagePort;
}

/** Outlines of so many items are kept. */
const MOST_KEPT = 5000;

/** Where the fonts lie that were asked for so far; each question says where its own do. */
const fontPaths = new Map<string, readonly string[]>();

const host: FileHost = {
  fonts: new FontsAtHand(
    {
      // only what reads files of strangers chooses among all, and that is the page
      list: () => Promise.resolve([]),
      files: async (id) => {
        const paths = fontPaths.get(id);
        return paths && Promise.all(paths.map(async (path) => new Uint8Array(await readFile(path))));
      },
    },
    MOST_KEPT,
  ),
  now: () => Date.now(),
  pause: () => new Promise((resolve) => setImmediate(resolve)),
  toBase64: (bytes) => Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength).toString('base64'),
  files: {
    read: async (path) => new Uint8Array(await readFile(path)),
    readPart: async (path, from, length) => {
      const file = await open(path, 'r');
      try {
        const bytes = new Uint8Array(length);
        await file.read(bytes, 0, length, from);
        return bytes;
      } finally {
        await file.close();
      }
    },
    write: (path, bytes) => writeFile(path, bytes),
    writeInPieces: async (path, work) => {
      const file = createWriteStream(path);
      try {
        await work(async (piece) => {
          if (!file.write(piece)) await once(file, 'drain');
        });
      } finally {
        await new Promise<void>((resolve, reject) => file.end((error?: Error | null) => (error ? reject(error) : resolve())));
      }
    },
  },
  unpackWoff2: (bytes) => wawoff2.decompress(bytes),
  packRows: (rows) => deflateSync(rows, { level: 1 }),
};

export default async function run({ question, fonts, port }: PoolTask): Promise<Answer<unknown>> {
  for (const [id, paths] of Object.entries(fonts)) if (paths.length > 0) fontPaths.set(id, paths);
  try {
    return await answerTo(SERVER_COMPUTATIONS, question, host, (share) => port.postMessage(share));
  } finally {
    port.close();
  }
}
