/** Refusals and failures, as they cross HTTP; told without a schema, so that whoever asks can read them from the first. */

/** A refusal or failure: what, where, and the way out (RFC 9457). */
export interface Problem {
  readonly type: string;
  readonly title: string;
  readonly status: number;
  readonly detail: string;
  /** The field concerned, dotted. */
  readonly field?: string;
  /** What to do. */
  readonly remedy?: string;
}

const isTextOrAbsent = (value: unknown): boolean => value === undefined || typeof value === 'string';

/** Is an answer's body a problem? What else it says of itself is let be. */
export function isProblem(body: unknown): body is Problem & Readonly<Record<string, unknown>> {
  if (typeof body !== 'object' || body === null) return false;
  const { type, title, status, detail, field, remedy } = body as Record<string, unknown>;
  return (
    [type, title, detail].every((text) => typeof text === 'string') &&
    Number.isFinite(status) &&
    isTextOrAbsent(field) &&
    isTextOrAbsent(remedy)
  );
}
