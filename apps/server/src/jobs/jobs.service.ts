/** Jobs: making, listing, changing, copying. Nothing is deleted; a job that is done with is archived. */
import { Injectable } from '@nestjs/common';
import { randomUUID } from 'node:crypto';
import { InputError } from '@lorvek/core';
import { emptyDrawing, newJobSchema, type Drawing, type Job, type JobChange, type NewJob } from '@lorvek/model';
import { JobRow } from '../db/entities.ts';
import { Tx } from '../db/tx.ts';
import { DocumentsService } from './documents.service.ts';

const toJob = (row: JobRow): Job => ({ ...row });

@Injectable()
export class JobsService {
  constructor(
    private readonly tx: Tx,
    private readonly documents: DocumentsService,
  ) {}

  /** Newest change first. */
  async list(archived: boolean): Promise<Job[]> {
    const rows = await this.tx.read((manager) => manager.find(JobRow, { where: { archived }, order: { updatedAt: 'DESC' } }));
    return rows.map(toJob);
  }

  /** @throws InputError `input.missing` */
  async get(id: string): Promise<Job> {
    const row = await this.tx.read((manager) => manager.findOneBy(JobRow, { id }));
    if (!row) throw new InputError('missing', 'This job does not exist.');
    return toJob(row);
  }

  async create(input: NewJob, drawing: Drawing = emptyDrawing()): Promise<Job> {
    const { name, customer, dueOn } = newJobSchema.parse(input);
    const now = new Date().toISOString();
    const row: JobRow = {
      id: `job-${randomUUID().slice(0, 13)}`,
      name,
      customer,
      dueOn,
      state: 'todo',
      archived: false,
      revision: 0,
      createdAt: now,
      updatedAt: now,
    };
    await this.tx.run(async (manager) => {
      await manager.insert(JobRow, row);
      await this.documents.begin(manager, row.id, drawing);
    });
    return toJob(row);
  }

  async change(id: string, fields: JobChange): Promise<Job> {
    const { affected } = await this.tx.run((manager) =>
      manager.update(JobRow, { id }, { ...fields, updatedAt: new Date().toISOString() } as Partial<JobRow>),
    );
    if (affected === 0) throw new InputError('missing', 'This job does not exist.');
    return this.get(id);
  }

  /** A copy with the drawing as it stands; its history begins anew. */
  async duplicate(id: string): Promise<Job> {
    const job = await this.get(id);
    const { drawing } = await this.documents.open(id);
    return this.create({ name: `${job.name} – copy`.slice(0, 120), customer: job.customer, dueOn: job.dueOn }, drawing);
  }
}
