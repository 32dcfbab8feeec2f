/** A run goes to another machine: when that one can do it, with a file that holds its own tool setups. */
import { Inject, Injectable } from '@nestjs/common';
import { InputError } from '@lorvek/core';
import { printsOf, type Machine, type Run, type RunState, type ToolSetup } from '@lorvek/model';
import { misfitsOf } from '@lorvek/model/machine-fit';
import { cuttingOf, type Cutting } from '@lorvek/model/cut-file';
import { cuttingOfPlan, type SheetCut } from '@lorvek/model/sheet-cut';
import { ComputeService } from '../compute/compute.service.ts';
import type { RunFileRole, RunRow } from '../db/entities.ts';
import { CONFIG, type Config } from '../config.ts';
import { CutterDriver } from '../machines/cutter.driver.ts';
import { DriverError } from '../machines/driver-error.ts';
import { FilesService } from '../files/files.service.ts';
import { MachinesService } from '../machines/machines.module.ts';
import { reasonOf } from './run-reasons.ts';
import { RunnerService } from './runner.service.ts';
import { RunsStore } from './runs.store.ts';

const STILL: readonly RunState[] = ['held', 'waiting', 'needs-you', 'failed'];

/** Why a machine cannot do a run; undefined: it can. */
function whyNotOn(row: RunRow, machine: Machine, plan: SheetCut | undefined): string | undefined {
  if (printsOf(machine) !== (row.kind === 'print'))
    return row.kind === 'print' ? `${machine.name} cuts and does not print.` : `${machine.name} prints and does not cut.`;
  if ((machine.kind === 'desk-printer') !== (row.paper !== null))
    return `${machine.name} prints on other paper: send it anew from the job.`;
  const { title, widthMm, lengthMm } = row;
  return misfitsOf({ title, widthMm, lengthMm, marks: row.marks.length > 0 ? (plan?.markKind ?? 'corners-in') : null }, machine)[0]?.text;
}

/** The other machine's setups for what was chosen on the one before: of the same name, else its first. */
function cuttingOn(machine: Machine, before: Cutting): Cutting {
  const [first] = machine.setups;
  if (!first) throw new InputError('machine', `${machine.name} has no tool setup. Add one on Machines.`);
  const like = (setup: ToolSetup): ToolSetup => machine.setups.find(({ name }) => name === setup.name) ?? first;
  const { setup, kinds, ...way } = before;
  return {
    ...cuttingOf(machine.setups, like(setup), machine.cutting),
    ...way,
    kinds: Object.fromEntries(Object.entries(kinds).map(([kind, own]) => [kind, like(own)])),
  };
}

@Injectable()
export class MovingService {
  constructor(
    private readonly store: RunsStore,
    private readonly machines: MachinesService,
    private readonly files: FilesService,
    private readonly compute: ComputeService,
    private readonly runner: RunnerService,
    @Inject(CONFIG) private readonly config: Config,
  ) {}

  /** @throws InputError `input.machine` for one that cannot do it, `input.state` for a run that is under way or over */
  async giveTo(id: string, machineId: string): Promise<Run> {
    const row = await this.store.row(id);
    const machine = await this.machines.get(machineId);
    if (row.machineId === machineId) return this.store.run(id);
    if (!STILL.includes(row.state)) throw new InputError('state', 'Only a run that is not under way goes to another machine.');
    const plan = row.kind === 'cut' ? await this.planOf(row) : undefined;
    const why = whyNotOn(row, machine, plan);
    if (why) throw new InputError('machine', why, { field: 'machineId' });
    const { files, setup } = plan ? await this.recut(plan, machine) : { files: {}, setup: '' };
    const text = `Given to ${machine.name}${setup && ` with ${setup}`}; it was on ${row.machineName}.`;
    const asks = row.marks.length > 0 && row.state === 'needs-you' ? ({ step: 'load', correction: null } as const) : {};
    if (!(await this.store.giveTo(row, { machineId, machineName: machine.name, origin: null, ...asks }, files, text)))
      throw new InputError('state', 'The run has gone to its machine meanwhile.');
    this.runner.wake(machineId);
    this.runner.wake(row.machineId);
    return this.store.run(id);
  }

  /** A cut begins where the tool stands, or at the machine's own origin. @throws InputError `input.state` for one that is under way or finds its marks */
  async setOrigin(id: string, at: 'tool' | 'machine'): Promise<Run> {
    const row = await this.store.row(id);
    if (row.kind !== 'cut' || row.marks.length > 0)
      throw new InputError('state', 'Only a cut without registration marks begins where it is told to.');
    if (!STILL.includes(row.state)) throw new InputError('state', 'This run is under way or over.');
    const machine = await this.machines.get(row.machineId);
    const place = at === 'tool' ? await this.runner.borrow(machine.id, () => this.placeOf(machine)) : null;
    if (!(await this.store.setOrigin(row, place))) throw new InputError('state', 'The run has gone to its machine meanwhile.');
    return this.store.run(id);
  }

  private async placeOf(machine: Machine): Promise<{ x: number; y: number }> {
    try {
      return await new CutterDriver(machine, this.config.machineHosts).place();
    } catch (error) {
      if (error instanceof DriverError) throw new InputError('machine', reasonOf(error, machine));
      throw error;
    }
  }

  /** @throws InputError `input.missing` when it is no longer kept */
  private async planOf({ id }: RunRow): Promise<SheetCut> {
    const { plan } = await this.store.files(id);
    if (plan === undefined)
      throw new InputError('missing', 'What this run is to cut is no longer kept. Send it anew to the other machine.');
    return JSON.parse((await this.files.get(plan)).toString('utf8')) as SheetCut;
  }

  private async recut(plan: SheetCut, machine: Machine): Promise<{ files: Partial<Record<RunFileRole, string>>; setup: string }> {
    const before = cuttingOfPlan(plan);
    if (!before) throw new InputError('missing', 'How this run is to be cut is no longer kept. Send it anew to the other machine.');
    const cutting = cuttingOn(machine, before);
    const other: SheetCut = { ...plan, cutting };
    const { hpgl } = await this.compute.run('correct', { plan: other, correction: null });
    const files = { cut: await this.files.put(hpgl), plan: await this.files.put(Buffer.from(JSON.stringify(other))) };
    return { files, setup: `its setup “${cutting.setup.name}”` };
  }
}
