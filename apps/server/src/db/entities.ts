/** Tables. Ids are text made by the server; instants are ISO 8601 text; JSON is text. */
import { Column, Entity, PrimaryColumn, PrimaryGeneratedColumn } from 'typeorm';
import type {
  FontEntry,
  MachineKind,
  Medium,
  RunCorrection,
  TreatmentRecord,
  JobState,
  RunState,
  Packed,
  Patch,
  DocRecord,
  ToolSetup,
  CuttingChoice,
  Connection,
  Machine,
  MarkKind,
  PaperChoice,
  Supply,
} from '@lorvek/model';

@Entity('job')
export class JobRow {
  @PrimaryColumn('text') id: string;
  @Column('text') name: string;
  @Column('text') customer: string;
  @Column('text', { name: 'due_on', nullable: true }) dueOn: string | null;
  @Column('text') state: JobState;
  @Column('boolean') archived: boolean;
  @Column('integer') revision: number;
  @Column('text', { name: 'created_at' }) createdAt: string;
  @Column('text', { name: 'updated_at' }) updatedAt: string;
}

/** One change of a drawing; the log is the truth, snapshots shorten the way to the present. */
@Entity('change')
export class ChangeRow {
  @PrimaryColumn('text', { name: 'job_id' }) jobId: string;
  @PrimaryColumn('integer') revision: number;
  @Column('text', { name: 'change_id' }) changeId: string;
  @Column('text') kind: 'do' | 'undo' | 'redo';
  @Column('text') origin: string;
  @Column('text', { name: 'step_group' }) group: string;
  /** Packed; of changes logged by the first version whole records. */
  @Column('simple-json') patch: Packed | Patch;
  @Column('text', { name: 'made_at' }) madeAt: string;
  /** Of the drawing's shape; 0: closed behind a state that was put right. */
  @Column('integer') version: number;
}

@Entity('snapshot')
export class SnapshotRow {
  @PrimaryColumn('text', { name: 'job_id' }) jobId: string;
  @PrimaryColumn('integer') revision: number;
  @Column('simple-json') records: Record<string, DocRecord>;
  /** Of the drawing's shape. */
  @Column('integer') version: number;
}

/** A state of a job that somebody gave a name; its snapshot is kept. */
@Entity('job_version')
export class JobVersionRow {
  @PrimaryColumn('text') id: string;
  @Column('text', { name: 'job_id' }) jobId: string;
  @Column('text') name: string;
  @Column('integer') revision: number;
  @Column('text', { name: 'made_at' }) madeAt: string;
}

/** A long text that changes and snapshots name by its SHA-256. */
@Entity('kept_text')
export class KeptTextRow {
  @PrimaryColumn('text') name: string;
  @Column('text') body: string;
}

/** Somebody who is signed in, by a hash of the token. */
@Entity('session')
export class SessionRow {
  @PrimaryColumn('text') hash: string;
  @Column('integer', { name: 'made_at' }) madeAt: number;
}

/** What the shop has set for itself, by key. */
@Entity('setting')
export class SettingRow {
  @PrimaryColumn('text') key: string;
  @Column('simple-json') value: unknown;
}

@Entity('stock_film')
export class StockFilmRow {
  @PrimaryColumn('text') id: string;
  @Column('text') series: string;
  @Column('text') name: string;
  @Column('text') hex: string;
  @Column('boolean') transfer: boolean;
  @Column('real', { name: 'price_per_metre' }) pricePerMetre: number;
  @Column('simple-json', { nullable: true }) press: { heatC: number; seconds: number; pressure: string; peel: string } | null;
  @Column('integer') position: number;
  @Column('real', { name: 'smallest_part_mm', default: 2 }) smallestPartMm: number;
  @Column('real', { name: 'thinnest_mm', default: 0.8 }) thinnestMm: number;
  @Column('text', { nullable: true }) medium: Medium | null;
  @Column('real', { name: 'reorder_mm', nullable: true }) reorderMm: number | null;
}

@Entity('roll')
export class RollRow {
  @PrimaryColumn('text') id: string;
  @Column('text', { name: 'film_id' }) filmId: string;
  @Column('real', { name: 'width_mm' }) widthMm: number;
  @Column('real', { name: 'length_left_mm' }) lengthLeftMm: number;
  @Column('boolean', { name: 'is_offcut' }) isOffcut: boolean;
  @Column('text', { nullable: true }) outline: string | null;
}

/** Inks and laminates. */
@Entity('supply')
export class SupplyRow {
  @PrimaryColumn('text') id: string;
  @Column('text') kind: Supply['kind'];
  @Column('text') name: string;
  @Column('text', { nullable: true }) plate: string | null;
  @Column('real', { name: 'width_mm', nullable: true }) widthMm: number | null;
  @Column('real', { name: 'left_amount' }) left: number;
  @Column('real', { name: 'reorder_at', nullable: true }) reorderAt: number | null;
  @Column('real') price: number;
  @Column('integer') position: number;
}

@Entity('machine')
export class MachineRow {
  @PrimaryColumn('text') id: string;
  @Column('text') kind: MachineKind;
  @Column('text') name: string;
  @Column('text') host: string;
  @Column('integer') port: number;
  @Column('integer', { name: 'report_port', nullable: true }) reportPort: number | null;
  @Column('real', { name: 'width_mm' }) widthMm: number;
  @Column('simple-json') setups: ToolSetup[];
  @Column('simple-json', { nullable: true }) cutting: CuttingChoice | null;
  @Column('simple-json', { nullable: true }) connection: Connection | null;
  @Column('simple-json', { name: 'reads_marks', nullable: true }) readsMarks: MarkKind[] | null;
  @Column('simple-json', { nullable: true }) calibration: NonNullable<Machine['calibration']> | null;
  @Column('real', { name: 'length_mm', nullable: true }) lengthMm: number | null;
  @Column('real', { name: 'ink_ml_per_m2', nullable: true }) inkMlPerM2: number | null;
  @Column('simple-json', { nullable: true }) colours: NonNullable<Machine['colours']> | null;
  @Column('integer') position: number;
}

/** A colour profile of the shop; its file lies among the kept files. */
@Entity('profile')
export class ProfileRow {
  @PrimaryColumn('text') id: string;
  @Column('text') name: string;
  @Column('text') file: string;
  @Column('text', { name: 'added_at' }) addedAt: string;
}

@Entity('run')
export class RunRow {
  @PrimaryColumn('text') id: string;
  @Column('text', { name: 'order_id' }) orderId: string;
  @Column('text', { name: 'job_id' }) jobId: string;
  @Column('text', { name: 'job_name' }) jobName: string;
  @Column('text') title: string;
  @Column('text', { name: 'film_hex' }) filmHex: string;
  @Column('text', { name: 'machine_id' }) machineId: string;
  @Column('text', { name: 'machine_name' }) machineName: string;
  @Column('text', { name: 'roll_id', nullable: true }) rollId: string | null;
  @Column('text') state: RunState;
  @Column('real') progress: number;
  @Column('text', { nullable: true }) reason: string | null;
  @Column('real', { name: 'length_mm' }) lengthMm: number;
  @Column('real', { name: 'width_mm' }) widthMm: number;
  @Column('integer') copies: number;
  @Column('real', { name: 'cut_mm' }) cutMm: number;
  @Column('real', { name: 'estimated_s' }) estimatedS: number;
  @Column('text') kind: 'cut' | 'print';
  @Column('text') sheet: string;
  @Column('text', { nullable: true }) code: string | null;
  /** The print that a cut waits for. */
  @Column('text', { nullable: true }) after: string | null;
  @Column('text', { name: 'held_for', nullable: true }) heldFor: 'you' | 'print' | null;
  @Column('text', { nullable: true }) step: 'load' | 'ready' | null;
  @Column('simple-json') marks: { x: number; y: number }[];
  @Column('simple-json', { nullable: true }) correction: RunCorrection | null;
  @Column('simple-json', { nullable: true }) origin: { x: number; y: number } | null;
  /** A cut that was begun goes on from here, 0 to 1; null: from its beginning. */
  @Column('real', { name: 'go_on_at', nullable: true }) goOnAt: number | null;
  @Column('real', { name: 'off_mm', nullable: true }) offMm: number | null;
  @Column('simple-json', { name: 'ink_ml', nullable: true }) inkMl: Record<string, number> | null;
  /** Of a print on a desk printer. */
  @Column('simple-json', { nullable: true }) paper: PaperChoice | null;
  /** Laminate of Stock that goes on a print. */
  @Column('text', { name: 'laminate_id', nullable: true }) laminateId: string | null;
  /** Roll that was made of what is left of the sheet. */
  @Column('text', { name: 'offcut_id', nullable: true }) offcutId: string | null;
  @Column('text', { name: 'created_at' }) createdAt: string;
  @Column('text', { name: 'ended_at', nullable: true }) endedAt: string | null;
  /** Their order, whatever the clock says: a new run comes last. */
  @Column('integer') place: number;
}

/** What belongs to a run, by what it is for; the bytes lie among the kept files. */
export type RunFileRole = 'cut' | 'corrected' | 'plan' | 'print' | 'sheet' | 'picture';
@Entity('run_file')
export class RunFileRow {
  @PrimaryColumn('text', { name: 'run_id' }) runId: string;
  @PrimaryColumn('text') role: RunFileRole;
  @Column('text') file: string;
}

/** What happened to a run, one line after another. */
@Entity('run_log')
export class RunLogRow {
  @PrimaryGeneratedColumn() id: number;
  @Column('text', { name: 'run_id' }) runId: string;
  @Column('text') at: string;
  @Column('text') text: string;
}

/** A font that the shop brought; its file lies among the kept files under the name in the entry. */
@Entity('own_font')
export class OwnFontRow {
  @PrimaryColumn('text') id: string;
  @Column('simple-json') entry: FontEntry;
  @Column('text') licence: string;
  @Column('text', { name: 'added_at' }) addedAt: string;
}

@Entity('style')
export class StyleRow {
  @PrimaryColumn('text') id: string;
  @Column('text') name: string;
  @Column('simple-json') treatments: TreatmentRecord[];
}

export const ENTITIES = [
  JobRow,
  ChangeRow,
  SnapshotRow,
  SettingRow,
  StockFilmRow,
  RollRow,
  SupplyRow,
  ProfileRow,
  MachineRow,
  RunRow,
  RunFileRow,
  RunLogRow,
  OwnFontRow,
  StyleRow,
  KeptTextRow,
  SessionRow,
  JobVersionRow,
];
