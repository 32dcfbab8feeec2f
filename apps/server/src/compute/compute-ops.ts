/** What the pool is asked for and what it answers: one table, so that another engine can stand behind it. */
import type { WireError } from '@lorvek/core';
import type { Finding } from '@lorvek/core/check';
import type { Drawing, Material, ToolSetup } from '@lorvek/model';

export interface PlanRequest {
  readonly op: 'plan';
  readonly drawing: Drawing;
  readonly film: string;
  readonly material: Material;
  readonly setup: ToolSetup;
}

export interface ThumbnailRequest {
  readonly op: 'thumbnail';
  readonly drawing: Drawing;
}

export interface PlanAnswer {
  readonly hpgl: Uint8Array;
  readonly svg: Uint8Array;
  /** The sheet to look at, SVG text. */
  readonly picture: string;
  readonly findings: readonly Finding[];
  readonly lengthMm: number;
  readonly widthMm: number;
  readonly cutMm: number;
  readonly seconds: number;
}

export interface OpAnswers {
  plan: PlanAnswer;
  thumbnail: string;
}

export type ComputeRequest = PlanRequest | ThumbnailRequest;
export type WorkerAnswer<Op extends keyof OpAnswers> = { ok: true; output: OpAnswers[Op] } | { ok: false; error: WireError };
