/**
 * A printed sheet in a cutter with a camera: its code is read, the tool is brought over the first mark, the marks are
 * found one after another, and the cut is worked out anew where they say that the sheet lies. Nothing here cuts.
 */
import { Inject, Injectable } from '@nestjs/common';
import { InputError } from '@lorvek/core';
import { applyCorrection, solveMarks, type Correction } from '@lorvek/core/align';
import { mapBox, translation, type Box, type Point } from '@lorvek/core/geometry';
import type { CameraAnswer, CameraOrder, Machine, RunCorrection } from '@lorvek/model';
import { cuttingOfPlan, type MarkPlan, type SheetCut } from '@lorvek/model/sheet-cut';
import { ComputeService } from '../compute/compute.service.ts';
import { CONFIG, type Config } from '../config.ts';
import type { RunRow } from '../db/entities.ts';
import { FilesService } from '../files/files.service.ts';
import { cameraOf, hasCamera, type CameraDriver } from '../machines/driver.ts';
import { DriverError } from '../machines/driver-error.ts';
import { readCamera } from '../machines/machine-report.ts';
import { MachinesService } from '../machines/machines.module.ts';
import { reasonOf } from './run-reasons.ts';
import { RunsStore } from './runs.store.ts';

/** How exactly a camera finds a mark, mm. */
const NOISE_MM = 0.05;
/** Where it looks again, beside where a mark should be: a sheet that lies askew has its far marks away. */
const AROUND_MM: readonly Point[] = [
  { x: 0, y: 0 },
  ...[9, 18, 27].flatMap((d) => [
    { x: 0, y: d },
    { x: 0, y: -d },
    { x: d, y: 0 },
    { x: -d, y: 0 },
  ]),
];

type Measured = (Point | null)[];
type Said = Omit<CameraAnswer, 'run'>;

/** Where a mark should be, by those that were found: by shift, with two by turn and scale too, then by skew. */
function expected(marks: readonly MarkPlan[], measured: Measured, index: number): Point {
  const pairs = marks.flatMap((mark, i) => {
    const seen = measured[i];
    return seen ? [{ mark, seen }] : [];
  });
  const mark = marks[index] as MarkPlan;
  const [first] = pairs;
  if (!first) return mark;
  if (pairs.length === 1) return { x: mark.x + first.seen.x - first.mark.x, y: mark.y + first.seen.y - first.mark.y };
  const correction = solveMarks(
    pairs.map((pair) => pair.mark),
    pairs.map((pair) => pair.seen),
    { model: 'similarity' },
  );
  return applyCorrection(correction, mark);
}

@Injectable()
export class CameraService {
  constructor(
    private readonly store: RunsStore,
    private readonly machines: MachinesService,
    private readonly files: FilesService,
    private readonly compute: ComputeService,
    @Inject(CONFIG) private readonly config: Config,
  ) {}

  /** What the camera sees now, SVG. @throws InputError `input.missing` */
  async view(runId: string): Promise<Buffer> {
    const machine = await this.machines.get((await this.store.row(runId)).machineId);
    const svg = await readCamera(machine, this.config.machineHosts);
    if (!svg) throw new InputError('missing', `${machine.name} shows no picture of its camera.`);
    return svg;
  }

  /** @throws InputError `input.state` for a run that waits for no sheet */
  async act(runId: string, order: CameraOrder): Promise<CameraAnswer> {
    const row = await this.store.row(runId);
    const isFrame = order.do === 'frame';
    if (isFrame ? row.kind !== 'cut' || row.state === 'working' : row.step === null || row.state !== 'needs-you')
      throw new InputError('state', 'This run does not wait for its sheet now.');
    const machine = await this.machines.get(row.machineId);
    const said = await this.say(row, machine, order);
    return { ...said, run: await this.store.run(runId) };
  }

  private async say(row: RunRow, machine: Machine, order: CameraOrder): Promise<Said> {
    if (order.do !== 'frame' && !hasCamera(machine)) throw new InputError('machine', `${machine.name} has no camera.`);
    const driver = cameraOf(machine, this.config.machineHosts);
    try {
      switch (order.do) {
        case 'read-code':
          return await this.readCode(row, driver);
        case 'jog':
          return await this.jog(driver, order.dx, order.dy);
        case 'find-marks':
          return await this.findMarks(row, driver);
        case 'frame':
          return await this.frame(row, driver);
      }
    } catch (error) {
      if (!(error instanceof DriverError)) throw error;
      return { ok: false, text: reasonOf(error, machine), place: null };
    }
  }

  private async planOf({ id }: RunRow): Promise<SheetCut> {
    const file = await this.store.file(id, 'plan');
    if (file === undefined) throw new InputError('missing', 'What this run is to cut is no longer kept. Send it anew.');
    const plan = JSON.parse((await this.files.get(file)).toString('utf8')) as SheetCut;
    const cutting = cuttingOfPlan(plan);
    if (!cutting) throw new InputError('missing', 'How this run is to be cut is no longer kept. Send it anew.');
    return { ...plan, cutting };
  }

  private async readCode(row: RunRow, driver: CameraDriver): Promise<Said> {
    const { codeAt } = await this.planOf(row);
    if (!codeAt || row.code === null) return { ok: true, text: 'This sheet bears no code; see that it is the right one.', place: null };
    const seen = await driver.readCode(codeAt);
    const place = await driver.place();
    if (seen === null)
      return {
        ok: false,
        place,
        text: 'No code is seen where it should be. Is a printed sheet loaded, the right way round, its first corner at the tool’s start?',
      };
    if (seen === row.code) return { ok: true, place, text: `The camera reads ${seen}: this is the sheet of this run.` };
    return {
      ok: false,
      place,
      text: `The camera reads ${seen}, but this run needs ${row.code}: another sheet is loaded. Take it out and put in the right one.`,
    };
  }

  private async jog(driver: CameraDriver, dx: number, dy: number): Promise<Said> {
    const now = await driver.place();
    const place = await driver.moveTo({ x: Math.max(0, now.x + dx), y: Math.max(0, now.y + dy) });
    return { ok: true, place, text: `The tool is at ${place.x.toFixed(2)}, ${place.y.toFixed(2)} mm.` };
  }

  /** Looks for one mark, where it should be and then around. */
  private async look(driver: CameraDriver, mark: MarkPlan, at: Point): Promise<Point | null> {
    for (const beside of AROUND_MM) {
      const seen = await driver.findMark({ ...mark, at: { x: at.x + beside.x, y: at.y + beside.y } });
      if (seen) return seen;
    }
    return null;
  }

  private async findMarks(row: RunRow, driver: CameraDriver): Promise<Said> {
    const plan = await this.planOf(row);
    const { marks } = plan;
    const [first] = marks;
    if (!first) throw new InputError('state', 'This sheet has no registration marks.');
    if (row.code !== null) {
      const code = await this.readCode(row, driver);
      if (!code.ok) return code;
    }
    const measured: Measured = [];
    // the user has brought the tool over the first mark, or it stands where the mark should be
    const stands = await driver.place();
    const isNear = Math.hypot(stands.x - first.x, stands.y - first.y) < 60;
    for (const [i, mark] of marks.entries()) {
      measured[i] = await this.look(driver, mark, i === 0 && isNear && row.code === null ? stands : expected(marks, measured, i));
      await this.store.note(row.id, { progress: (i + 1) / marks.length });
    }
    const place = await driver.place();
    const missing = measured.flatMap((seen, i) => (seen ? [] : [i + 1]));
    if (missing.length > 0) {
      const which = missing.map((n) => (n === 1 ? 'the first mark' : `mark ${n}`)).join(', ');
      await this.store.note(row.id, {
        step: 'load',
        correction: { model: 'none', measured, residualsMm: measured.map(() => null), doubtful: true },
        progress: 0,
      });
      return {
        ok: false,
        place,
        text: `Not found: ${which}. See that nothing covers it and that the sheet lies flat, bring the tool nearer with the arrow keys, then look again.`,
      };
    }
    return this.settle(row, plan, measured as Point[], place);
  }

  /** Works the cut out anew by the marks. */
  private async settle(row: RunRow, plan: SheetCut, measured: readonly Point[], place: Point): Promise<Said> {
    const solved = solveMarks(plan.marks, measured, { noiseMm: NOISE_MM });
    const { hpgl } = await this.compute.run('correct', { plan, correction: solved });
    const correction: RunCorrection = {
      model: solved.model,
      measured: [...measured],
      residualsMm: [...solved.residualsMm],
      doubtful: solved.doubtful,
    };
    await this.store.note(row.id, { step: 'ready', correction, progress: 0 }, { corrected: await this.files.put(hpgl) });
    const worst = Math.max(...solved.residualsMm);
    const doubt = solved.doubtful ? ' That is more than a camera’s error: look at the sheet before cutting.' : '';
    return {
      ok: true,
      place,
      text: `All ${measured.length} marks found. The farthest lies ${worst.toFixed(2)} mm from where the correction puts it.${doubt}`,
    };
  }

  private async frame(row: RunRow, driver: CameraDriver): Promise<Said> {
    const { box, marks } = await this.planOf(row);
    const { correction, origin } = row;
    const seen = correction?.measured.flatMap((point) => (point ? [point] : [])) ?? [];
    const around = seen.length === marks.length && marks.length > 1 ? boxUnder(solveMarks(marks, seen, { noiseMm: NOISE_MM }), box) : box;
    await driver.frame(mapBox(translation(origin?.x ?? 0, origin?.y ?? 0), around));
    return { ok: true, place: await driver.place(), text: 'The tool has gone round the work with the blade up.' };
  }
}

/** Box of a box's corners under a correction. */
function boxUnder(correction: Correction, { minX, minY, maxX, maxY }: Box): Box {
  const corners = [
    { x: minX, y: minY },
    { x: maxX, y: minY },
    { x: maxX, y: maxY },
    { x: minX, y: maxY },
  ].map((corner) => applyCorrection(correction, corner));
  const [xs, ys] = [corners.map(({ x }) => x), corners.map(({ y }) => y)];
  return { minX: Math.max(0, Math.min(...xs)), minY: Math.max(0, Math.min(...ys)), maxX: Math.max(...xs), maxY: Math.max(...ys) };
}
