/** Settings from the environment, read once. Everything has a default that is safe on one machine. */
import { z } from 'zod';
import { join, resolve } from 'node:path';

const schema = z.object({
  LORVEK_PORT: z.coerce.number().int().min(0).max(65535).default(7410),
  /** Loopback unless told otherwise. */
  LORVEK_HOST: z.string().default('127.0.0.1'),
  LORVEK_DATA: z.string().default('data'),
  /** The watched folder; beside the data unless told otherwise. */
  LORVEK_INBOX: z.string().optional(),
  LORVEK_ASSETS: z.string().default('assets'),
  LORVEK_WEB: z.string().default('apps/web/dist'),
  LORVEK_LOG: z.enum(['fatal', 'error', 'warn', 'info', 'debug', 'silent']).default('info'),
  LORVEK_RATE_LIMIT: z.coerce.number().int().min(1).default(3000),
});

export interface Config {
  readonly port: number;
  readonly host: string;
  readonly dataDir: string;
  readonly inboxDir: string;
  readonly assetsDir: string;
  readonly webDir: string;
  readonly logLevel: string;
  /** Requests a minute from one address. */
  readonly rateLimit: number;
}

/** @throws ZodError naming the setting that cannot be */
export function readConfig(env: NodeJS.ProcessEnv = process.env): Config {
  const e = schema.parse(env);
  return {
    port: e.LORVEK_PORT,
    host: e.LORVEK_HOST,
    dataDir: resolve(e.LORVEK_DATA),
    inboxDir: resolve(e.LORVEK_INBOX ?? join(e.LORVEK_DATA, 'inbox')),
    assetsDir: resolve(e.LORVEK_ASSETS),
    webDir: resolve(e.LORVEK_WEB),
    logLevel: e.LORVEK_LOG,
    rateLimit: e.LORVEK_RATE_LIMIT,
  };
}

export const CONFIG = Symbol('config');
