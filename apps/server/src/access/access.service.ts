/**
 * Who is signed in. One passphrase for the shop now; people with names and rights can come behind the same interface.
 * Sessions are random tokens of which only a hash is kept; a token is replaced while it is used.
 */
import { Inject, Injectable, type OnModuleInit } from '@nestjs/common';
import { createHash, randomBytes } from 'node:crypto';
import { LRUCache } from 'lru-cache';
import { AppError, LimitError } from '@lorvek/core';
import { CONFIG, type Config } from '../config.ts';
import { SessionRow } from '../db/entities.ts';
import { Tx } from '../db/tx.ts';
import { hashPassphrase, isPassphrase, readPassphrase, type KeptPassphrase } from './passphrase.ts';

/** Who comes in, and how: what the rest of the server knows of signing in. */
export interface Access {
  /** Must people sign in here? */
  readonly isAsked: boolean;
  /** @throws AppError `access.passphrase`, LimitError `limit.attempts` */
  signIn(passphrase: string, from: string): Promise<string>;
  /** @returns whether the token is good, and the one to use from now on when it is replaced */
  admit(token: string | undefined): Promise<{ ok: boolean; next?: string }>;
  signOut(token: string | undefined): Promise<void>;
}

const MINUTE = 60_000;
const LASTS_MS = 14 * 24 * 60 * MINUTE;
const REPLACED_AFTER_MS = 12 * 60 * MINUTE;
/** Requests that were under way with the token before are still let in. */
const GRACE_MS = MINUTE;
const ATTEMPTS = 5;
const ATTEMPTS_IN_ALL = 40;
const WAIT_MS = 5 * MINUTE;
const EVERYBODY = '*';

const hashOf = (token: string): string => createHash('sha256').update(token).digest('hex');

@Injectable()
export class AccessService implements Access, OnModuleInit {
  private kept: KeptPassphrase | undefined;
  private readonly failures = new LRUCache<string, number>({ max: 10_000, ttl: WAIT_MS });
  /** Sessions that were asked for lately, by hash of their token: when they were made. */
  private readonly known = new LRUCache<string, number>({ max: 2000, ttl: 5 * MINUTE });

  constructor(
    @Inject(CONFIG) private readonly config: Config,
    private readonly tx: Tx,
  ) {}

  async onModuleInit(): Promise<void> {
    this.kept = this.config.passphrase === undefined ? readPassphrase(this.config.dataDir) : await hashPassphrase(this.config.passphrase);
  }

  get isAsked(): boolean {
    return this.kept !== undefined;
  }

  async signIn(passphrase: string, from: string): Promise<string> {
    if (!this.kept) return '';
    if ((this.failures.get(from) ?? 0) >= ATTEMPTS || (this.failures.get(EVERYBODY) ?? 0) >= ATTEMPTS_IN_ALL)
      throw new LimitError('attempts', 'Too many wrong passphrases. Wait five minutes and try again.');
    // counted before it is looked at, so that many at once are no way round
    for (const key of [from, EVERYBODY]) this.failures.set(key, (this.failures.get(key) ?? 0) + 1);
    if (!(await isPassphrase(passphrase, this.kept))) throw new AppError('access.passphrase', 'That is not the passphrase of this shop.');
    this.failures.delete(from);
    return this.begin();
  }

  async admit(token: string | undefined): Promise<{ ok: boolean; next?: string }> {
    if (!this.isAsked) return { ok: true };
    if (token === undefined || token === '') return { ok: false };
    const hash = hashOf(token);
    const madeAt = this.known.get(hash) ?? (await this.look(hash));
    const age = madeAt === undefined ? Infinity : Date.now() - madeAt;
    if (age > LASTS_MS) return { ok: false };
    if (age < REPLACED_AFTER_MS) return { ok: true };
    const next = await this.begin();
    this.known.set(hash, Date.now() - REPLACED_AFTER_MS + GRACE_MS);
    setTimeout(() => void this.forget(hash), GRACE_MS).unref();
    return { ok: true, next };
  }

  async signOut(token: string | undefined): Promise<void> {
    if (token) await this.forget(hashOf(token));
  }

  private async begin(): Promise<string> {
    const token = randomBytes(32).toString('base64url');
    const madeAt = Date.now();
    await this.tx.run(async (manager) => {
      await manager.query('DELETE FROM session WHERE made_at < ?', [madeAt - LASTS_MS]);
      await manager.insert(SessionRow, { hash: hashOf(token), madeAt });
    });
    return token;
  }

  private async look(hash: string): Promise<number | undefined> {
    const row = await this.tx.read((manager) => manager.findOneBy(SessionRow, { hash }));
    if (row) this.known.set(hash, row.madeAt);
    return row?.madeAt;
  }

  private async forget(hash: string): Promise<void> {
    this.known.delete(hash);
    await this.tx.run((manager) => manager.delete(SessionRow, { hash }));
  }
}
