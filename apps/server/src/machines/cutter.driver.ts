/**
 * Talks to a cutter: sends a file no further ahead than the machine has done, told by its own answers; pauses and stops
 * soon.
 * After each piece it asks where the tool is (OA, which takes its turn behind the moves): only the answer that names the
 * place where the piece ends counts. Stop is ESC . K (HP-GL device control), which is heeded out of turn.
 * A camera is spoken to in two commands of its own: `RC;` reads the code about the tool's place (`CODE text`, `CODE -`),
 * `LM x,y,kind,arm,thickness,tx,ty;` looks for a mark (`MARK x,y` in micrometres, `MARK -`). Kinds: 0 angle, 1 dot, 2 cross.
 */
import { readFile } from 'node:fs/promises';
import type { Box, Point } from '@lorvek/core/geometry';
import type { Machine } from '@lorvek/model';
import { cutPieces, PIECE_MM, restOf, type CutPiece } from './cut-pieces.ts';
import type { CameraDriver, Delivered, MarkLook, SendControl } from './driver.ts';
import { DriverError } from './driver-error.ts';
import { answersOf } from './connection.ts';
import { MachineLine } from './machine-line.ts';
import { readPicture, readReport, type ReportedState } from './machine-report.ts';

/** Pieces that may lie in the machine's buffers: one that is done, one that keeps it from waiting. */
const AHEAD = 2;
/** No machine cuts slower, mm/s. */
const SLOWEST_MM_PER_S = 8;
const PLACE = /^(-?\d{1,8}),(-?\d{1,8})(,\d{1,6})?$/;
const CODE = /^CODE (.{1,80})$/;
const MARK = /^MARK (?:(-?\d{1,9}),(-?\d{1,9})|-)$/;
/** Machines round their places. */
const NEAR_UNITS = 3;
const UNITS_PER_MM = 40;
const CLIP = /^(-?\d{1,9}),(-?\d{1,9}),(-?\d{1,9}),(-?\d{1,9})$/;
const STATUS = /^\d{1,5}$/;
/** Letters, figures and a few signs: anything else is no machine's name. */
const NAME = /^([\w .+/-]{1,60})$/;
const ASK_MS = 1500;
/** Moves and looks of the camera. */
const LOOK_MS = 20_000;
const KINDS = { angle: 0, dot: 1, cross: 2 } as const;

const unit = (mm: number): number => Math.round(mm * UNITS_PER_MM);

async function awaitPiece(line: MachineLine, { end, wayMm }: CutPiece, control: SendControl): Promise<void> {
  const patience = control.patienceMs + (1000 * Math.max(wayMm, PIECE_MM)) / SLOWEST_MM_PER_S;
  const [, x, y] = await line.answer(PLACE, patience, control.signal);
  if (end && (Math.abs(Number(x) - end[0]) > NEAR_UNITS || Math.abs(Number(y) - end[1]) > NEAR_UNITS)) throw new DriverError('astray');
}

interface Progress {
  count: number;
  readonly of: number;
}

/** @param done of the whole file, of which the pieces are the end */
async function pour(line: MachineLine, pieces: readonly CutPiece[], control: SendControl, done: Progress): Promise<void> {
  const before = done.count;
  let sent = 0;
  while (done.count - before < pieces.length) {
    while (sent < pieces.length && sent < done.count - before + AHEAD) {
      await Promise.race([control.mayGoOn(), line.lost]);
      if (control.signal.aborted) throw new DriverError('aborted');
      line.send(`${pieces[sent]?.text ?? ''}OA;`);
      sent++;
    }
    await awaitPiece(line, pieces[done.count - before] as CutPiece, control);
    done.count++;
    control.onDone(done.count / done.of);
  }
}

export class CutterDriver implements CameraDriver {
  constructor(
    private readonly machine: Machine,
    private readonly allowed: readonly string[],
  ) {}

  report(): Promise<ReportedState | undefined> {
    return readReport(this.machine, this.allowed);
  }

  /** By its status, asked out of turn (ESC . O), so that a busy one answers too; of one that never answers, by its line. */
  async ask(): Promise<boolean> {
    try {
      if (!answersOf(this.machine)) {
        await (await MachineLine.open(this.machine, this.allowed)).close();
        return true;
      }
      await this.talk('\x1b.O', STATUS, ASK_MS);
      return true;
    } catch (error) {
      if (error instanceof DriverError) return false;
      throw error;
    }
  }

  /** Clear width and length of what lies in it, by its own word (HP-GL, output hard-clip limits); undefined: no such word. */
  async material(): Promise<{ widthMm: number; lengthMm: number } | undefined> {
    const found = await this.talk('OH;', CLIP, ASK_MS);
    const [x0 = 0, y0 = 0, x1 = 0, y1 = 0] = found.slice(1).map(Number);
    const [lengthMm, widthMm] = [Math.abs(x1 - x0) / UNITS_PER_MM, Math.abs(y1 - y0) / UNITS_PER_MM];
    return widthMm >= 1 && lengthMm >= 1 && widthMm <= 1e5 && lengthMm <= 1e6 ? { widthMm, lengthMm } : undefined;
  }

  async deliver(path: string, control: SendControl): Promise<Delivered> {
    const all = cutPieces(await readFile(path), control.origin ?? undefined);
    if (!answersOf(this.machine)) return this.pourBlindly(all, control);
    const line = await MachineLine.open(this.machine, this.allowed);
    // what was told by a share is not rounded up: a piece is cut again rather than left out
    const { from, pieces } = control.from ? restOf(all, Math.floor(control.from * all.length + 1e-6)) : { from: 0, pieces: all };
    const done = { count: from, of: Math.max(1, all.length) };
    let last: string | undefined;
    try {
      await pour(line, pieces, control, done);
    } catch (error) {
      const fault = error instanceof DriverError ? error.fault : 'lost';
      // whatever went wrong: what still lies in its buffers is not to be cut
      if (fault !== 'lost') last = '\x1b.K;PU;SP0;';
      throw new DriverError(fault, done.count / done.of);
    } finally {
      await line.close(last);
    }
    const report = await this.report();
    return report ? { picture: await readPicture(this.machine, report.sheet, this.allowed), offMm: report.offMm ?? undefined } : {};
  }

  /** All of it, as fast as the line takes it; what the machine made of it nobody knows. */
  private async pourBlindly(pieces: readonly CutPiece[], control: SendControl): Promise<Delivered> {
    const line = await MachineLine.open(this.machine, this.allowed);
    let done = 0;
    let last: string | undefined;
    try {
      for (const { text } of pieces) {
        await Promise.race([control.mayGoOn(), line.lost]);
        if (control.signal.aborted) throw new DriverError('aborted');
        await line.pour(Buffer.from(text, 'latin1'), control.signal);
        control.onDone(++done / pieces.length);
      }
      await line.flush(control.signal);
      return { isUnseen: true };
    } catch (error) {
      const fault = error instanceof DriverError ? error.fault : 'lost';
      if (fault !== 'lost') last = '\x1b.K;PU;SP0;';
      throw new DriverError(fault, done / Math.max(1, pieces.length));
    } finally {
      await line.close(last);
    }
  }

  private async talk(text: string, answer: RegExp, patienceMs: number): Promise<RegExpExecArray> {
    const line = await MachineLine.open(this.machine, this.allowed);
    try {
      line.send(text);
      return await line.answer(answer, patienceMs, AbortSignal.timeout(2 * patienceMs));
    } finally {
      await line.close();
    }
  }

  private pointOf([, x, y]: RegExpExecArray, perMm: number): Point {
    return { x: Number(x) / perMm, y: Number(y) / perMm };
  }

  /** Its name, by its own word (HP-GL, output identification). @throws DriverError */
  async name(): Promise<string> {
    return (await this.talk('OI;', NAME, ASK_MS))[1] as string;
  }

  async place(): Promise<Point> {
    return this.pointOf(await this.talk('OA;', PLACE, LOOK_MS), UNITS_PER_MM);
  }

  async moveTo({ x, y }: Point): Promise<Point> {
    return this.pointOf(await this.talk(`PA;PU${unit(x)},${unit(y)};OA;`, PLACE, LOOK_MS), UNITS_PER_MM);
  }

  async readCode({ x, y }: Point): Promise<string | null> {
    const [, code] = await this.see(`PA;PU${unit(x)},${unit(y)};RC;`, CODE);
    return code === undefined || code === '-' ? null : code;
  }

  async findMark({ at, kind, armMm, thicknessMm, towardsX, towardsY }: MarkLook): Promise<Point | null> {
    // the camera looks beside the tool by so much
    const { dx, dy } = this.machine.calibration ?? { dx: 0, dy: 0 };
    const numbers = [
      unit(at.x + dx),
      unit(at.y + dy),
      KINDS[kind],
      unit(armMm),
      unit(thicknessMm),
      Math.sign(towardsX),
      Math.sign(towardsY),
    ];
    const found = await this.see(`LM${numbers.join()};`, MARK);
    if (found[1] === undefined) return null;
    const seen = this.pointOf(found, 1000);
    return { x: seen.x - dx, y: seen.y - dy };
  }

  /** A machine that says nothing to a question of its camera has none. */
  private async see(text: string, answer: RegExp): Promise<RegExpExecArray> {
    try {
      return await this.talk(text, answer, LOOK_MS);
    } catch (error) {
      if (error instanceof DriverError && (error.fault === 'silent' || error.fault === 'nonsense')) throw new DriverError('blind');
      throw error;
    }
  }

  async frame({ minX, minY, maxX, maxY }: Box): Promise<void> {
    const corners = [minX, minY, maxX, minY, maxX, maxY, minX, maxY, minX, minY].map(unit);
    await this.talk(`PA;PU${corners.join()};OA;`, PLACE, 3 * LOOK_MS);
  }
}
