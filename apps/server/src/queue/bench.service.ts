/**
 * What is done at a machine beside its runs: ask who is there, move the tool, cut a small piece, try blade offsets out,
 * learn where the camera looks. Nothing of it goes out while the machine has a run.
 */
import { Inject, Injectable } from '@nestjs/common';
import { randomUUID } from 'node:crypto';
import { rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { InputError } from '@lorvek/core';
import { bladeTest, CALIBRATION, calibrationSquare, planCut, testCut, type BladeSetup, type ToolPath } from '@lorvek/core/cut';
import { writeHpglSections, type HpglSection } from '@lorvek/core/format';
import { mapOutline, translation, type Outline, type Point } from '@lorvek/core/geometry';
import { describePlace, type BenchAnswer, type BenchOrder, type Machine, type ToolSetup } from '@lorvek/model';
import { toolChoice } from '@lorvek/model/cut-file';
import { CONFIG, type Config } from '../config.ts';
import { answersOf } from '../machines/connection.ts';
import { CutterDriver } from '../machines/cutter.driver.ts';
import { DriverError } from '../machines/driver-error.ts';
import { driverOf, hasCamera } from '../machines/driver.ts';
import { readCamera, readFaults, setFault } from '../machines/machine-report.ts';
import { MachinesService } from '../machines/machines.module.ts';
import { reasonOf } from './run-reasons.ts';
import { RunnerService } from './runner.service.ts';

const PATIENCE_MS = 20_000;
/** What is left of the offset after it was measured is the camera's own error, mm. */
const GOOD_MM = 0.1;
/** Squares are drawn so far from one another. */
const NEXT_MM = 25;
/** Looked for in steps about where it should be, as far as a camera may look beside the tool. */
const AROUND_MM = [0, 6, -6, 12, -12];

type Of<K extends BenchOrder['do']> = Extract<BenchOrder, { do: K }>;

@Injectable()
export class BenchService {
  constructor(
    private readonly machines: MachinesService,
    private readonly runner: RunnerService,
    @Inject(CONFIG) private readonly config: Config,
  ) {}

  /** What the camera sees now, SVG. @throws InputError `input.missing` */
  async view(machineId: string): Promise<Buffer> {
    const machine = await this.machines.get(machineId);
    const svg = await readCamera(machine, this.config.machineHosts);
    if (!svg) throw new InputError('missing', `${machine.name} shows no picture of its camera.`);
    return svg;
  }

  /** @throws InputError `input.state` while the machine has a run, `input.machine` for what it cannot do */
  async act(machineId: string, order: BenchOrder): Promise<BenchAnswer> {
    const machine = await this.machines.get(machineId);
    if (order.do === 'faults' || order.do === 'fault') return this.faults(machine, order);
    return this.runner.borrow(machineId, async () => {
      try {
        return await this.do(machine, order);
      } catch (error) {
        if (!(error instanceof DriverError)) throw error;
        return { ok: false, text: reasonOf(error, machine) };
      }
    });
  }

  private async do(machine: Machine, order: Exclude<BenchOrder, { do: 'fault' | 'faults' }>): Promise<BenchAnswer> {
    if (order.do === 'try') return this.try(machine);
    if (machine.kind !== 'cutter' && machine.kind !== 'camera-cutter')
      throw new InputError('machine', `${machine.name} prints; this is for cutters.`);
    if (order.do.startsWith('calibrate') && !hasCamera(machine)) throw new InputError('machine', `${machine.name} has no camera.`);
    const driver = new CutterDriver(machine, this.config.machineHosts);
    switch (order.do) {
      case 'jog': {
        const now = await driver.place();
        const place = await driver.moveTo({ x: Math.max(0, now.x + order.dx), y: Math.max(0, now.y + order.dy) });
        return { ok: true, text: `The tool is at ${place.x.toFixed(2)}, ${place.y.toFixed(2)} mm.`, place };
      }
      case 'test-cut': {
        const setup = this.setup(machine, order.setupId);
        const picture = await this.cut(driver, [this.section([moved(testCut(), order)], setup)]);
        return { ok: true, text: `Test cut with ${setup.name}: weed the triangle out of its square.`, picture };
      }
      case 'blade-test':
        return this.bladeTest(driver, machine, order);
      case 'calibrate-draw': {
        const setup = this.setup(machine, order.setupId);
        await this.cut(driver, [this.section([calibrationSquare(order)], setup)]);
        const place = await driver.moveTo(order);
        return {
          ok: true,
          text: 'The square is drawn, and the tool stands over its middle. Where the camera sees its cross is how far it looks aside.',
          place,
        };
      }
      case 'calibrate-find':
        return this.find(machine, order);
      case 'calibrate-check':
        return this.check(driver, machine, order);
    }
  }

  private async try(machine: Machine): Promise<BenchAnswer> {
    const begun = Date.now();
    if (!(await driverOf(machine, this.config.machineHosts).ask()))
      return { ok: false, text: `Nothing that is such a machine answers at ${describePlace(machine)}.` };
    const took = `after ${Date.now() - begun} ms`;
    if (!answersOf(machine))
      return { ok: true, text: `The line to ${describePlace(machine)} is open. Nothing is asked, for this machine is set not to answer.` };
    if (machine.kind === 'printer' || machine.kind === 'desk-printer')
      return { ok: true, text: `A printer answers at ${describePlace(machine)} ${took}.` };
    const driver = new CutterDriver(machine, this.config.machineHosts);
    const name = await driver.name().catch((error: unknown) => {
      // it answered just now: a cutter may have no word for its name
      if (error instanceof DriverError) return undefined;
      throw error;
    });
    return {
      ok: true,
      text: name
        ? `“${name}” answers at ${describePlace(machine)} ${took}.`
        : `A cutter answers at ${describePlace(machine)} ${took}; it does not say its name.`,
    };
  }

  private setup(machine: Machine, id: string): ToolSetup {
    const setup = machine.setups.find((entry) => entry.id === id);
    if (!setup) throw new InputError('missing', `${machine.name} has no such tool setup.`, { field: 'setupId' });
    return setup;
  }

  private section(outlines: readonly Outline[], setup: ToolSetup, offsetMm?: number): HpglSection {
    const blade: BladeSetup = {
      bladeOffsetMm: offsetMm ?? setup.bladeOffsetMm,
      overcutMm: setup.overcutMm,
      cornerDeg: 15,
      compensate: offsetMm !== undefined || setup.corners === 'file',
      entry: setup.entry ?? 'node',
    };
    const paths = outlines.flatMap((outline): readonly ToolPath[] => planCut([{ kind: 'film', outline, setup: blade }]).paths);
    return { paths, setup: toolChoice(setup) };
  }

  /** @returns the picture that the machine left, SVG */
  private async cut(driver: CutterDriver, sections: readonly HpglSection[]): Promise<string | undefined> {
    const path = join(tmpdir(), `lorvek-bench-${randomUUID()}.plt`);
    try {
      await writeFile(path, writeHpglSections(sections));
      const stop = new AbortController();
      const left = await driver.deliver(path, {
        signal: stop.signal,
        mayGoOn: () => Promise.resolve(),
        onDone: () => undefined,
        patienceMs: PATIENCE_MS,
      });
      return left.picture?.toString('utf8');
    } finally {
      await rm(path, { force: true });
    }
  }

  private async bladeTest(driver: CutterDriver, machine: Machine, order: Of<'blade-test'>): Promise<BenchAnswer> {
    const setup = this.setup(machine, order.setupId);
    const tries = bladeTest(setup.bladeOffsetMm);
    const picture = await this.cut(
      driver,
      tries.map(({ outline, bladeOffsetMm }) => this.section([moved(outline, order)], setup, bladeOffsetMm)),
    );
    return {
      ok: true,
      text: 'The same shapes, each turned for another blade offset; the strokes above count them from the left. Take the one whose corners are sharp and closed. The machine’s own offset must be set to 0 for this.',
      picture,
      offsets: tries.map(({ bladeOffsetMm }) => bladeOffsetMm),
    };
  }

  /** Where the camera sees the cross that lies at a place; null: not within its reach. */
  private async seen(machine: Machine, { x, y }: Point): Promise<Point | null> {
    const driver = new CutterDriver(machine, this.config.machineHosts);
    const cross = { kind: 'cross' as const, armMm: CALIBRATION.armMm, thicknessMm: CALIBRATION.lineMm, towardsX: 1, towardsY: 1 };
    for (const dy of AROUND_MM)
      for (const dx of AROUND_MM) {
        const found = await driver.findMark({ ...cross, at: { x: x + dx, y: y + dy } });
        if (found) return found;
      }
    return null;
  }

  private async find(machine: Machine, order: Of<'calibrate-find'>): Promise<BenchAnswer> {
    const found = await this.seen({ ...machine, calibration: null }, order);
    if (!found)
      return { ok: false, text: 'The camera does not see the cross. Draw the square, leave the material where it is, then find it.' };
    const round = (v: number): number => Math.round(v * 1000) / 1000;
    const [dx, dy] = [round(found.x - order.x), round(found.y - order.y)];
    const changed = await this.machines.change(machine.id, { calibration: { dx, dy, checked: false } });
    return {
      ok: true,
      text: `The camera looks ${dx.toFixed(2)} mm to the right and ${dy.toFixed(2)} mm up beside the tool. This is stored; check it by a second square.`,
      machine: changed,
    };
  }

  /** A second square elsewhere, looked at by the offset that is stored. */
  private async check(driver: CutterDriver, machine: Machine, order: Of<'calibrate-check'>): Promise<BenchAnswer> {
    const { calibration } = machine;
    if (!calibration) return { ok: false, text: 'There is no offset to check yet: draw a square and find it first.' };
    const at = { x: order.x + NEXT_MM, y: order.y };
    await this.cut(driver, [this.section([calibrationSquare(at)], this.setup(machine, order.setupId))]);
    const found = await this.seen(machine, at);
    if (!found) return { ok: false, text: 'The camera does not see the second square. Is there material under it?' };
    const left = Math.hypot(found.x - at.x, found.y - at.y);
    const isGood = left <= GOOD_MM;
    const changed = await this.machines.change(machine.id, { calibration: { ...calibration, checked: isGood } });
    return {
      ok: isGood,
      text: isGood
        ? `Checked: the second square lies ${left.toFixed(2)} mm from where the camera sees it.`
        : `The second square lies ${left.toFixed(2)} mm from where the camera sees it. Find the offset again.`,
      machine: changed,
    };
  }

  private async faults(machine: Machine, order: Of<'fault'> | Of<'faults'>): Promise<BenchAnswer> {
    const hosts = this.config.machineHosts;
    if (order.do === 'fault' && !(await setFault(machine, order.name, order.value, hosts)))
      return { ok: false, text: `${machine.name} does not let anything be made to go wrong.` };
    const faults = await readFaults(machine, hosts);
    return faults ? { ok: true, text: '', faults } : { ok: false, text: `${machine.name} is a real machine, or does not answer.` };
  }
}

const moved = (outline: Outline, { x, y }: Point): Outline => mapOutline(translation(x, y), outline);
