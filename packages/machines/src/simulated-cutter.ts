/**
 * A cutter that is not there: listens on TCP for HP-GL, moves a virtual carriage in accelerated real time, answers
 * questions, keeps a picture of what its blade cut, and can be switched off or made to fail.
 * Its small input buffer pushes back on the sender, as a real one does.
 */
import { createServer, type Server, type Socket } from 'node:net';
import { CutPicture } from './cut-picture.ts';
import { DragBlade } from './drag-blade.ts';
import { HpglReader, type CutterCommand } from './hpgl-reader.ts';

export interface CutterOptions {
  readonly name: string;
  readonly port: number;
  readonly host?: string;
  readonly widthMm: number;
  /** How many times faster than the real thing. */
  timeScale: number;
  readonly bladeOffsetMm?: number;
  /** Does its firmware correct for the blade offset (as set on its own panel)? */
  readonly corrects?: boolean;
}

export interface CutterReport {
  readonly name: string;
  readonly state: 'off' | 'ready' | 'cutting';
  readonly x: number;
  readonly y: number;
  readonly down: boolean;
  readonly sheet: number;
  readonly cutMm: number;
  readonly toolSpeedMmPerS: number;
  readonly forceGrams: number;
  readonly unknownCommands: number;
}

const BUFFER_COMMANDS = 240;
const TICK_MS = 20;
const LIFT_S = 0.05;
const KEPT_SHEETS = 50;

export class SimulatedCutter {
  private server: Server | undefined;
  private readonly sockets = new Set<Socket>();
  private queue: { command: CutterCommand; socket: Socket }[] = [];
  private timer: ReturnType<typeof setInterval> | undefined;
  private x = 0;
  private y = 0;
  private down = false;
  private tool = 0;
  private speed = 400;
  private force = 80;
  private debtS = 0;
  private sheet = 0;
  private unknown = 0;
  private blade: DragBlade;
  private readonly pictures = new Map<number, CutPicture>();
  private isOn = false;
  /** 0 until the first start when any port will do; then always the same. */
  private listenPort: number;
  readonly options: CutterOptions;

  constructor(options: CutterOptions) {
    this.options = options;
    this.listenPort = options.port;
    this.blade = this.newBlade();
  }

  private newBlade(): DragBlade {
    return new DragBlade(this.options.corrects === false ? (this.options.bladeOffsetMm ?? 0.25) : 0);
  }

  /** Switches on and listens. @returns the port in use */
  async switchOn(): Promise<number> {
    if (this.server) return this.port();
    const server = createServer((socket) => this.accept(socket));
    await new Promise<void>((resolve, reject) => {
      server.once('error', reject);
      server.listen(this.listenPort, this.options.host ?? '127.0.0.1', resolve);
    });
    this.server = server;
    this.isOn = true;
    this.listenPort = this.port();
    this.timer = setInterval(() => this.advance(TICK_MS / 1000), TICK_MS);
    return this.listenPort;
  }

  private port(): number {
    const address = this.server?.address();
    return typeof address === 'object' && address ? address.port : this.options.port;
  }

  /** Switches off: connections drop, what was buffered is lost, the pictures stay. */
  async switchOff(): Promise<void> {
    clearInterval(this.timer);
    for (const socket of this.sockets) socket.destroy();
    this.sockets.clear();
    this.queue = [];
    this.down = false;
    this.isOn = false;
    const server = this.server;
    this.server = undefined;
    if (server) await new Promise<void>((resolve) => server.close(() => resolve()));
  }

  /** Pulls the plug on the line only: the sender sees a broken connection. */
  dropConnections(): void {
    for (const socket of this.sockets) socket.destroy();
  }

  report(): CutterReport {
    return {
      name: this.options.name,
      state: !this.isOn ? 'off' : this.queue.length > 0 ? 'cutting' : 'ready',
      x: this.x,
      y: this.y,
      down: this.down,
      sheet: this.sheet,
      cutMm: this.pictures.get(this.sheet)?.cutMm ?? 0,
      toolSpeedMmPerS: this.speed,
      forceGrams: this.force,
      unknownCommands: this.unknown,
    };
  }

  pictureOf(sheet: number): string | undefined {
    return this.pictures.get(sheet)?.toSvg(this.options.widthMm);
  }

  private accept(socket: Socket): void {
    this.sockets.add(socket);
    socket.on('close', () => this.sockets.delete(socket));
    socket.on('error', () => socket.destroy());
    const reader = new HpglReader({ onControl: (letter) => this.control(letter, socket, reader) });
    socket.on('data', (bytes: Uint8Array) => {
      for (const command of reader.push(bytes)) this.queue.push({ command, socket });
      this.unknown = reader.unknown;
      if (this.queue.length > BUFFER_COMMANDS) socket.pause();
    });
  }

  private control(letter: string, socket: Socket, reader: HpglReader): void {
    if (letter === 'K') {
      this.queue = this.queue.filter((entry) => entry.socket !== socket);
      reader.clear();
      this.down = false;
      socket.resume();
    } else if (letter === 'B') socket.write(`${Math.max(0, BUFFER_COMMANDS - this.queue.length)}\r`);
    else if (letter === 'O') socket.write(`${this.queue.length > 0 ? 0 : 8}\r`);
    else if (letter === 'A') socket.write(`${this.options.name},1\r`);
  }

  /** Lets time pass. Seconds of the machine's own time. */
  private advance(seconds: number): void {
    let left = seconds * this.options.timeScale - this.debtS;
    while (left > 0) {
      const next = this.queue[0];
      if (!next) break;
      left -= this.step(next.command, next.socket, left);
      if (next.command.kind !== 'move' || (this.x === next.command.x && this.y === next.command.y)) this.queue.shift();
    }
    this.debtS = this.queue.length > 0 ? Math.max(0, -left) : 0;
    if (this.queue.length < BUFFER_COMMANDS / 2) for (const socket of this.sockets) if (socket.isPaused()) socket.resume();
  }

  /** Does a command, or as much of it as there is time for. @returns seconds it took */
  private step(command: CutterCommand, socket: Socket, available: number): number {
    switch (command.kind) {
      case 'initialise':
        this.newSheet();
        return 0;
      case 'tool':
        this.tool = command.tool;
        return 0;
      case 'speed':
        this.speed = Math.min(1500, Math.max(10, command.mmPerS));
        return 0;
      case 'force':
        this.force = command.grams;
        return 0;
      case 'lift':
        return this.lift(command.down);
      case 'ask':
        if (!socket.destroyed) socket.write(this.answer(command.what));
        return 0;
      case 'move':
        return this.move(command.x, command.y, available);
    }
  }

  private newSheet(): void {
    this.sheet++;
    this.pictures.set(this.sheet, new CutPicture());
    this.pictures.delete(this.sheet - KEPT_SHEETS);
    this.down = false;
    this.blade = this.newBlade();
  }

  private lift(down: boolean): number {
    if (down === this.down) return 0;
    this.down = down;
    if (down && this.tool > 0) this.pictures.get(this.sheet)?.begin(...this.blade.tip(this.x, this.y));
    return LIFT_S;
  }

  private move(toX: number, toY: number, available: number): number {
    const length = Math.hypot(toX - this.x, toY - this.y);
    const speed = this.down ? this.speed : Math.max(400, this.speed);
    const reach = speed * available;
    const part = length <= reach || length === 0 ? 1 : reach / length;
    const [nextX, nextY] = part === 1 ? [toX, toY] : [this.x + (toX - this.x) * part, this.y + (toY - this.y) * part];
    if (this.down && this.tool > 0) {
      const picture = this.pictures.get(this.sheet);
      for (const [x, y] of this.blade.follow(this.x, this.y, nextX, nextY)) picture?.add(x, y);
    }
    this.x = nextX;
    this.y = nextY;
    return part === 1 ? length / speed : available;
  }

  private answer(what: string): string {
    if (what === 'OA') return `${Math.round(this.x * 40)},${Math.round(this.y * 40)},${this.down ? 1 : 0}\r`;
    if (what === 'OI') return `${this.options.name}\r`;
    if (what === 'OH') return `0,0,${50_000 * 40},${Math.round(this.options.widthMm * 40)}\r`;
    return what === 'OE' ? '0\r' : '24\r';
  }
}
