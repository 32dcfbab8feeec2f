/** What a schema found wrong, as a person says it: no words of the validator reach the user. */
interface Issue {
  readonly code?: string | undefined;
  readonly message?: string;
  readonly path?: readonly PropertyKey[];
  readonly maximum?: number | bigint;
  readonly minimum?: number | bigint;
  readonly origin?: string;
  readonly expected?: string;
}

const UNITS: Readonly<Record<string, string>> = { Mm: ' (mm)', Pct: ' (%)', Deg: ' (degrees)' };

/** A field's name in words: `capHeightMm` is “cap height (mm)”. */
export function fieldWords(key: PropertyKey | undefined): string {
  if (key === undefined || typeof key === 'symbol') return 'this';
  const unit = /(Mm|Pct|Deg)$/.exec(String(key))?.[1];
  const bare = unit ? String(key).slice(0, -unit.length) : String(key);
  return `${bare.replace(/([A-Z])/g, (letter) => ` ${letter.toLowerCase()}`)}${unit ? (UNITS[unit] ?? '') : ''}`;
}

const counted = (n: number | bigint | undefined, origin: string | undefined): string =>
  `${String(n)}${origin === 'string' ? ' letters' : origin === 'array' ? ' entries' : ''}`;

/** The complaint alone, such as “at most 20000”. A schema's own words stay as they are. */
export function plainIssue(issue: Issue | undefined): string {
  if (!issue) return 'out of range';
  const own = issue.message !== undefined && !/^(Too |Invalid |Expected |Unrecognized )/.test(issue.message);
  if (own) return issue.message as string;
  switch (issue.code) {
    case 'too_big':
      return `at most ${counted(issue.maximum, issue.origin)}`;
    case 'too_small':
      return `${counted(issue.minimum, issue.origin)} or more`;
    case 'invalid_type':
      return `a ${issue.expected === 'int' ? 'whole number' : (issue.expected ?? 'value of another kind')}`;
    default:
      return 'out of range';
  }
}

/** The complaint with the field it is about, a sentence's beginning: “cap height (mm) must be at most 20000”. */
export const describeIssue = (issue: Issue | undefined): string => `${fieldWords(issue?.path?.at(-1))} must be ${plainIssue(issue)}`;
