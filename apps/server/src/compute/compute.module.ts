import { Module } from '@nestjs/common';
import { FontsModule } from '../fonts/fonts.module.ts';
import { ComputeService } from './compute.service.ts';

@Module({ imports: [FontsModule], providers: [ComputeService], exports: [ComputeService] })
export class ComputeModule {}
