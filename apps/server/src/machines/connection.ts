/**
 * The line to a machine as a stream of bytes both ways: a network socket, a serial line, a device file. Only the
 * machine's own address is opened, and of devices only what machines hang on.
 */
import { constants } from 'node:fs';
import { open, realpath } from 'node:fs/promises';
import { connect } from 'node:net';
import { Duplex } from 'node:stream';
import { setTimeout as wait } from 'node:timers/promises';
import { SerialPort } from 'serialport';
import type { Connection, Machine } from '@lorvek/model';
import { addressOf } from './machine-address.ts';
import { DriverError } from './driver-error.ts';

export type Connected = Pick<Machine, 'host' | 'port' | 'connection'>;

const CONNECT_MS = 3000;
/** A line that is full may not want to close. */
const CLOSE_MS = 1000;
/** A device file is read again after this when it had nothing. */
const LOOK_AGAIN_MS = 20;
const DEVICE = /^\/dev\/(tty|pts\/|usb\/lp|lp)/;

/** Does the machine answer at all? */
export const answersOf = ({ connection }: Pick<Machine, 'connection'>): boolean =>
  !connection || connection.by === 'network' || connection.answers;

async function openSocket({ host, port }: Connected, allowed: readonly string[]): Promise<Duplex> {
  const ip = await addressOf(host, allowed);
  if (ip === 'forbidden') throw new DriverError('forbidden');
  if (ip === 'unknown') throw new DriverError('unreachable');
  return new Promise((resolve, reject) => {
    const socket = connect({ host: ip, port, timeout: CONNECT_MS });
    const fail = (): void => {
      socket.destroy();
      reject(new DriverError('unreachable'));
    };
    socket.once('error', fail);
    socket.once('timeout', fail);
    socket.once('connect', () => {
      socket.removeListener('error', fail);
      socket.removeListener('timeout', fail);
      socket.setTimeout(0);
      socket.setNoDelay(true);
      socket.setKeepAlive(true, 10_000);
      resolve(socket);
    });
  });
}

/** Why a device was not opened: that the server may not is another thing than that nothing is there. */
const notOpened = (error: unknown): DriverError =>
  /EACCES|EPERM|permission denied/i.test(String(error))
    ? new DriverError('says', 0, 'the server may not open this device; give its user the right to, then retry')
    : new DriverError('unreachable');

/** A link may lead anywhere: what it leads to must be a device too. */
async function deviceOf(path: string): Promise<string> {
  const real = await realpath(path).catch((error: unknown) => {
    throw notOpened(error);
  });
  if (!DEVICE.test(real)) throw new DriverError('forbidden');
  return real;
}

function openSerial(path: string, { baud, flow }: Extract<Connection, { by: 'serial' }>): Promise<Duplex> {
  return new Promise((resolve, reject) => {
    const port = new SerialPort({
      path,
      baudRate: baud,
      rtscts: flow === 'rts-cts',
      xon: flow === 'xon-xoff',
      xoff: flow === 'xon-xoff',
      autoOpen: false,
    });
    port.open((error) => (error ? reject(notOpened(error)) : resolve(port)));
  });
}

/** Written in its turn; read by looking again and again, for a device that has nothing to say may not keep anybody waiting. */
class DeviceFile extends Duplex {
  private isOver = false;
  constructor(private readonly file: Awaited<ReturnType<typeof open>>) {
    super();
  }

  override _read(): void {
    if (this.isOver) return;
    const bytes = Buffer.alloc(4096);
    this.file.read(bytes, 0, bytes.length, null).then(
      ({ bytesRead }) => {
        if (bytesRead > 0) this.push(bytes.subarray(0, bytesRead));
        else setTimeout(() => this._read(), LOOK_AGAIN_MS).unref();
      },
      (error: NodeJS.ErrnoException) => {
        if (error.code === 'EAGAIN') setTimeout(() => this._read(), LOOK_AGAIN_MS).unref();
        // a device that cannot be read has nothing to say
        else if (error.code !== 'EBADF' && error.code !== 'EINVAL') this.destroy(error);
      },
    );
  }

  override _write(chunk: Buffer, _encoding: BufferEncoding, done: (error?: Error | null) => void): void {
    void this.put(chunk).then(
      () => done(),
      (error: Error) => done(error),
    );
  }

  /** A full device takes nothing for a while. */
  private async put(chunk: Buffer): Promise<void> {
    for (let from = 0; from < chunk.length;) {
      try {
        from += (await this.file.write(chunk, from)).bytesWritten;
      } catch (error) {
        if ((error as NodeJS.ErrnoException).code !== 'EAGAIN' || this.isOver) throw error;
        await new Promise((resolve) => setTimeout(resolve, LOOK_AGAIN_MS));
      }
    }
  }

  override _destroy(error: Error | null, done: (error: Error | null) => void): void {
    this.isOver = true;
    void this.file.close().finally(() => done(error));
  }
}

async function openDevice(path: string, answers: boolean): Promise<Duplex> {
  const flags = (answers ? constants.O_RDWR : constants.O_WRONLY) | constants.O_NONBLOCK | constants.O_NOCTTY;
  const file = await open(path, flags).catch((error: unknown) => {
    throw notOpened(error);
  });
  return new DeviceFile(file);
}

/** @throws DriverError `unreachable`, `forbidden` */
export async function openLine(machine: Connected, allowed: readonly string[]): Promise<Duplex> {
  const { connection } = machine;
  if (!connection || connection.by === 'network') return openSocket(machine, allowed);
  const path = await deviceOf(connection.path);
  return connection.by === 'serial' ? openSerial(path, connection) : openDevice(path, connection.answers);
}

/** Lets a line go; of a serial one only when it is closed can it be opened again. */
export async function closeLine(line: Duplex): Promise<void> {
  if (line instanceof SerialPort && line.isOpen)
    await Promise.race([new Promise<void>((resolve) => line.close(() => resolve())), wait(CLOSE_MS, undefined, { ref: false })]);
  line.destroy();
}
