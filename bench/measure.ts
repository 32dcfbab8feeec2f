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

/** Least CPU time of some runs, after one to warm up. */
export function leastCpuMs(work: () => unknown, runs = 5): number {
  work();
  let best = Infinity;
  for (let k = 0; k < runs; k++) {
    const from = cpuMs();
    work();
    best = Math.min(best, cpuMs() - from);
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
