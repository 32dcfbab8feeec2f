/**
 * What the shop's machines have in common for whoever sends them work, whatever language they speak. Drivers know nothing
 * of simulation: they speak to an address.
 */
import type { Box, Point } from '@lorvek/core/geometry';
import type { Machine, PaperChoice } from '@lorvek/model';
import { CutterDriver } from './cutter.driver.ts';
import type { ReportedState } from './machine-report.ts';
import { DeskPrinterDriver } from './desk-printer.driver.ts';
import { PrinterDriver } from './printer.driver.ts';

export interface SendControl {
  readonly signal: AbortSignal;
  /** Resolves at once, or when a pause ends. */
  readonly mayGoOn: () => Promise<void>;
  /** How much the machine has done, 0 to 1. */
  readonly onDone: (share: number) => void;
  /** How long the machine may keep quiet over a piece, beyond the time that a slow one needs for it. */
  readonly patienceMs: number;
  /** What the work is called, where a machine shows it. */
  readonly title?: string;
  /** Where the work's own origin lies on a cutter, mm. */
  readonly origin?: Point | null;
  /** Of a cut that goes on: how much of it was done before, 0 to 1. */
  readonly from?: number | null;
  /** Of a desk printer. */
  readonly paper?: PaperChoice | null;
}

/** What a machine left of a run, as far as it tells. */
export interface Delivered {
  /** The sheet as it came out, SVG. */
  readonly picture?: Buffer | undefined;
  readonly offMm?: number | undefined;
  readonly inkMl?: Record<string, number> | undefined;
  /** It was sent to a machine that never answers: nobody knows what came of it. */
  readonly isUnseen?: boolean;
}

export interface MachineDriver {
  /** Does such a machine answer there? */
  ask(): Promise<boolean>;
  /** Clear width and length of the material that lies in it; undefined: it does not tell. @throws DriverError when it does not answer */
  material?(): Promise<{ widthMm: number; lengthMm: number } | undefined>;
  /** How it is, if it tells. */
  report(): Promise<ReportedState | undefined>;
  /** Sends a file that lies at `path` and waits until it is done. @throws DriverError with how much was done */
  deliver(path: string, control: SendControl): Promise<Delivered>;
}

/** A mark as a camera is told to look for it; an angle's arms run towards (towardsX, towardsY). */
export interface MarkLook {
  readonly at: Point;
  readonly kind: 'angle' | 'dot' | 'cross';
  readonly armMm: number;
  readonly thicknessMm: number;
  readonly towardsX: number;
  readonly towardsY: number;
}

/** What a cutter with a camera can besides. All places in the machine's own mm. @throws DriverError, `blind` without a camera */
export interface CameraDriver extends MachineDriver {
  /** Where the tool is. */
  place(): Promise<Point>;
  moveTo(to: Point): Promise<Point>;
  /** The code that is seen about a place; null: none. */
  readCode(at: Point): Promise<string | null>;
  /** null: not seen within the camera's reach. */
  findMark(look: MarkLook): Promise<Point | null>;
  /** Runs round a box with the tool up. */
  frame(box: Box): Promise<void>;
}

export const hasCamera = (machine: Machine): boolean => machine.kind === 'camera-cutter';

/** The driver of a machine. @param allowed addresses beyond private networks that machines may have */
export const driverOf = (machine: Machine, allowed: readonly string[]): MachineDriver =>
  machine.kind === 'desk-printer'
    ? new DeskPrinterDriver(machine, allowed)
    : machine.kind === 'printer'
      ? new PrinterDriver(machine, allowed)
      : new CutterDriver(machine, allowed);

export const cameraOf = (machine: Machine, allowed: readonly string[]): CameraDriver => new CutterDriver(machine, allowed);
