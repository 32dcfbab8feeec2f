/** The shop's passphrase, kept as scrypt (RFC 7914) of it, never itself. */
import { existsSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { randomBytes, scrypt, timingSafeEqual } from 'node:crypto';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { z } from 'zod';

const derive = promisify(scrypt) as (text: string, salt: Buffer, bytes: number, options: object) => Promise<Buffer>;
const COST = { N: 2 ** 15, r: 8, p: 1, maxmem: 64 * 1024 * 1024 };
const BYTES = 32;
export const LEAST_LETTERS = 8;

const keptSchema = z.object({ salt: z.string().regex(/^[0-9a-f]{32}$/), hash: z.string().regex(/^[0-9a-f]{64}$/) });
export type KeptPassphrase = z.infer<typeof keptSchema>;

const path = (dataDir: string): string => join(dataDir, 'passphrase.json');

export async function hashPassphrase(text: string, salt = randomBytes(16)): Promise<KeptPassphrase> {
  return { salt: salt.toString('hex'), hash: (await derive(text.normalize('NFC'), salt, BYTES, COST)).toString('hex') };
}

export async function isPassphrase(text: string, kept: KeptPassphrase): Promise<boolean> {
  const { hash } = await hashPassphrase(text, Buffer.from(kept.salt, 'hex'));
  return timingSafeEqual(Buffer.from(hash, 'hex'), Buffer.from(kept.hash, 'hex'));
}

/** What was set for this folder. @throws ZodError when the file is not what this program wrote */
export function readPassphrase(dataDir: string): KeptPassphrase | undefined {
  return existsSync(path(dataDir)) ? keptSchema.parse(JSON.parse(readFileSync(path(dataDir), 'utf8'))) : undefined;
}

export async function writePassphrase(dataDir: string, text: string): Promise<void> {
  writeFileSync(`${path(dataDir)}.tmp`, JSON.stringify(await hashPassphrase(text)), { mode: 0o600 });
  renameSync(`${path(dataDir)}.tmp`, path(dataDir));
}
