/** The database's shape, step by step. Steps are never changed once they have landed. */
import type { MigrationInterface, QueryRunner } from 'typeorm';

export class First1700000000001 implements MigrationInterface {
  name = 'First1700000000001';

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of [
      `CREATE TABLE job (id text PRIMARY KEY, name text NOT NULL, customer text NOT NULL, due_on text, state text NOT NULL,
        archived boolean NOT NULL, revision integer NOT NULL, created_at text NOT NULL, updated_at text NOT NULL)`,
      `CREATE TABLE change (job_id text NOT NULL REFERENCES job(id) ON DELETE CASCADE, revision integer NOT NULL, change_id text NOT NULL,
        kind text NOT NULL, origin text NOT NULL, step_group text NOT NULL, patch text NOT NULL, made_at text NOT NULL, PRIMARY KEY (job_id, revision))`,
      `CREATE UNIQUE INDEX change_once ON change (job_id, change_id)`,
      `CREATE TABLE snapshot (job_id text NOT NULL REFERENCES job(id) ON DELETE CASCADE, revision integer NOT NULL, records text NOT NULL, PRIMARY KEY (job_id, revision))`,
      `CREATE TABLE stock_film (id text PRIMARY KEY, series text NOT NULL, name text NOT NULL, hex text NOT NULL, transfer boolean NOT NULL,
        price_per_metre real NOT NULL, press text, position integer NOT NULL)`,
      `CREATE TABLE roll (id text PRIMARY KEY, film_id text NOT NULL REFERENCES stock_film(id) ON DELETE CASCADE, width_mm real NOT NULL,
        length_left_mm real NOT NULL, is_offcut boolean NOT NULL)`,
      `CREATE TABLE machine (id text PRIMARY KEY, kind text NOT NULL, name text NOT NULL, host text NOT NULL, port integer NOT NULL,
        report_port integer, width_mm real NOT NULL, setups text NOT NULL, position integer NOT NULL)`,
      `CREATE TABLE run (id text PRIMARY KEY, order_id text NOT NULL, job_id text NOT NULL REFERENCES job(id) ON DELETE CASCADE, job_name text NOT NULL,
        title text NOT NULL, film_hex text NOT NULL, machine_id text NOT NULL, machine_name text NOT NULL, roll_id text, state text NOT NULL,
        progress real NOT NULL, reason text, length_mm real NOT NULL, width_mm real NOT NULL, copies integer NOT NULL, cut_mm real NOT NULL,
        estimated_s real NOT NULL, cut_file text NOT NULL, sheet_file text NOT NULL, picture_file text, created_at text NOT NULL, ended_at text)`,
      `CREATE INDEX run_order ON run (order_id)`,
      `CREATE INDEX run_machine ON run (machine_id, state)`,
    ]) {
      await runner.query(statement);
    }
  }

  async down(runner: QueryRunner): Promise<void> {
    for (const table of ['run', 'machine', 'roll', 'stock_film', 'snapshot', 'change', 'job']) await runner.query(`DROP TABLE ${table}`);
  }
}

/** Fonts that the shop brings itself, and treatments kept under a name. */
export class FontsAndStyles1700000000002 implements MigrationInterface {
  name = 'FontsAndStyles1700000000002';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`CREATE TABLE own_font (id text PRIMARY KEY, entry text NOT NULL, licence text NOT NULL, added_at text NOT NULL)`);
    await runner.query(`CREATE TABLE style (id text PRIMARY KEY, name text NOT NULL, treatments text NOT NULL)`);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP TABLE style');
    await runner.query('DROP TABLE own_font');
  }
}

/** What can be weeded from each film. */
export class FilmLimits1700000000003 implements MigrationInterface {
  name = 'FilmLimits1700000000003';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query('ALTER TABLE stock_film ADD COLUMN smallest_part_mm real NOT NULL DEFAULT 2');
    await runner.query('ALTER TABLE stock_film ADD COLUMN thinnest_mm real NOT NULL DEFAULT 0.8');
  }

  async down(runner: QueryRunner): Promise<void> {
    for (const column of ['smallest_part_mm', 'thinnest_mm']) await runner.query(`ALTER TABLE stock_film DROP COLUMN ${column}`);
  }
}

/** Long texts by content, sessions, the order of runs. */
export class Safekeeping1700000000004 implements MigrationInterface {
  name = 'Safekeeping1700000000004';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query('CREATE TABLE kept_text (name text PRIMARY KEY, body text NOT NULL) WITHOUT ROWID');
    await runner.query('CREATE TABLE session (hash text PRIMARY KEY, made_at integer NOT NULL)');
    await runner.query('ALTER TABLE run ADD COLUMN place integer NOT NULL DEFAULT 0');
    await runner.query('UPDATE run SET place = rowid');
    await runner.query('CREATE INDEX run_place ON run (machine_id, state, place)');
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP INDEX run_place');
    await runner.query('ALTER TABLE run DROP COLUMN place');
    await runner.query('DROP TABLE session');
    await runner.query('DROP TABLE kept_text');
  }
}

/** States of a job under a name; each names a snapshot. */
export class JobVersions1700000000005 implements MigrationInterface {
  name = 'JobVersions1700000000005';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(
      `CREATE TABLE job_version (id text PRIMARY KEY, job_id text NOT NULL REFERENCES job(id) ON DELETE CASCADE, name text NOT NULL,
        revision integer NOT NULL, made_at text NOT NULL)`,
    );
    await runner.query('CREATE INDEX job_version_of ON job_version (job_id, made_at)');
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP TABLE job_version');
  }
}

/** Drawings with a version, layers in place of films, printing: media, kinds of machines and runs, files of runs. */
export class LayersAndPrints1700000000006 implements MigrationInterface {
  name = 'LayersAndPrints1700000000006';

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of [
      'ALTER TABLE change ADD COLUMN version integer NOT NULL DEFAULT 1',
      'ALTER TABLE snapshot ADD COLUMN version integer NOT NULL DEFAULT 1',
      `UPDATE style SET treatments = replace(treatments, '"film":', '"layer":')`,
      'ALTER TABLE stock_film ADD COLUMN medium text',
      `ALTER TABLE run ADD COLUMN kind text NOT NULL DEFAULT 'cut'`,
      `ALTER TABLE run ADD COLUMN sheet text NOT NULL DEFAULT ''`,
      'ALTER TABLE run ADD COLUMN code text',
      'ALTER TABLE run ADD COLUMN after text',
      'ALTER TABLE run ADD COLUMN held_for text',
      'ALTER TABLE run ADD COLUMN step text',
      `ALTER TABLE run ADD COLUMN marks text NOT NULL DEFAULT '[]'`,
      'ALTER TABLE run ADD COLUMN correction text',
      'ALTER TABLE run ADD COLUMN off_mm real',
      'ALTER TABLE run ADD COLUMN ink_ml text',
      `CREATE TABLE run_file (run_id text NOT NULL REFERENCES run(id) ON DELETE CASCADE, role text NOT NULL, file text NOT NULL, PRIMARY KEY (run_id, role))`,
      `INSERT INTO run_file SELECT id, 'cut', cut_file FROM run`,
      `INSERT INTO run_file SELECT id, 'sheet', sheet_file FROM run`,
      `INSERT INTO run_file SELECT id, 'picture', picture_file FROM run WHERE picture_file IS NOT NULL`,
      `UPDATE run SET held_for = 'you' WHERE state = 'held'`,
      'ALTER TABLE run DROP COLUMN cut_file',
      'ALTER TABLE run DROP COLUMN sheet_file',
      'ALTER TABLE run DROP COLUMN picture_file',
      'CREATE INDEX run_after ON run (after)',
    ])
      await runner.query(statement);
  }

  async down(): Promise<void> {
    throw new Error('Drawings of the newer shape cannot be made old again; restore a backup.');
  }
}

/** What the shop has set for itself. */
export class Settings1700000000007 implements MigrationInterface {
  name = 'Settings1700000000007';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query('CREATE TABLE setting (key text PRIMARY KEY, value text NOT NULL)');
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP TABLE setting');
  }
}

/** How a cutter does each kind of line. */
export class Cutting1700000000008 implements MigrationInterface {
  name = 'Cutting1700000000008';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query('ALTER TABLE machine ADD COLUMN cutting text');
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('ALTER TABLE machine DROP COLUMN cutting');
  }
}

/** What happened to each run. */
export class RunLog1700000000009 implements MigrationInterface {
  name = 'RunLog1700000000009';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(
      'CREATE TABLE run_log (id integer PRIMARY KEY AUTOINCREMENT, run_id text NOT NULL REFERENCES run(id) ON DELETE CASCADE, at text NOT NULL, text text NOT NULL)',
    );
    await runner.query('CREATE INDEX run_log_run ON run_log (run_id)');
    await runner.query('CREATE INDEX run_ended ON run (ended_at)');
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP INDEX run_ended');
    await runner.query('DROP TABLE run_log');
  }
}

/** How machines are connected and what they can. */
export class Connections1700000000010 implements MigrationInterface {
  name = 'Connections1700000000010';

  async up(runner: QueryRunner): Promise<void> {
    for (const column of ['connection text', 'reads_marks text', 'calibration text', 'length_mm real', 'ink_ml_per_m2 real'])
      await runner.query(`ALTER TABLE machine ADD COLUMN ${column}`);
    await runner.query('ALTER TABLE run ADD COLUMN paper text');
  }

  async down(runner: QueryRunner): Promise<void> {
    for (const column of ['connection', 'reads_marks', 'calibration', 'length_mm', 'ink_ml_per_m2'])
      await runner.query(`ALTER TABLE machine DROP COLUMN ${column}`);
    await runner.query('ALTER TABLE run DROP COLUMN paper');
  }
}

/** Inks and laminates, levels at which to order again, the shape of offcuts. */
export class Supplies1700000000011 implements MigrationInterface {
  name = 'Supplies1700000000011';

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of [
      'CREATE TABLE supply (id text PRIMARY KEY, kind text NOT NULL, name text NOT NULL, plate text, width_mm real, left_amount real NOT NULL, reorder_at real, price real NOT NULL, position integer NOT NULL)',
      'ALTER TABLE stock_film ADD COLUMN reorder_mm real',
      'ALTER TABLE roll ADD COLUMN outline text',
      'ALTER TABLE run ADD COLUMN offcut_id text',
    ])
      await runner.query(statement);
  }

  async down(runner: QueryRunner): Promise<void> {
    for (const statement of [
      'DROP TABLE supply',
      'ALTER TABLE stock_film DROP COLUMN reorder_mm',
      'ALTER TABLE roll DROP COLUMN outline',
      'ALTER TABLE run DROP COLUMN offcut_id',
    ])
      await runner.query(statement);
  }
}

/** Colour profiles that the shop brings, by printer and medium. */
export class Profiles1700000000012 implements MigrationInterface {
  name = 'Profiles1700000000012';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query('CREATE TABLE profile (id text PRIMARY KEY, name text NOT NULL, file text NOT NULL, added_at text NOT NULL)');
    await runner.query('ALTER TABLE machine ADD COLUMN colours text');
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('ALTER TABLE machine DROP COLUMN colours');
    await runner.query('DROP TABLE profile');
  }
}

/** Where a cut begins on its machine. */
export class Origins1700000000013 implements MigrationInterface {
  name = 'Origins1700000000013';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query('ALTER TABLE run ADD COLUMN origin text');
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('ALTER TABLE run DROP COLUMN origin');
  }
}

/** Cuts that go on where they stopped. */
export class GoingOn1700000000014 implements MigrationInterface {
  name = 'GoingOn1700000000014';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query('ALTER TABLE run ADD COLUMN go_on_at real');
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('ALTER TABLE run DROP COLUMN go_on_at');
  }
}

/** Laminates that prints use up. */
export class Laminates1700000000015 implements MigrationInterface {
  name = 'Laminates1700000000015';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query('ALTER TABLE run ADD COLUMN laminate_id text');
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('ALTER TABLE run DROP COLUMN laminate_id');
  }
}

export const MIGRATIONS = [
  First1700000000001,
  FontsAndStyles1700000000002,
  FilmLimits1700000000003,
  Safekeeping1700000000004,
  JobVersions1700000000005,
  LayersAndPrints1700000000006,
  Settings1700000000007,
  Cutting1700000000008,
  RunLog1700000000009,
  Connections1700000000010,
  Supplies1700000000011,
  Profiles1700000000012,
  Origins1700000000013,
  GoingOn1700000000014,
  Laminates1700000000015,
];
