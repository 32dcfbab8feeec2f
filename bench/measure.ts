/** Timing by process CPU time, as ratios to a reference measured in the same run: machines differ, ratios less so. */

export interface Measured {
  name: string;
  ms: number;
  reference: string;
  referenceMs: number;
  ratio: number;
  /** Of both figures; ms when absent. */
  unit?: string;
}

const cpuMs = (): number => process.cpuUsage().user / 1000;

/** A run is at least so long: the time of a process is told in steps of some ms on some machines. */
const SHORTEST_RUN_MS = 30;

/** Least CPU time of some runs, after one to warm up; what is short is done several times a run. */
export function leastCpuMs(work: () => unknown, runs = 5): number {
  work();
  const began = performance.now();
  work();
  const times = Math.ceil(SHORTEST_RUN_MS / Math.max(0.01, performance.now() - began));
  let best = Infinity;
  for (let k = 0; k < runs; k++) {
    const from = cpuMs();
    for (let i = 0; i < times; i++) work();
    best = Math.min(best, (cpuMs() - from) / times);
  }
  return best;
}

/** The same for work that answers later. */
export async function leastCpuMsLater(work: () => unknown, runs: number): Promise<number> {
  let best = Infinity;
  for (let k = 0; k < runs; k++) {
    const from = cpuMs();
    await work();
    best = Math.min(best, cpuMs() - from);
  }
  return best;
}

export function compare(name: string, work: () => unknown, reference: string, referenceWork: () => unknown, runs = 5): Measured {
  const ms = leastCpuMs(work, runs);
  const referenceMs = leastCpuMs(referenceWork, runs);
  return { name, ms, reference, referenceMs, ratio: ms / referenceMs };
}

export const report = (rows: readonly Measured[]): void => {
  for (const { name, ms, reference, referenceMs, ratio, unit = 'ms' } of rows) {
    process.stdout.write(
      `${name}\n    ${ms.toFixed(1)} ${unit}; ${reference}: ${referenceMs.toFixed(1)} ${unit}; ratio ${ratio.toFixed(2)}\n`,
    );
  }
};
