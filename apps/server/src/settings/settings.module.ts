/** /api/settings: how the shop reckons. */
import { Body, Controller, Get, Injectable, Module, Put } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { createZodDto } from 'nestjs-zod';
import { shopSettingsSchema, USUAL_SETTINGS, type ShopSettings } from '@lorvek/model';
import { SettingRow } from '../db/entities.ts';
import { Tx } from '../db/tx.ts';

class ShopSettingsDto extends createZodDto(shopSettingsSchema) {}

const RECKONING = 'reckoning';

@Injectable()
export class SettingsService {
  constructor(private readonly tx: Tx) {}

  async read(): Promise<ShopSettings> {
    const row = await this.tx.read((manager) => manager.findOneBy(SettingRow, { key: RECKONING }));
    if (!row) return USUAL_SETTINGS;
    // what an older shop has kept may lack something that is asked for now; what it has counts
    const kept = row.value as Partial<ShopSettings>;
    return shopSettingsSchema.parse({ ...USUAL_SETTINGS, ...kept, weeding: { ...USUAL_SETTINGS.weeding, ...kept.weeding } });
  }

  async keep(value: ShopSettings): Promise<ShopSettings> {
    await this.tx.run((manager) => manager.upsert(SettingRow, { key: RECKONING, value: value as never }, ['key']));
    return value;
  }
}

@ApiTags('settings')
@Controller('api/settings')
export class SettingsController {
  constructor(private readonly settings: SettingsService) {}

  @Get()
  read(): Promise<ShopSettings> {
    return this.settings.read();
  }

  @Put()
  keep(@Body() body: ShopSettingsDto): Promise<ShopSettings> {
    return this.settings.keep(shopSettingsSchema.parse(body));
  }
}

@Module({ controllers: [SettingsController], providers: [SettingsService] })
export class SettingsModule {}
