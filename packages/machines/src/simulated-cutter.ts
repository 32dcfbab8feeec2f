/**
 * A cutter that is not there: listens on TCP for HP-GL, moves a virtual carriage in accelerated real time, answers
 * questions, keeps a picture of what its blade cut, and can be switched off or made to fail.
 * Its small input buffer pushes back on the sender, as a real one does.
 */
import type { Socket } from 'node:net';
import { strokeToShape, type Matrix, type Outline } from '@lorvek/core/geometry';
import { cameraView, seekCode, seekMark } from './camera.ts';
import { CutPicture } from './cut-picture.ts';
import { DragBlade } from './drag-blade.ts';
import { Faults } from './faults.ts';
import { HpglReader, type CutterCommand } from './hpgl-reader.ts';
import { LoadedSheet, USUAL_HIDDEN, type Hidden } from './loaded-sheet.ts';
import { Transport } from './transport.ts';
import type { Tray } from './tray.ts';

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
  /** Takes printed sheets and finds their marks. */
  readonly hasCamera?: boolean;
  /** How far beside the tool the camera looks; it knows nothing of it itself, mm. */
  readonly cameraOff?: { readonly x: number; readonly y: number };
  /** How far sheets lie from where they should. */
  readonly hidden?: Hidden;
  readonly random?: () => number;
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
  /** Greatest distance of the last cut from where its print says that it should be, mm. */
  readonly offMm: number | null;
  readonly faults: Readonly<Record<string, number>>;
}

const BUFFER_COMMANDS = 240;
const TICK_MS = 20;
const LIFT_S = 0.05;
/** A look of the camera. */
const LOOK_S = 0.4;
const KEPT_SHEETS = 50;
/** Width of a line that the tool draws. */
const LINE_MM = 0.4;
const LEVEL: Matrix = [1, 0, 0, 1, 0, 0];

export class SimulatedCutter {
  readonly faults = new Faults();
  private readonly transport: Transport;
  private readonly tray: Tray | undefined;
  private readonly readers = new WeakMap<Socket, HpglReader>();
  private loaded: LoadedSheet | undefined;
  /** Sheets that were cut on a print, and where the print lay. */
  private readonly printed = new Map<number, LoadedSheet>();
  /** Marks that the camera has come upon since the sheet was put in. */
  private seen: { x: number; y: number }[] = [];
  private lastOff: { cutMm: number; offMm: number | null } | undefined;
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
  readonly options: CutterOptions;

  constructor(options: CutterOptions, tray?: Tray) {
    this.options = options;
    this.tray = tray;
    this.transport = new Transport(options.port, options.host ?? '127.0.0.1', {
      onOpen: (socket) => this.accept(socket),
      onData: (socket, bytes) => this.take(socket, bytes),
    });
    this.blade = this.newBlade();
  }

  private newBlade(): DragBlade {
    return new DragBlade(this.options.corrects === false ? (this.options.bladeOffsetMm ?? 0.25) : 0);
  }

  /** Switches on and listens. @returns the port in use */
  async switchOn(): Promise<number> {
    const port = await this.transport.open();
    this.isOn = true;
    this.timer ??= setInterval(() => this.advance(TICK_MS / 1000), TICK_MS);
    return port;
  }

  /** Switches off: connections drop, what was buffered is lost, the pictures stay. */
  async switchOff(): Promise<void> {
    clearInterval(this.timer);
    this.timer = undefined;
    this.queue = [];
    this.down = false;
    this.isOn = false;
    await this.transport.close();
  }

  /** Pulls the plug on the line only: the sender sees a broken connection. */
  dropConnections(): void {
    this.transport.drop();
  }

  /** Puts a printed sheet in; where it really lies is drawn by lot. @returns false without such a sheet or a camera */
  load(id: string, isTurned = false): boolean {
    const sheet = this.options.hasCamera ? this.tray?.get(id) : undefined;
    if (!sheet) return false;
    this.loaded = new LoadedSheet(sheet, this.options.hidden ?? USUAL_HIDDEN, isTurned, this.options.random);
    this.seen = [];
    return true;
  }

  trayList() {
    if (!this.options.hasCamera) return [];
    return (this.tray?.list() ?? []).map(({ id, name, lengthMm, widthMm }) => ({
      id,
      name,
      lengthMm,
      widthMm,
      loaded: this.loaded?.sheet.id === id,
    }));
  }

  /** What the camera sees about the tool, SVG; undefined without a camera. */
  cameraSvg(): string | undefined {
    if (!this.options.hasCamera) return undefined;
    const { x, y } = this.options.cameraOff ?? { x: 0, y: 0 };
    const art = this.loaded?.sheet.art() ?? this.pictures.get(this.sheet)?.art() ?? '';
    return cameraView(art, this.loaded?.lies ?? LEVEL, this.x - x, this.y - y);
  }

  /** What is dark under the camera: the print that was put in, else what the tool itself drew last. */
  private under(): { blacks: readonly Outline[]; lies: Matrix } {
    if (this.loaded) return { blacks: this.loaded.sheet.blacks, lies: this.loaded.lies };
    const drawn = this.pictures.get(this.sheet)?.lines();
    return { blacks: drawn ? [strokeToShape(drawn, { width: LINE_MM, cap: 'butt', join: 'mitre' })] : [], lies: LEVEL };
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
      offMm: this.offMm(),
      faults: this.faults.list(),
    };
  }

  /** Measured anew when more was cut since. */
  private offMm(): number | null {
    const [picture, under] = [this.pictures.get(this.sheet), this.printed.get(this.sheet)];
    if (!picture || !under || this.queue.length > 0 || picture.cutMm === 0) return null;
    if (this.lastOff?.cutMm !== picture.cutMm) this.lastOff = { cutMm: picture.cutMm, offMm: under.offMm(picture.places()) };
    return this.lastOff.offMm;
  }

  pictureOf(sheet: number): string | undefined {
    const under = this.printed.get(sheet);
    const lies = under?.lies.map((v) => v.toFixed(6)).join(' ');
    return this.pictures
      .get(sheet)
      ?.toSvg(
        this.options.widthMm,
        under && { art: `<g transform="matrix(${lies})">${under.sheet.art()}</g>`, lengthMm: under.sheet.lengthMm + 10 },
      );
  }

  private accept(socket: Socket): void {
    const reader = new HpglReader({ onControl: (letter) => this.control(letter, socket, reader) });
    this.readers.set(socket, reader);
  }

  private take(socket: Socket, bytes: Uint8Array): void {
    const reader = this.readers.get(socket);
    if (!reader) return;
    if (this.faults.has('full-queue')) return void socket.destroy();
    for (const command of reader.push(bytes)) this.queue.push({ command, socket });
    this.unknown = reader.unknown;
    if (this.queue.length > BUFFER_COMMANDS) socket.pause();
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
    let left = (seconds * this.options.timeScale) / (this.faults.get('slow') ?? 1) - this.debtS;
    while (left > 0) {
      const next = this.queue[0];
      if (!next) break;
      left -= this.step(next.command, next.socket, left);
      if (next.command.kind !== 'move' || (this.x === next.command.x && this.y === next.command.y)) this.queue.shift();
    }
    this.debtS = this.queue.length > 0 ? Math.max(0, -left) : 0;
    if (this.queue.length < BUFFER_COMMANDS / 2) for (const socket of this.transport.sockets) if (socket.isPaused()) socket.resume();
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
        if (!socket.destroyed) socket.write(this.faults.has('nonsense') ? '?!\r' : this.answer(command.what));
        return 0;
      case 'read-code':
      case 'look':
        if (this.options.hasCamera && !socket.destroyed) socket.write(`${this.camera(command)}\r`);
        return LOOK_S;
      case 'move':
        return this.move(command.x, command.y, available);
    }
  }

  private camera(command: Extract<CutterCommand, { kind: 'read-code' | 'look' }>): string {
    const { blacks, lies } = this.under();
    const { x: offX, y: offY } = this.options.cameraOff ?? { x: 0, y: 0 };
    if (command.kind === 'read-code') return `CODE ${seekCode(blacks, lies, this.x - offX, this.y - offY) ?? '-'}`;
    [this.x, this.y] = [command.x, command.y];
    const seen = seekMark(blacks, lies, command.x - offX, command.y - offY, command.shape);
    if (!seen) return 'MARK -';
    const mark = { x: seen.x + offX, y: seen.y + offY };
    let known = this.seen.findIndex((one) => Math.hypot(one.x - mark.x, one.y - mark.y) < 5);
    if (known < 0) known = this.seen.push(mark) - 1;
    if (this.faults.get('mark-missed') === known + 1) return 'MARK -';
    return `MARK ${Math.round(mark.x * 1000)},${Math.round(mark.y * 1000)}`;
  }

  private newSheet(): void {
    this.sheet++;
    this.pictures.set(this.sheet, new CutPicture());
    this.pictures.delete(this.sheet - KEPT_SHEETS);
    if (this.loaded) this.printed.set(this.sheet, this.loaded);
    this.printed.delete(this.sheet - KEPT_SHEETS);
    // what was cut is taken out
    this.loaded = undefined;
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
      const cutMm = picture?.cutMm ?? 0;
      if (this.faults.takeAt('power-lost', cutMm / 1000)) void this.switchOff();
      if (this.faults.takeAt('line-lost', cutMm / 1000)) this.dropConnections();
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
