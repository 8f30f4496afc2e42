import type { Knex } from 'knex';

/** Printers by their place, the labels that are in them, and what is on its way through them: a run is sent under a token, so that after a
 *  crash the printer itself says what became of it. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    CREATE TABLE label_paper (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, name text NOT NULL,
      width_mm numeric(5,1) NOT NULL, height_mm numeric(5,1) NOT NULL, sheet jsonb, retired_at timestamptz
    );
    CREATE UNIQUE INDEX label_paper_name ON label_paper (lower(name)) WHERE retired_at IS NULL;
    CREATE TABLE printer (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, site_id int NOT NULL REFERENCES site, name text NOT NULL, address text NOT NULL,
      dpi smallint NOT NULL CHECK (dpi IN (203, 300, 600)),
      roll_width_mm numeric(5,1), roll_height_mm numeric(5,1), paused_at timestamptz, paused_by int REFERENCES person,
      said text, heard_at timestamptz, tries int NOT NULL DEFAULT 0, next_try timestamptz NOT NULL DEFAULT now(), retired_at timestamptz,
      CHECK ((roll_width_mm IS NULL) = (roll_height_mm IS NULL))
    );
    CREATE UNIQUE INDEX printer_name ON printer (site_id, lower(name)) WHERE retired_at IS NULL;
    ALTER TABLE zone ADD printer_id int REFERENCES printer;
    ALTER TABLE device ADD printer_id int REFERENCES printer;
    CREATE TABLE print_run (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, printer_id int NOT NULL REFERENCES printer, token uuid NOT NULL UNIQUE,
      remote int, parts jsonb NOT NULL, labels int NOT NULL CHECK (labels > 0), came_out int NOT NULL DEFAULT 0,
      unsure boolean NOT NULL DEFAULT false, sent_at timestamptz NOT NULL DEFAULT now(), ended_at timestamptz,
      CHECK (came_out BETWEEN 0 AND labels)
    );
    -- One at a time: what comes out, comes out in order.
    CREATE UNIQUE INDEX print_run_open ON print_run (printer_id) WHERE ended_at IS NULL;
    DROP INDEX print_job_waiting;
    ALTER TABLE print_job DROP CONSTRAINT print_job_state_check;
    ALTER TABLE print_job ADD site_id int REFERENCES site, ADD printer_id int REFERENCES printer, ADD done int NOT NULL DEFAULT 0,
      DROP COLUMN tries, DROP COLUMN next_try,
      ADD CONSTRAINT print_job_state_check CHECK (state IN ('waiting', 'sent', 'printed', 'failed', 'dropped'));
    UPDATE print_job j SET done = CASE WHEN state = 'printed' THEN copies ELSE 0 END,
      state = CASE WHEN state = 'failed' AND svg IS NOT NULL THEN 'waiting' ELSE state END,
      site_id = (SELECT min(x.site_id) FROM person_site x WHERE x.person_id = j.person_id);
    ALTER TABLE print_job ADD CHECK (done BETWEEN 0 AND copies), ADD CHECK ((state = 'printed') = (done = copies));
    CREATE INDEX print_job_waiting ON print_job (printer_id, id) WHERE state IN ('waiting', 'sent');
    CREATE INDEX print_job_homeless ON print_job (site_id) WHERE printer_id IS NULL AND state = 'waiting';
  `);
}

/** Undone only in tests. */
export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
    UPDATE print_job SET state = CASE WHEN state = 'sent' THEN 'waiting' ELSE 'failed' END WHERE state IN ('sent', 'dropped');
    DROP INDEX print_job_waiting, print_job_homeless;
    ALTER TABLE print_job DROP COLUMN site_id, DROP COLUMN printer_id, DROP COLUMN done CASCADE, ADD tries int NOT NULL DEFAULT 0,
      ADD next_try timestamptz NOT NULL DEFAULT now(), DROP CONSTRAINT print_job_state_check,
      ADD CONSTRAINT print_job_state_check CHECK (state IN ('waiting', 'printed', 'failed'));
    CREATE INDEX print_job_waiting ON print_job (next_try) WHERE state <> 'printed';
    ALTER TABLE zone DROP COLUMN printer_id;
    ALTER TABLE device DROP COLUMN printer_id;
    DROP TABLE print_run, printer, label_paper;
  `);
}
