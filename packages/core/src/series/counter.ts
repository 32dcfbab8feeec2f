/** Numbers and letters that count: 007, 008 …, Berth A, B … Z, AA. */
import { InputError } from '../errors/index.ts';

/** How a counter goes on and how it is written. */
export interface CounterOptions {
  /** The first: a number, or a letter such as 'C' when letters count. */
  readonly start: number | string;
  readonly step: number;
  /** At least so many digits, filled up with zeros. */
  readonly padding?: number;
  readonly prefix?: string;
  readonly suffix?: string;
  /** A … Z, AA … ; `lower` in small letters. */
  readonly letters?: boolean | 'upper' | 'lower';
  /** Counts down from the start. */
  readonly reverse?: boolean;
  /** Left out: numbers or texts as they would be written without prefix and suffix, padded or not. */
  readonly skip?: readonly (number | string)[];
}

const MOST = 1_000_000;

/** 1 → A, 26 → Z, 27 → AA (bijective base 26). */
function lettersOf(value: number): string {
  let text = '';
  for (let n = value; n > 0; n = Math.floor((n - 1) / 26)) text = String.fromCharCode(65 + ((n - 1) % 26)) + text;
  return text;
}

function startOf(start: number | string, letters: boolean): number {
  if (typeof start === 'number') return start;
  if (letters && /^[A-Za-z]{1,6}$/.test(start)) return [...start.toUpperCase()].reduce((n, c) => n * 26 + c.charCodeAt(0) - 64, 0);
  return start.trim() === '' ? Number.NaN : Number(start);
}

/** Digits that a step such as 0.5 needs, so that 0.1 three times is 0.3. */
const decimalsOf = (value: number): number => Math.min(6, (/\.(\d+)$/.exec(String(value))?.[1] ?? '').length);

function written(value: number, decimals: number, opts: CounterOptions): string {
  if (opts.letters) return opts.letters === 'lower' ? lettersOf(value).toLowerCase() : lettersOf(value);
  const [whole = '', rest] = Math.abs(value).toFixed(decimals).split('.');
  return (value < 0 ? '-' : '') + whole.padStart(Math.min(40, opts.padding ?? 0), '0') + (rest === undefined ? '' : `.${rest}`);
}

/** First value and step. @throws InputError `input.counter` */
function pace(opts: CounterOptions): { start: number; step: number } {
  const start = startOf(opts.start, Boolean(opts.letters));
  const step = opts.reverse ? -opts.step : opts.step;
  const counts = opts.letters ? Number.isInteger(start) && Number.isInteger(step) : Number.isFinite(start) && Number.isFinite(step);
  if (!counts) throw new InputError('counter', 'The counter needs a start and a step that are numbers.');
  return { start, step };
}

/**
 * @param n which one, from 0; what is skipped takes no place
 * @throws InputError `input.counter` for a start or step that does not count, for letters below A, or when the skip list leaves nothing
 */
export function counterText(n: number, opts: CounterOptions): string {
  const { start, step } = pace(opts);
  if (!Number.isInteger(n) || n < 0 || n > MOST) throw new InputError('counter', `A counter counts from 0 to ${MOST} pieces.`);
  const decimals = opts.letters ? 0 : Math.max(decimalsOf(start), decimalsOf(step));
  const skipped = new Set((opts.skip ?? []).map((one) => String(one).trim().toLowerCase()));
  const write = (value: number): string => {
    if (opts.letters && value < 1) throw new InputError('counter', 'There is no letter before A.');
    return written(value, decimals, opts);
  };
  const isSkipped = (value: number): boolean =>
    skipped.has(write(value).toLowerCase()) || skipped.has(written(value, decimals, { ...opts, padding: 0 }).toLowerCase());
  if (step === 0 && isSkipped(start)) throw new InputError('counter', 'The counter stands still at a value that is left out.');
  let at = skipped.size === 0 ? n : 0;
  let left = n - at;
  for (; ; at++) {
    if (skipped.size > 0 && isSkipped(start + at * step)) continue;
    if (left-- === 0) return (opts.prefix ?? '') + write(start + at * step) + (opts.suffix ?? '');
  }
}
