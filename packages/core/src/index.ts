/** The core's root: readiness of its WebAssembly parts, and the family of failures. */
export { AppError, CancelledError, errorToWire, InputError, LimitError, StaleError, type WireError } from './errors/index.ts';
export type { Box, Contour, Control, Matrix, Outline, Point, Span } from './types/index.ts';

/** Resolves when shaping is loaded. Idempotent; the lettering folder waits for it by itself when imported. */
export async function ready(): Promise<void> {
  await import('./lettering/index.ts');
}
