/** /api/machines: the shop's cutters and their tool setups. */
import { Body, Controller, Delete, Get, Inject, Injectable, Module, Param, Patch, Post } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { createZodDto } from 'nestjs-zod';
import { z } from 'zod';
import { setTimeout as wait } from 'node:timers/promises';
import { LRUCache } from 'lru-cache';
import { InputError, LimitError } from '@lorvek/core';
import {
  describePlace,
  machineChangeSchema,
  newMachineSchema,
  OPEN_STATES,
  type Machine,
  type MachineChange,
  type MachineReport,
  type MaterialReport,
  type NewMachine,
  type Papers,
  type TraySheet,
} from '@lorvek/model';
import { randomUUID } from 'node:crypto';
import { In } from 'typeorm';
import { MachineRow, RunRow } from '../db/entities.ts';
import { Tx } from '../db/tx.ts';
import { CONFIG, type Config } from '../config.ts';
import { addressOf } from './machine-address.ts';
import { DeskPrinterDriver } from './desk-printer.driver.ts';
import { driverOf } from './driver.ts';
import { DriverError } from './driver-error.ts';
import { loadSheet, readTray } from './machine-report.ts';

class NewMachineDto extends createZodDto(newMachineSchema) {}
class MachineChangeDto extends createZodDto(machineChangeSchema) {}

class LoadDto extends createZodDto(z.object({ sheet: z.string().min(1).max(60), turned: z.boolean().default(false) })) {}

/** What may be left unsaid of a machine. */
const UNSAID = { cutting: null, connection: null, readsMarks: null, calibration: null, lengthMm: null, inkMlPerM2: null, colours: null };

const toMachine = ({ position: _position, ...row }: MachineRow): Machine => row;

/** Whatever is or is not at an address that is no machine's, the answer is the same and comes after the same time. */
const NO_ANSWER_MS = 5000;
/** Addresses are changed when a machine moves, not to look what is where. */
const ADDRESS_CHANGES = 30;
const HOUR_MS = 3600_000;

@Injectable()
export class MachinesService {
  private readonly changes = new LRUCache<string, true>({ max: 1000, ttl: HOUR_MS });
  private changed = 0;

  constructor(
    private readonly tx: Tx,
    @Inject(CONFIG) private readonly config: Config,
  ) {}

  async list(): Promise<Machine[]> {
    return (await this.tx.read((manager) => manager.find(MachineRow, { order: { position: 'ASC' } }))).map(toMachine);
  }

  /** @throws InputError `input.missing` */
  async get(id: string): Promise<Machine> {
    const row = await this.tx.read((manager) => manager.findOneBy(MachineRow, { id }));
    if (!row) throw new InputError('missing', 'This machine is not in the shop.', { field: 'machineId' });
    return toMachine(row);
  }

  /** @throws InputError `input.address` for one outside of private networks */
  async change(id: string, fields: MachineChange): Promise<Machine> {
    if (fields.host !== undefined || fields.port !== undefined || fields.reportPort !== undefined) await this.mayMove(fields.host);
    await this.tx.run((manager) => manager.update(MachineRow, { id }, fields as Partial<MachineRow>));
    return this.get(id);
  }

  /** @throws InputError `input.address` */
  async add(input: NewMachine): Promise<Machine> {
    await this.mayMove(input.host);
    const id = `machine-${randomUUID().slice(0, 8)}`;
    await this.tx.run(async (manager) => {
      const last = (await manager.maximum(MachineRow, 'position')) ?? -1;
      await manager.insert(MachineRow, { ...UNSAID, ...newMachineSchema.parse(input), id, position: last + 1 } as MachineRow);
    });
    return this.get(id);
  }

  /** @throws InputError `input.state` while runs wait for it */
  async remove(id: string): Promise<void> {
    await this.tx.run(async (manager) => {
      const run = await manager.findOne(RunRow, { where: { machineId: id, state: In([...OPEN_STATES]) } });
      if (run)
        throw new InputError(
          'state',
          `“${run.jobName}” in the Queue waits for this machine. Cancel that run first, or wait until it is done.`,
        );
      await manager.delete(MachineRow, { id });
    });
  }

  private async mayMove(host: string | undefined): Promise<void> {
    this.changes.purgeStale();
    if (this.changes.size >= ADDRESS_CHANGES)
      throw new LimitError('attempts', 'The addresses of machines were changed very often this hour. Wait a while and try again.');
    this.changes.set(String(++this.changed), true);
    if (host !== undefined && (await addressOf(host, this.config.machineHosts)) === 'forbidden')
      throw new InputError('address', 'Machines are spoken to on this computer and on private networks only.', {
        field: 'host',
        remedy: 'Set LORVEK_MACHINE_HOSTS for one that lies elsewhere.',
      });
  }

  /** Printed sheets that can be put into it. */
  async tray(id: string): Promise<TraySheet[]> {
    return (await readTray(await this.get(id), this.config.machineHosts)) ?? [];
  }

  /** Puts a printed sheet into a cutter. @throws InputError `input.state` when the machine does not take it */
  async load(id: string, sheet: string, turned: boolean): Promise<TraySheet[]> {
    const machine = await this.get(id);
    if (!(await loadSheet(machine, sheet, turned, this.config.machineHosts)))
      throw new InputError('state', `${machine.name} did not take the sheet. Is it switched on, and is the sheet still in the tray?`);
    return this.tray(id);
  }

  /** What lies in a machine, by its own word. */
  async material(id: string): Promise<MaterialReport> {
    const machine = await this.get(id);
    const time = wait(NO_ANSWER_MS);
    try {
      const material = await driverOf(machine, this.config.machineHosts).material?.();
      if (material)
        return {
          ...material,
          text: `${machine.name} says: ${material.widthMm.toFixed(0)} mm wide, ${(material.lengthMm / 1000).toFixed(2)} m long.`,
        };
      return { widthMm: null, lengthMm: null, text: `${machine.name} does not say what lies in it.` };
    } catch (error) {
      if (!(error instanceof DriverError)) throw error;
      await time;
      return { widthMm: null, lengthMm: null, text: `No machine answers at ${describePlace(machine)}. Is it switched on?` };
    }
  }

  /** What a desk printer can print on. */
  async papers(id: string): Promise<Papers> {
    const machine = await this.get(id);
    const none = (text: string): Papers => ({ papers: [], trays: [], usual: null, marginMm: 0, text });
    if (machine.kind !== 'desk-printer') return none(`${machine.name} prints on what lies in it.`);
    const time = wait(NO_ANSWER_MS);
    try {
      const papers = await new DeskPrinterDriver(machine, this.config.machineHosts).papers();
      return papers.papers.length > 0 ? papers : none(`${machine.name} does not say what it can print on.`);
    } catch (error) {
      if (!(error instanceof DriverError)) throw error;
      await time;
      return none(`No printer answers at ${describePlace(machine)}. Is it switched on?`);
    }
  }

  /** Does a machine answer now? */
  async ask(id: string): Promise<MachineReport> {
    const machine = await this.get(id);
    const time = wait(NO_ANSWER_MS);
    if (await driverOf(machine, this.config.machineHosts).ask()) return { reachable: true, text: 'Switched on and listening.' };
    await time;
    return { reachable: false, text: `No machine answers at ${describePlace(machine)}. Is it switched on?` };
  }
}

@ApiTags('machines')
@Controller('api/machines')
export class MachinesController {
  constructor(private readonly machines: MachinesService) {}

  @Get()
  list(): Promise<Machine[]> {
    return this.machines.list();
  }

  @Post()
  add(@Body() body: NewMachineDto): Promise<Machine> {
    return this.machines.add(body);
  }

  @Delete(':id')
  async remove(@Param('id') id: string): Promise<{ removed: true }> {
    await this.machines.remove(id);
    return { removed: true };
  }

  @Patch(':id')
  change(@Param('id') id: string, @Body() body: MachineChangeDto): Promise<Machine> {
    return this.machines.change(id, body);
  }

  @Get(':id/tray')
  tray(@Param('id') id: string): Promise<TraySheet[]> {
    return this.machines.tray(id);
  }

  @Post(':id/load')
  load(@Param('id') id: string, @Body() { sheet, turned }: LoadDto): Promise<TraySheet[]> {
    return this.machines.load(id, sheet, turned);
  }

  @Get(':id/material')
  material(@Param('id') id: string): Promise<MaterialReport> {
    return this.machines.material(id);
  }

  @Get(':id/papers')
  papers(@Param('id') id: string): Promise<Papers> {
    return this.machines.papers(id);
  }

  @Get(':id/report')
  ask(@Param('id') id: string): Promise<MachineReport> {
    return this.machines.ask(id);
  }
}

@Module({ controllers: [MachinesController], providers: [MachinesService], exports: [MachinesService] })
export class MachinesModule {}
