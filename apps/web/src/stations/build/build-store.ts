/** What Build shows: how the films are built, worked out in the worker a moment after each change. */
import { CancelledError } from '@lorvek/core';
import { create } from 'zustand';
import { useEffect } from 'react';
import { sentenceOf } from '../../api/client.ts';
import { useShop } from '../../api/shop.ts';
import { useDocument } from '../../document/store.ts';
import type { BuildAnswer, BuildAsked } from '@lorvek/computations';
import { askBuild, stopBuild } from '../../worker/compute.ts';

interface BuildState {
  /** undefined: not known yet. */
  answer: BuildAnswer | undefined;
  busy: boolean;
  share: number;
  error: string | undefined;
  /** Film under the pointer. */
  lit: string | undefined;
  /** Drawn flat, or pulled apart: 0 to 1. */
  apart: number;
}

const UNKNOWN: BuildState = { answer: undefined, busy: true, share: 0, error: undefined, lit: undefined, apart: 0.7 };

export const useBuild = create<BuildState>(() => UNKNOWN);

export const light = (lit: string | undefined): void => useBuild.setState({ lit });

const DELAY_MS = 60;
/** One that is under way so long is stopped when something newer is asked for, ms. */
const WORTH_STOPPING_MS = 3000;
let sequence = 0;
let since: number | undefined;
let waiting: BuildAsked | undefined;

/** The newest question waits for the one that is under way; those between are never asked. */
async function refresh(asked: BuildAsked): Promise<void> {
  if (since !== undefined) {
    waiting = asked;
    if (performance.now() - since > WORTH_STOPPING_MS) stopBuild();
    return;
  }
  since = performance.now();
  await work(asked);
  since = undefined;
  const next = waiting;
  waiting = undefined;
  if (next) await refresh(next);
}

async function work(asked: BuildAsked): Promise<void> {
  const mine = ++sequence;
  useBuild.setState({ busy: true, share: 0 });
  try {
    const answer = await askBuild('build', asked, (share) => mine === sequence && useBuild.setState({ share }));
    if (mine === sequence) useBuild.setState({ answer, busy: waiting !== undefined, share: 1, error: undefined });
  } catch (error) {
    if (mine === sequence && !(error instanceof CancelledError))
      useBuild.setState({ answer: undefined, busy: false, error: sentenceOf(error) });
  }
}

/** Keeps what is built up to date while the station is open. */
export function useFollowBuild(): void {
  const jobId = useDocument((state) => state.job?.id);
  const drawing = useDocument((state) => state.drawing);
  const stock = useShop((state) => state.stock);
  const settings = useShop((state) => state.settings);
  useEffect(() => {
    sequence++;
    waiting = undefined;
    useBuild.setState({ ...UNKNOWN, apart: useBuild.getState().apart });
  }, [jobId]);
  useEffect(() => {
    // a quote at a guessed rate is worse than none
    if (!drawing['page'] || !stock || !settings || !jobId) return undefined;
    useBuild.setState({ busy: true });
    const timer = setTimeout(() => void refresh({ drawing, stock, jobId, settings }), DELAY_MS);
    return () => clearTimeout(timer);
  }, [jobId, drawing, stock, settings]);
  useEffect(
    () => () => {
      sequence++;
      waiting = undefined;
      stopBuild();
    },
    [],
  );
}
