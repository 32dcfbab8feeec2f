/** /api/profiles: colour profiles of printers, brought by the shop; read by the compute pool before they are kept. */
import { Controller, Delete, Get, Inject, Injectable, Module, Param, Post, Req } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import type { Request } from 'express';
import { randomUUID } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { InputError } from '@lorvek/core';
import type { Rendering } from '@lorvek/core/print';
import { colourRuleOf, type Machine, type Profile } from '@lorvek/model';
import { ComputeModule } from '../compute/compute.module.ts';
import { ComputeService } from '../compute/compute.service.ts';
import { CONFIG, type Config } from '../config.ts';
import { MachineRow, ProfileRow } from '../db/entities.ts';
import { Tx } from '../db/tx.ts';
import { EventsModule } from '../events/events.module.ts';
import { FilesService } from '../files/files.service.ts';
import { UploadsService, type Upload } from '../http/uploads.service.ts';

const MOST_BYTES = 10 * 1024 * 1024;
/** Ships with the program; see THIRD_PARTY.md. */
const SHIPPED = join('profiles', 'coated-fogra39.icc');

@Injectable()
export class ProfilesService {
  constructor(
    private readonly tx: Tx,
    private readonly files: FilesService,
    private readonly compute: ComputeService,
    @Inject(CONFIG) private readonly config: Config,
  ) {}

  async list(): Promise<Profile[]> {
    const rows = await this.tx.read((manager) => manager.find(ProfileRow, { order: { addedAt: 'ASC' } }));
    return rows.map(({ file: _file, ...profile }) => profile);
  }

  /** The same file twice is one profile. @throws InputError `input.profile` for what is none, or of another device */
  async add({ path, name: fileName }: Upload): Promise<Profile> {
    const bytes = new Uint8Array(await readFile(path));
    const { name } = await this.compute.run('profile', { bytes });
    const file = await this.files.put(bytes);
    const known = await this.tx.read((manager) => manager.findOneBy(ProfileRow, { file }));
    const row = known ?? {
      id: `profile-${randomUUID().slice(0, 8)}`,
      name: name || fileName.slice(0, 80),
      file,
      addedAt: new Date().toISOString(),
    };
    if (!known) await this.tx.run((manager) => manager.insert(ProfileRow, row));
    const { file: _file, ...profile } = row;
    return profile;
  }

  /** @throws InputError `input.state` while a printer uses it */
  async remove(id: string): Promise<void> {
    await this.tx.run(async (manager) => {
      const printers = await manager.find(MachineRow);
      const user = printers.find(({ colours }) => Object.values(colours ?? {}).some(({ profileId }) => profileId === id));
      if (user) throw new InputError('state', `${user.name} uses this profile. Give it another one first.`);
      await manager.delete(ProfileRow, { id });
    });
  }

  /** By which file and in which way a printer's colours go into inks on a medium. @throws InputError `input.profile` for one that is gone */
  async forPrint(printer: Machine | null, stockId: string): Promise<{ profile: string; rendering: Rendering }> {
    const { profileId, ...rendering } = colourRuleOf(printer, stockId);
    if (profileId === null) return { profile: join(this.config.assetsDir, SHIPPED), rendering };
    const row = await this.tx.read((manager) => manager.findOneBy(ProfileRow, { id: profileId }));
    if (!row)
      throw new InputError(
        'profile',
        `The colour profile of ${printer?.name ?? 'this printer'} is no longer there. Choose another one on Machines.`,
      );
    return { profile: this.files.path(row.file), rendering };
  }
}

@ApiTags('profiles')
@Controller('api/profiles')
export class ProfilesController {
  constructor(
    private readonly profiles: ProfilesService,
    private readonly uploads: UploadsService,
  ) {}

  @Get()
  list(): Promise<Profile[]> {
    return this.profiles.list();
  }

  @Post()
  add(@Req() request: Request): Promise<Profile> {
    return this.uploads.receive(request, MOST_BYTES, (upload) => this.profiles.add(upload));
  }

  @Delete(':id')
  async remove(@Param('id') id: string): Promise<{ removed: true }> {
    await this.profiles.remove(id);
    return { removed: true };
  }
}

@Module({
  imports: [ComputeModule, EventsModule],
  controllers: [ProfilesController],
  providers: [ProfilesService],
  exports: [ProfilesService],
})
export class ProfilesModule {}
