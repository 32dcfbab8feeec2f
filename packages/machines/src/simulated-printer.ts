/**
 * A printer that is not there: greets whoever opens a line, takes a PDF until the line's end, reads it by itself, prints
 * it in accelerated real time, tells how far it is, and lays the sheet in the tray. One job at a time.
 */
import type { Socket } from 'node:net';
import { Faults } from './faults.ts';
import { PrintedSheet } from './printed-sheet.ts';
import type { ReadPage } from './print-reader.ts';
import { readApart } from './read-apart.ts';
import { Transport } from './transport.ts';
import type { Tray } from './tray.ts';

export interface PrinterOptions {
  readonly name: string;
  readonly port: number;
  readonly host?: string;
  readonly widthMm: number;
  timeScale: number;
}

const MM_PER_S = 12;
const TICK_MS = 50;
/** While a file is read it is told so often that the printer is at it. */
const READING_MS = 500;
const MOST_BYTES = 2 ** 31;
/** Sheets whose pictures are kept. */
const KEPT = 20;

export class SimulatedPrinter {
  readonly options: PrinterOptions;
  readonly faults = new Faults();
  private readonly transport: Transport;
  private readonly tray: Tray;
  private readonly coming = new Map<Socket, { chunks: Uint8Array[]; bytes: number }>();
  private readonly sheets = new Map<number, PrintedSheet>();
  private isOn = false;
  private busy: Socket | undefined;
  private sheet = 0;
  private ink: Record<string, number> | null = null;

  constructor(options: PrinterOptions, tray: Tray) {
    this.options = options;
    this.tray = tray;
    this.transport = new Transport(options.port, options.host ?? '127.0.0.1', {
      onOpen: (socket) => this.greet(socket),
      onData: (socket, bytes) => this.take(socket, bytes),
      onEnd: (socket) =>
        void this.print(socket).catch((error: unknown) => this.fail(socket, `cannot print this file, ${String(error).slice(0, 120)}`)),
      onClose: (socket) => this.forget(socket),
    });
  }

  async switchOn(): Promise<number> {
    this.isOn = true;
    return this.transport.open();
  }

  async switchOff(): Promise<void> {
    this.isOn = false;
    this.busy = undefined;
    await this.transport.close();
  }

  dropConnections(): void {
    this.transport.drop();
  }

  report() {
    return {
      name: this.options.name,
      state: !this.isOn ? 'off' : this.busy ? 'printing' : 'ready',
      sheet: this.sheet,
      inkMl: this.ink,
      faults: this.faults.list(),
    };
  }

  pictureOf(sheet: number): string | undefined {
    return this.sheets.get(sheet)?.svg();
  }

  trayList() {
    return this.tray.list().map(({ id, name, lengthMm, widthMm }) => ({ id, name, lengthMm, widthMm, loaded: false }));
  }

  private greet(socket: Socket): void {
    socket.write(this.faults.has('nonsense') ? '%#@ 17\r\n' : `READY ${this.options.name}\r\n`);
  }

  private fail(socket: Socket, words: string): void {
    if (!socket.destroyed) socket.end(`FAULT ${words.replace(/[^\x20-\x7e]/g, ' ')}\r\n`);
    this.forget(socket);
  }

  private forget(socket: Socket): void {
    this.coming.delete(socket);
    if (this.busy === socket) this.busy = undefined;
  }

  private take(socket: Socket, bytes: Uint8Array): void {
    if (this.faults.takeAt('line-lost', 0.01)) return void socket.destroy();
    if (this.faults.has('full-queue') || (this.busy && this.busy !== socket)) return this.fail(socket, 'the queue of the printer is full');
    this.busy = socket;
    const coming = this.coming.get(socket) ?? { chunks: [], bytes: 0 };
    coming.chunks.push(bytes);
    coming.bytes += bytes.length;
    this.coming.set(socket, coming);
    if (coming.bytes > MOST_BYTES) this.fail(socket, 'the file is too large');
  }

  /** Reads what came; whoever waits is told that it is at it. */
  private async read(socket: Socket, chunks: readonly Uint8Array[], length: number): Promise<ReadPage> {
    const file = new Uint8Array(length);
    let at = 0;
    for (const chunk of chunks) {
      file.set(chunk, at);
      at += chunk.length;
    }
    this.coming.delete(socket);
    const given = new AbortController();
    socket.once('close', () => given.abort());
    const telling = setInterval(() => socket.destroyed || socket.write('P 0.0000\r\n'), READING_MS);
    try {
      return await readApart(file, given.signal);
    } finally {
      clearInterval(telling);
    }
  }

  private async print(socket: Socket): Promise<void> {
    const coming = this.coming.get(socket);
    if (!coming) return void socket.end();
    const page = await this.read(socket, coming.chunks, coming.bytes);
    if (page.widthMm > this.options.widthMm + 0.5)
      return this.fail(socket, `the sheet is ${Math.round(page.widthMm)} mm wide and the printer takes ${this.options.widthMm} mm`);
    if (this.faults.has('wrong-material')) return this.fail(socket, 'another medium is loaded than the job asks for');
    const seconds = page.lengthMm / MM_PER_S / this.options.timeScale;
    const begun = performance.now();
    for (let share = 0; share < 1;) {
      await new Promise((resolve) => setTimeout(resolve, TICK_MS));
      if (socket.destroyed || !this.isOn) return;
      share = Math.min(1, (performance.now() - begun) / 1000 / (seconds * (this.faults.get('slow') ?? 1)));
      if (this.faults.takeAt('end-of-material', share)) return this.fail(socket, 'the medium has run out');
      if (this.faults.takeAt('power-lost', share)) return this.switchOff();
      if (this.faults.takeAt('line-lost', share)) return void socket.destroy();
      socket.write(`P ${share.toFixed(4)}\r\n`);
    }
    const sheet = new PrintedSheet(`${this.options.port}-${++this.sheet}`, page);
    this.sheets.set(this.sheet, sheet);
    this.sheets.delete(this.sheet - KEPT);
    this.ink = sheet.inkMl();
    this.tray.put(sheet);
    socket.end('DONE\r\n');
    this.forget(socket);
  }
}
