/** Settings from the environment, read once. Everything has a default that is safe on one machine. */
import { z } from 'zod';
import { join, resolve } from 'node:path';

const names = z
  .string()
  .default('')
  .transform((text) => text.split(',').flatMap((name) => name.trim().toLowerCase() || []));

const schema = z.object({
  LORVEK_PORT: z.coerce.number().int().min(0).max(65535).default(7410),
  /** Loopback unless told otherwise. */
  LORVEK_HOST: z.string().default('127.0.0.1'),
  /** Names by which browsers may call the server, besides loopback's and its own. */
  LORVEK_HOSTS: names,
  /** Asked of everybody who comes; without one the server listens on loopback only. */
  LORVEK_PASSPHRASE: z.string().min(8, 'LORVEK_PASSPHRASE needs 8 letters or more').optional(),
  /** Machines outside loopback and private networks, by address. */
  LORVEK_MACHINE_HOSTS: names,
  LORVEK_DATA: z.string().default('data'),
  /** The watched folder; beside the data unless told otherwise. */
  LORVEK_INBOX: z.string().optional(),
  LORVEK_ASSETS: z.string().default('assets'),
  LORVEK_WEB: z.string().default('apps/web/dist'),
  LORVEK_LOG: z.enum(['fatal', 'error', 'warn', 'info', 'debug', 'silent']).default('info'),
  LORVEK_RATE_LIMIT: z.coerce.number().int().min(1).default(3000),
  LORVEK_BACKUPS: z.coerce.number().int().min(1).max(1000).default(14),
});

export interface Config {
  readonly port: number;
  readonly host: string;
  readonly hosts: readonly string[];
  readonly passphrase?: string | undefined;
  readonly machineHosts: readonly string[];
  readonly dataDir: string;
  readonly inboxDir: string;
  readonly assetsDir: string;
  readonly webDir: string;
  readonly logLevel: string;
  /** Requests a minute from one address. */
  readonly rateLimit: number;
  /** How many daily backups are kept. */
  readonly backupsKept: number;
}

/** @throws ZodError naming the setting that cannot be */
export function readConfig(env: NodeJS.ProcessEnv = process.env): Config {
  const e = schema.parse(env);
  return {
    port: e.LORVEK_PORT,
    host: e.LORVEK_HOST,
    hosts: e.LORVEK_HOSTS,
    passphrase: e.LORVEK_PASSPHRASE,
    machineHosts: e.LORVEK_MACHINE_HOSTS,
    dataDir: resolve(e.LORVEK_DATA),
    inboxDir: resolve(e.LORVEK_INBOX ?? join(e.LORVEK_DATA, 'inbox')),
    assetsDir: resolve(e.LORVEK_ASSETS),
    webDir: resolve(e.LORVEK_WEB),
    logLevel: e.LORVEK_LOG,
    rateLimit: e.LORVEK_RATE_LIMIT,
    backupsKept: e.LORVEK_BACKUPS,
  };
}

export const CONFIG = Symbol('config');
