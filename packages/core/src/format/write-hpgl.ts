/**
 * Cut files in HP-GL/2 (Hewlett-Packard, HP-GL/2 and HP RTL Reference Guide, 1997): integers of 0.025 mm,
 * x along the roll, y across it. Only IN, PA, SP, VS, FS, PU, PD are written, so every cutter follows.
 * The tool is up between contours and at the end. Points that round to the one before are left out.
 */
import { strToU8 } from 'fflate';
import { LimitError } from '../errors/index.ts';
import type { ToolPath } from '../cut/plan-blade.ts';
import { at } from '../geometry/span.ts';

/** Plotter units per mm. */
export const UNITS_PER_MM = 40;
/** Farthest coordinate of the language, units (± 2^23). */
const FARTHEST = 8_388_607;
/** Pairs a PD command; short lines suit small machine buffers. */
const PAIRS_PER_COMMAND = 60;

/** What is said to the machine before the paths; a stored setup is only selected, its values are left alone. */
export type ToolChoice =
  | { readonly sends: 'values'; readonly tool: number; readonly speedMmPerS: number; readonly forceGrams: number; readonly passes: number }
  | { readonly sends: 'stored'; readonly tool: number; readonly passes: number };

const unit = (mm: number): number => Math.round(mm * UNITS_PER_MM) + 0;

function pathText(path: ToolPath, passes: number): string {
  const pairs: string[] = [];
  let lastX = unit(at(path.xy, 0));
  let lastY = unit(at(path.xy, 1));
  const start = `PU${lastX},${lastY};`;
  for (let pass = 0; pass < passes; pass++) {
    const backwards = pass > 0 && !path.closed && pass % 2 === 1;
    for (let k = 0; k < path.xy.length; k += 2) {
      const i = backwards ? path.xy.length - 2 - k : k;
      const x = unit(at(path.xy, i));
      const y = unit(at(path.xy, i + 1));
      if (x === lastX && y === lastY) continue;
      if (Math.abs(x) > FARTHEST || Math.abs(y) > FARTHEST)
        throw new LimitError('hpgl', 'The work reaches farther than a cut file can say (210 m).');
      pairs.push(`${x},${y}`);
      lastX = x;
      lastY = y;
    }
  }
  if (pairs.length === 0) return '';
  let out = start;
  for (let k = 0; k < pairs.length; k += PAIRS_PER_COMMAND) out += `PD${pairs.slice(k, k + PAIRS_PER_COMMAND).join(',')};\n`;
  return `${out}PU;`;
}

/** What one tool cuts; see the core's `planCut`. */
export interface HpglSection {
  readonly paths: readonly ToolPath[];
  readonly setup: ToolChoice;
}

function selection(setup: ToolChoice): string {
  const values = setup.sends === 'values' ? `VS${Math.max(1, Math.round(setup.speedMmPerS / 10))};FS${Math.round(setup.forceGrams)};` : '';
  return `SP${setup.tool};${values}\n`;
}

const isSame = (a: ToolChoice, b: ToolChoice): boolean =>
  a.sends === b.sends &&
  a.tool === b.tool &&
  (a.sends === 'stored' || (b.sends === 'values' && a.speedMmPerS === b.speedMmPerS && a.forceGrams === b.forceGrams));

/**
 * Writes a cut file: each section selects its tool, unless the one before left the same one in place.
 * @param sections in the order of cutting; paths mm, nothing below zero expected by cutters
 * @returns ASCII bytes
 * @throws LimitError `limit.hpgl` beyond the language's range
 */
export function writeHpglSections(sections: readonly HpglSection[]): Uint8Array {
  let last: ToolChoice | undefined;
  const body = sections.map(({ paths, setup }) => {
    const chosen = last && isSame(last, setup) ? '' : selection(setup);
    last = setup;
    return `${chosen}${paths.map((path) => pathText(path, setup.passes)).join('\n')}\n`;
  });
  return strToU8(`IN;PA;${body.join('')}PU0,0;SP0;\n`);
}

/**
 * Writes a cut file of one tool. @throws LimitError `limit.hpgl`
 * @param paths in the order in which they are run
 * @param setup which tool, and how it is asked for
 */
export const writeHpgl = (paths: readonly ToolPath[], setup: ToolChoice): Uint8Array => writeHpglSections([{ paths, setup }]);
