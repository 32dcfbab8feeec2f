/** /api/stock: films and their rolls, inks and laminates, lists, labels, what was used. */
import { Body, Controller, Delete, Get, HttpCode, Module, Param, Patch, Post, Query, StreamableFile } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { createZodDto } from 'nestjs-zod';
import { z } from 'zod';
import {
  newRollSchema,
  newStockFilmSchema,
  newSupplySchema,
  rollChangeSchema,
  stockFilmChangeSchema,
  stockListSchema,
  supplyChangeSchema,
  type Roll,
  type StockFilm,
  type StockReading,
  type Supply,
  type Usage,
} from '@lorvek/model';
import { StockListService } from './stock-list.service.ts';
import { StockService } from './stock.service.ts';
import { SuppliesService } from './supplies.service.ts';

class NewStockFilmDto extends createZodDto(newStockFilmSchema) {}
class NewRollDto extends createZodDto(newRollSchema) {}
class RollChangeDto extends createZodDto(rollChangeSchema) {}
class StockFilmChangeDto extends createZodDto(stockFilmChangeSchema) {}
class NewSupplyDto extends createZodDto(newSupplySchema) {}
class SupplyChangeDto extends createZodDto(supplyChangeSchema) {}
class StockListDto extends createZodDto(stockListSchema) {}
class UsageDto extends createZodDto(z.object({ months: z.coerce.number().int().min(1).max(36).default(12) })) {}

@ApiTags('stock')
@Controller('api/stock')
export class StockController {
  constructor(
    private readonly stock: StockService,
    private readonly lists: StockListService,
    private readonly supplies: SuppliesService,
  ) {}

  @Get('list.csv')
  async csv(): Promise<StreamableFile> {
    return new StreamableFile(Buffer.from(await this.lists.write()), {
      type: 'text/csv; charset=utf-8',
      disposition: 'attachment; filename="stock.csv"',
    });
  }

  /** A list that comes in; only looked at when it is dry. */
  @Post('list')
  @HttpCode(200)
  take(@Body() { bytes, name, dry }: StockListDto): Promise<StockReading> {
    return this.lists.read(Buffer.from(bytes, 'base64'), name, dry);
  }

  @Get('usage')
  usage(@Query() { months }: UsageDto): Promise<Usage[]> {
    return this.lists.usage(months);
  }

  @Get('rolls/:id/label.pdf')
  async label(@Param('id') id: string): Promise<StreamableFile> {
    return new StreamableFile(await this.lists.label(id), { type: 'application/pdf', disposition: 'attachment; filename="label.pdf"' });
  }

  @Get('supplies')
  listSupplies(): Promise<Supply[]> {
    return this.supplies.list();
  }

  @Post('supplies')
  addSupply(@Body() body: NewSupplyDto): Promise<Supply> {
    return this.supplies.add(body);
  }

  @Patch('supplies/:id')
  changeSupply(@Param('id') id: string, @Body() body: SupplyChangeDto): Promise<Supply> {
    return this.supplies.change(id, body);
  }

  @Delete('supplies/:id')
  async removeSupply(@Param('id') id: string): Promise<{ removed: true }> {
    await this.supplies.remove(id);
    return { removed: true };
  }

  @Get()
  list(): Promise<StockFilm[]> {
    return this.stock.list();
  }

  @Post()
  add(@Body() body: NewStockFilmDto): Promise<StockFilm> {
    return this.stock.add(body);
  }

  @Patch('films/:id')
  change(@Param('id') id: string, @Body() body: StockFilmChangeDto): Promise<StockFilm> {
    return this.stock.change(id, body);
  }

  @Delete('films/:id')
  async remove(@Param('id') id: string): Promise<{ removed: true }> {
    await this.stock.remove(id);
    return { removed: true };
  }

  @Post('films/:id/rolls')
  addRoll(@Param('id') id: string, @Body() body: NewRollDto): Promise<Roll> {
    return this.stock.addRoll(id, body);
  }

  @Delete('rolls/:id')
  async removeRoll(@Param('id') id: string): Promise<{ removed: true }> {
    await this.stock.removeRoll(id);
    return { removed: true };
  }

  @Patch('rolls/:id')
  setLength(@Param('id') id: string, @Body() body: RollChangeDto): Promise<Roll> {
    return this.stock.setLength(id, body.lengthLeftMm);
  }
}

@Module({
  controllers: [StockController],
  providers: [StockService, StockListService, SuppliesService],
  exports: [StockService, SuppliesService],
})
export class StockModule {}
