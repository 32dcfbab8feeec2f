/**
 * Talks to a cutter: sends a file no further ahead than the machine has done, told by its own answers; pauses and stops
 * soon. Knows nothing of simulation.
 * After each piece it asks where the tool is (OA, which takes its turn behind the moves): only the answer that names the
 * place where the piece ends counts. Stop is ESC . K (HP-GL device control), which is heeded out of turn.
 */
import { cutPieces, PIECE_MM, type CutPiece } from './cut-pieces.ts';
import { DriverError, MachineLine, type Address } from './machine-line.ts';

export interface SendControl {
  readonly signal: AbortSignal;
  /** Resolves at once, or when a pause ends. */
  readonly mayGoOn: () => Promise<void>;
  /** How much the machine has done, 0 to 1. */
  readonly onDone: (share: number) => void;
  /** Addresses beyond private networks that machines may have. */
  readonly allowed: readonly string[];
  /** How long the machine may keep quiet over a piece, beyond the time that a slow one needs for it. */
  readonly patienceMs: number;
}

/** Pieces that may lie in the machine's buffers: one that is done, one that keeps it from waiting. */
const AHEAD = 2;
/** No machine cuts slower, mm/s. */
const SLOWEST_MM_PER_S = 8;
const PLACE = /^(-?\d{1,8}),(-?\d{1,8})(,\d{1,6})?$/;
/** Machines round their places. */
const NEAR_UNITS = 3;

async function awaitPiece(line: MachineLine, { end, wayMm }: CutPiece, control: SendControl): Promise<void> {
  const patience = control.patienceMs + (1000 * Math.max(wayMm, PIECE_MM)) / SLOWEST_MM_PER_S;
  const [, x, y] = await line.answer(PLACE, patience, control.signal);
  if (end && (Math.abs(Number(x) - end[0]) > NEAR_UNITS || Math.abs(Number(y) - end[1]) > NEAR_UNITS)) throw new DriverError('astray');
}

async function pour(line: MachineLine, pieces: readonly CutPiece[], control: SendControl, done: { count: number }): Promise<void> {
  let sent = 0;
  while (done.count < pieces.length) {
    while (sent < pieces.length && sent < done.count + AHEAD) {
      await Promise.race([control.mayGoOn(), line.lost]);
      if (control.signal.aborted) throw new DriverError('aborted');
      line.send(`${pieces[sent]?.text ?? ''}OA;`);
      sent++;
    }
    await awaitPiece(line, pieces[done.count] as CutPiece, control);
    done.count++;
    control.onDone(done.count / pieces.length);
  }
}

/**
 * Sends a cut file and waits until the machine has done it.
 * @throws DriverError with how much was done
 */
export async function deliverCut(address: Address, bytes: Uint8Array, control: SendControl): Promise<void> {
  const pieces = cutPieces(bytes);
  const line = await MachineLine.open(address, control.allowed);
  const done = { count: 0 };
  let last: string | undefined;
  try {
    await pour(line, pieces, control, done);
  } catch (error) {
    const fault = error instanceof DriverError ? error.fault : 'lost';
    // whatever went wrong: what still lies in its buffers is not to be cut
    if (fault !== 'lost') last = '\x1b.K;PU;SP0;';
    throw new DriverError(fault, done.count / Math.max(1, pieces.length));
  } finally {
    await line.close(last);
  }
}

const STATUS = /^\d{1,5}$/;
const ASK_MS = 1500;

/** Does a cutter answer there? By its status, asked out of turn (ESC . O), so that a busy one answers too. */
export async function askCutter(address: Address, allowed: readonly string[]): Promise<boolean> {
  try {
    const line = await MachineLine.open(address, allowed);
    try {
      line.send('\x1b.O');
      await line.answer(STATUS, ASK_MS, AbortSignal.timeout(2 * ASK_MS));
      return true;
    } finally {
      await line.close();
    }
  } catch (error) {
    if (error instanceof DriverError) return false;
    throw error;
  }
}
