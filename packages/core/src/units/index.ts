/**
 * Lengths as people write them: mm, cm, m, inches (also as fractions), feet, with plain arithmetic.
 * A number without a unit takes the field's unit; `3*16 + 2 in` in a mm field is 48 mm + 50.8 mm.
 * Grammar: sum of products of factors; a factor is a number, a fraction `3/8`, a mixed number `1 3/8`,
 * or a bracket, each with an optional unit. Lengths may not be multiplied by lengths.
 * A length goes on in a smaller unit: `6' 2"`, `1 m 20`.
 */
import { InputError } from '../errors/index.ts';

export type LengthUnit = 'mm' | 'cm' | 'in' | 'in-fraction';

const MM_PER_INCH = 25.4;
const UNIT_MM: Record<string, number> = {
  mm: 1,
  cm: 10,
  m: 1000,
  in: MM_PER_INCH,
  '"': MM_PER_INCH,
  '″': MM_PER_INCH,
  ft: 304.8,
  "'": 304.8,
  '′': 304.8,
};

/** The unit that is meant after a larger one when none is written. */
const SMALLER: Readonly<Record<string, string>> = { m: 'cm', cm: 'mm', ft: 'in', "'": 'in', '′': 'in' };

/**
 * Size of one step of the unit, mm.
 * @returns 1 for mm, 10 for cm, 25.4 for inches
 */
export const unitMm = (unit: LengthUnit): number => (unit === 'mm' ? 1 : unit === 'cm' ? 10 : MM_PER_INCH);

/** The unit as it is written behind a number. */
export const unitLabel = (unit: LengthUnit): string => (unit === 'in-fraction' ? 'in' : unit);

interface Quantity {
  value: number;
  isLength: boolean;
}

class Reader {
  private at = 0;
  private readonly text: string;
  private readonly unit: number;

  constructor(text: string, unit: number) {
    this.text = text;
    this.unit = unit;
  }

  private fail(why: string): InputError {
    return new InputError('length', `"${this.text.trim()}" is not a length: ${why}. Write for example 120, 4 1/2 in or 3*16+2 cm.`, {
      at: this.at,
    });
  }

  private match(pattern: RegExp): RegExpExecArray | null {
    pattern.lastIndex = this.at;
    const found = pattern.exec(this.text);
    if (found) this.at += found[0].length;
    return found;
  }

  private skip(): void {
    this.match(/\s*/y);
  }

  private length(q: Quantity): number {
    return q.isLength ? q.value : q.value * this.unit;
  }

  whole(): number {
    const q = this.sum();
    this.skip();
    if (this.at < this.text.length) throw this.fail(`"${this.text.slice(this.at).trim()}" is not understood`);
    const mm = this.length(q);
    if (!Number.isFinite(mm)) throw this.fail('the result is not a number');
    return mm;
  }

  private sum(): Quantity {
    let left = this.product();
    for (;;) {
      this.skip();
      const op = this.match(/[+\-−]/y);
      if (!op) return left;
      const right = this.product();
      const sign = op[0] === '+' ? 1 : -1;
      left =
        left.isLength || right.isLength
          ? { value: this.length(left) + sign * this.length(right), isLength: true }
          : { value: left.value + sign * right.value, isLength: false };
    }
  }

  private product(): Quantity {
    let left = this.factor(true);
    for (;;) {
      this.skip();
      const op = this.match(/[*×/÷]/y);
      if (!op) return left;
      const divides = op[0] === '/' || op[0] === '÷';
      const right = this.factor(!divides);
      if (divides && right.value === 0) throw this.fail('it divides by zero');
      if (left.isLength && right.isLength && !divides) throw this.fail('a length times a length is an area');
      if (right.isLength && !left.isLength && divides) throw this.fail('a number divided by a length is no length');
      const isLength = left.isLength !== right.isLength;
      left = { value: divides ? left.value / right.value : left.value * right.value, isLength };
    }
  }

  private factor(fractions: boolean): Quantity {
    this.skip();
    const sign = this.match(/[-−+]/y);
    this.skip();
    let q: Quantity;
    if (this.match(/\(/y)) {
      q = this.sum();
      this.skip();
      if (!this.match(/\)/y)) throw this.fail('a bracket is not closed');
    } else q = { value: this.number(fractions), isLength: false };
    this.skip();
    const unit = this.match(/mm|cm|m|in(?:ch(?:es)?)?|ft|["″'′]/iy);
    if (unit) {
      if (q.isLength) throw this.fail('it has two units');
      const key = unit[0].toLowerCase().startsWith('in') ? 'in' : unit[0].toLowerCase();
      q = { value: q.value * (UNIT_MM[key] as number) + this.rest(key), isLength: true };
    }
    return sign && sign[0] !== '+' ? { ...q, value: -q.value } : q;
  }

  /** What follows a length without a sign between: feet and inches, metres and centimetres (`6' 2"`, `1 m 20`). */
  private rest(key: string): number {
    const smaller = SMALLER[key];
    if (smaller === undefined || !this.match(/\s*(?=\d)/y)) return 0;
    const value = this.number(true);
    this.skip();
    const unit = this.match(/mm|cm|in(?:ch(?:es)?)?|["″]/iy)?.[0].toLowerCase();
    return value * (UNIT_MM[unit === undefined ? smaller : unit.startsWith('in') ? 'in' : unit] as number);
  }

  private number(fractions: boolean): number {
    const mixed = fractions ? this.match(/(?:(\d+)[ -])?(\d+)\s*\/\s*(\d+)(?![\d.,])/y) : null;
    if (mixed) {
      const below = Number(mixed[3]);
      if (below === 0) throw this.fail('it divides by zero');
      return Number(mixed[1] ?? 0) + Number(mixed[2]) / below;
    }
    const plain = this.match(/\d+(?:[.,]\d*)?|[.,]\d+/y);
    if (!plain) throw this.fail(this.at >= this.text.length ? 'it breaks off' : `"${this.text.slice(this.at)}" is not a number`);
    return Number(plain[0].replace(',', '.'));
  }
}

/**
 * @param text what was typed
 * @param unit taken for numbers without one
 * @returns mm
 * @throws InputError `input.length`, with the place in `details.at`
 */
export function parseLength(text: string, unit: LengthUnit): number {
  if (text.length > 200) throw new InputError('length', 'A length of more than 200 characters is not read.');
  return new Reader(text, unitMm(unit)).whole();
}

/**
 * Plain arithmetic without units, for angles, counts and percentages. @throws InputError `input.length`
 * @param text signs of degrees and percent are passed over
 */
export const parseNumber = (text: string): number => parseLength(text.replace(/[°%]/g, ''), 'mm');

const trim = (n: number, decimals: number): string => {
  const text = n.toFixed(decimals);
  return (text.includes('.') ? text.replace(/\.?0+$/, '') : text).replace(/^-0$/, '0');
};

/** Inches as a whole number and a fraction of at most 1/64 when that is exact to 0.0001 in, else as decimals. */
function inchFraction(inches: number): string {
  const size = Math.abs(inches);
  for (const below of [1, 2, 4, 8, 16, 32, 64]) {
    const parts = Math.round(size * below);
    if (Math.abs(parts / below - size) > 0.0001) continue;
    const whole = Math.floor(parts / below);
    const rest = parts - whole * below;
    const sign = inches < 0 && parts > 0 ? '-' : '';
    if (rest === 0) return `${sign}${whole}`;
    return `${sign}${whole > 0 ? `${whole} ` : ''}${rest}/${below}`;
  }
  return trim(inches, 3);
}

/**
 * A length in the unit, without its name; exact to 0.01 mm, 0.001 cm, 0.001 in. Law: parse(format(x)) is x within half a step.
 * @returns a dash for what is no number
 */
export function formatLength(mm: number, unit: LengthUnit): string {
  if (!Number.isFinite(mm)) return '–';
  if (unit === 'in-fraction') return inchFraction(mm / MM_PER_INCH);
  if (unit === 'in') return trim(mm / MM_PER_INCH, 3);
  return unit === 'cm' ? trim(mm / 10, 3) : trim(mm, 2);
}

/** A length with its unit's name. */
export const describeLength = (mm: number, unit: LengthUnit): string => `${formatLength(mm, unit)} ${unitLabel(unit)}`;
