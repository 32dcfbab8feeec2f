/**
 * Talks to a cutter over TCP: sends a file at the pace the machine takes it, waits for its answer that all is done,
 * stops or pauses on request. Knows nothing of simulation.
 * Done is known from OS (output status), which takes its turn behind the moves; abort is ESC . K (HP-GL device control).
 */
import { connect, type Socket } from 'node:net';
import { setTimeout as wait } from 'node:timers/promises';

export type DriverFault = 'unreachable' | 'lost' | 'silent' | 'aborted';

/** Why a machine did not do what it was asked. */
export class DriverError extends Error {
  constructor(
    readonly fault: DriverFault,
    readonly sent: number,
  ) {
    super(fault);
  }
}

export interface Address {
  readonly host: string;
  readonly port: number;
}

export interface SendControl {
  readonly signal: AbortSignal;
  /** Resolves at once, or when a pause ends. */
  readonly mayGoOn: () => Promise<void>;
  readonly onSent: (bytes: number, total: number) => void;
  /** The machine may take this long to finish what it has buffered after the last byte. */
  readonly patienceMs: number;
}

const CHUNK = 512;
const CONNECT_MS = 3000;

/** Opens a line. @throws DriverError `unreachable` */
export function openLine({ host, port }: Address): Promise<Socket> {
  return new Promise((resolve, reject) => {
    const socket = connect({ host, port, timeout: CONNECT_MS });
    const fail = (): void => {
      socket.destroy();
      reject(new DriverError('unreachable', 0));
    };
    socket.once('error', fail);
    socket.once('timeout', fail);
    socket.once('connect', () => {
      socket.removeListener('error', fail);
      socket.removeListener('timeout', fail);
      socket.setTimeout(0);
      socket.setNoDelay(true);
      resolve(socket);
    });
  });
}

function write(socket: Socket, bytes: Uint8Array): Promise<void> {
  return new Promise((resolve, reject) => {
    socket.write(bytes, (error) => (error ? reject(error) : resolve()));
  });
}

/** Watches for the end of the line and for the answer. */
function listen(socket: Socket): { lost: Promise<never>; answered: Promise<void> } {
  const lost = new Promise<never>((_, reject) => {
    const gone = (): void => reject(new DriverError('lost', 0));
    socket.once('error', gone);
    socket.once('close', gone);
  });
  lost.catch(() => undefined);
  const answered = new Promise<void>((resolve) => {
    let text = '';
    socket.on('data', (bytes: Buffer) => {
      text = (text + bytes.toString('latin1')).slice(-64);
      if (/\d+\s*\r/.test(text)) resolve();
    });
  });
  return { lost, answered };
}

function aborted(signal: AbortSignal): Promise<never> {
  return new Promise((_, reject) => {
    const stop = (): void => reject(new DriverError('aborted', 0));
    if (signal.aborted) stop();
    else signal.addEventListener('abort', stop, { once: true });
  });
}

async function pour(
  socket: Socket,
  bytes: Uint8Array,
  control: SendControl,
  ended: Promise<never>,
  progress: { sent: number },
): Promise<void> {
  for (let at = 0; at < bytes.length; at += CHUNK) {
    await Promise.race([control.mayGoOn(), ended]);
    await Promise.race([write(socket, bytes.subarray(at, at + CHUNK)), ended]);
    progress.sent = Math.min(bytes.length, at + CHUNK);
    control.onSent(progress.sent, bytes.length);
  }
}

/**
 * Sends a cut file and waits until the machine has done it.
 * @throws DriverError with how many bytes had gone out
 */
export async function deliverCut(address: Address, bytes: Uint8Array, control: SendControl): Promise<void> {
  const socket = await openLine(address);
  const progress = { sent: 0 };
  const { lost, answered } = listen(socket);
  const stop = aborted(control.signal);
  stop.catch(() => undefined);
  const ended = Promise.race([lost, stop]);
  ended.catch(() => undefined);
  const timer = new AbortController();
  try {
    await pour(socket, bytes, control, ended, progress);
    await Promise.race([write(socket, Buffer.from('OS;')), ended]);
    const silent = wait(control.patienceMs, undefined, { signal: timer.signal }).then(() => {
      throw new DriverError('silent', progress.sent);
    });
    silent.catch(() => undefined);
    await Promise.race([answered, ended, silent]);
  } catch (error) {
    const fault = error instanceof DriverError ? error.fault : 'lost';
    if (fault === 'aborted' && !socket.destroyed) await write(socket, Buffer.from('\x1b.K;PU;SP0;')).catch(() => undefined);
    throw new DriverError(fault, progress.sent);
  } finally {
    timer.abort();
    socket.destroy();
  }
}
