/** /api/styles: treatments kept under a name. */
import { Body, Controller, Delete, Get, Injectable, Module, Param, Post } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { randomUUID } from 'node:crypto';
import { createZodDto } from 'nestjs-zod';
import { newStyleSchema, type NewStyle, type Style } from '@lorvek/model';
import { StyleRow } from '../db/entities.ts';
import { Tx } from '../db/tx.ts';

class NewStyleDto extends createZodDto(newStyleSchema) {}

@Injectable()
export class StylesService {
  constructor(private readonly tx: Tx) {}

  list(): Promise<Style[]> {
    return this.tx.read((manager) => manager.find(StyleRow, { order: { name: 'ASC' } }));
  }

  /** A style of the same name is replaced. */
  async keep({ name, treatments }: NewStyle): Promise<Style> {
    const style = { id: `style-${randomUUID().slice(0, 8)}`, name, treatments };
    await this.tx.run(async (manager) => {
      await manager.delete(StyleRow, { name });
      await manager.insert(StyleRow, style);
    });
    return style;
  }

  async remove(id: string): Promise<void> {
    await this.tx.run((manager) => manager.delete(StyleRow, { id }));
  }
}

@ApiTags('styles')
@Controller('api/styles')
export class StylesController {
  constructor(private readonly styles: StylesService) {}

  @Get()
  list(): Promise<Style[]> {
    return this.styles.list();
  }

  @Post()
  keep(@Body() body: NewStyleDto): Promise<Style> {
    return this.styles.keep(newStyleSchema.parse(body));
  }

  @Delete(':id')
  async remove(@Param('id') id: string): Promise<{ removed: true }> {
    await this.styles.remove(id);
    return { removed: true };
  }
}

@Module({ controllers: [StylesController], providers: [StylesService] })
export class StylesModule {}
