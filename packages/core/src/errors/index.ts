/** The one family of failures; codes are stable across workers and HTTP, texts are not. */

export interface WireError {
  code: string;
  message: string;
  details?: Record<string, unknown>;
}

/**
 * Base of all failures. `code` is dotted: `input.*` the caller's mistake, `geometry.*` no result
 * for valid input, `limit.*` too large, `cancelled`, `stale`.
 */
export class AppError extends Error {
  readonly code: string;
  readonly details: Record<string, unknown>;

  constructor(code: string, message: string, details: Record<string, unknown> = {}) {
    super(message);
    this.name = new.target.name;
    this.code = code;
    this.details = details;
  }

  /** The form that crosses a worker or HTTP border. */
  toWire(): WireError {
    return { code: this.code, message: this.message, details: this.details };
  }

  /** Rebuilds the failure on the other side of the border. */
  static fromWire(wire: WireError): AppError {
    return new AppError(wire.code, wire.message, wire.details ?? {});
  }
}

/** The caller broke the contract; `what` names the broken part, e.g. `path`. */
export class InputError extends AppError {
  constructor(what: string, message: string, details: Record<string, unknown> = {}) {
    super(`input.${what}`, message, details);
  }
}

/** The input is larger than this operation takes. */
export class LimitError extends AppError {
  constructor(what: string, message: string, details: Record<string, unknown> = {}) {
    super(`limit.${what}`, message, details);
  }
}

/** The computation was stopped by its caller. */
export class CancelledError extends AppError {
  constructor() {
    super('cancelled', 'The computation was stopped.');
  }
}

/** A change was made on something that has changed since. */
export class StaleError extends AppError {
  constructor(message: string, details: Record<string, unknown> = {}) {
    super('stale', message, details);
  }
}

/** Any thrown value as a wire error; unknown ones become `internal`. */
export function errorToWire(error: unknown): WireError {
  if (error instanceof AppError) return error.toWire();
  return { code: 'internal', message: error instanceof Error ? error.message : String(error) };
}
