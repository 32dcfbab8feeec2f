/** /api/machines: the shop's cutters and their tool setups. */
import { Body, Controller, Get, Injectable, Module, Param, Patch } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { createZodDto } from 'nestjs-zod';
import { InputError } from '@lorvek/core';
import { machineChangeSchema, type Machine, type MachineChange, type MachineReport } from '@lorvek/model';
import { MachineRow } from '../db/entities.ts';
import { Tx } from '../db/tx.ts';
import { openLine } from './cutter.driver.ts';

class MachineChangeDto extends createZodDto(machineChangeSchema) {}

const toMachine = ({ position: _position, ...row }: MachineRow): Machine => row;

@Injectable()
export class MachinesService {
  constructor(private readonly tx: Tx) {}

  async list(): Promise<Machine[]> {
    return (await this.tx.read((manager) => manager.find(MachineRow, { order: { position: 'ASC' } }))).map(toMachine);
  }

  /** @throws InputError `input.missing` */
  async get(id: string): Promise<Machine> {
    const row = await this.tx.read((manager) => manager.findOneBy(MachineRow, { id }));
    if (!row) throw new InputError('missing', 'This machine is not in the shop.', { field: 'machineId' });
    return toMachine(row);
  }

  async change(id: string, fields: MachineChange): Promise<Machine> {
    await this.tx.run((manager) => manager.update(MachineRow, { id }, fields as Partial<MachineRow>));
    return this.get(id);
  }

  /** Can it be reached now? */
  async ask(id: string): Promise<MachineReport> {
    const machine = await this.get(id);
    try {
      const line = await openLine(machine);
      line.destroy();
      return { reachable: true, text: 'Switched on and listening.' };
    } catch {
      return { reachable: false, text: `No answer from ${machine.host}:${machine.port}. Is it switched on?` };
    }
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

  @Patch(':id')
  change(@Param('id') id: string, @Body() body: MachineChangeDto): Promise<Machine> {
    return this.machines.change(id, body);
  }

  @Get(':id/report')
  ask(@Param('id') id: string): Promise<MachineReport> {
    return this.machines.ask(id);
  }
}

@Module({ controllers: [MachinesController], providers: [MachinesService], exports: [MachinesService] })
export class MachinesModule {}
