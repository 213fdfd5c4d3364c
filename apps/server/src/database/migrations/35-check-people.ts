import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Who is asked to decide about a check sheet and until when, who stands in for whom, and of what they were reminded. */
export class CheckPeople1764000000035 implements MigrationInterface {
  name = 'CheckPeople1764000000035';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ALTER TABLE check_sheet ADD COLUMN until date,
        -- Who is told where it is late, as steps say who.
        ADD COLUMN lead jsonb NOT NULL DEFAULT '[]';
      CREATE TABLE check_asked (
        sheet_id bigint NOT NULL REFERENCES check_sheet,
        person_id bigint NOT NULL REFERENCES person,
        by_id bigint NOT NULL REFERENCES person,
        at timestamptz NOT NULL DEFAULT now(),
        passed_on_at timestamptz,
        PRIMARY KEY (sheet_id, person_id)
      );
      CREATE INDEX check_asked_person ON check_asked (person_id, sheet_id);

      CREATE TABLE substitute (
        person_id bigint PRIMARY KEY REFERENCES person,
        substitute_id bigint NOT NULL REFERENCES person,
        from_day date NOT NULL,
        to_day date NOT NULL,
        CHECK (person_id <> substitute_id),
        CHECK (from_day <= to_day)
      );
      CREATE INDEX substitute_of ON substitute (substitute_id);

      CREATE TABLE check_reminder (
        sheet_id bigint NOT NULL REFERENCES check_sheet,
        day date NOT NULL,
        kind text NOT NULL CHECK (kind IN ('soon', 'today', 'late')),
        at timestamptz NOT NULL DEFAULT now(),
        PRIMARY KEY (sheet_id, day, kind)
      );

      -- What waits for somebody who is away waits for whoever stands in; what the latter knows already is not said twice.
      CREATE FUNCTION tell_substitute() RETURNS trigger LANGUAGE plpgsql AS $$
      BEGIN
        INSERT INTO notice (person_id, item_id, says, address, at, kind)
        SELECT s.substitute_id, NEW.item_id, NEW.says || ' (for ' || p.name || ', who is away)', NEW.address, NEW.at, NEW.kind
        FROM substitute s JOIN person p ON p.id = s.person_id
        WHERE s.person_id = NEW.person_id AND (NEW.at AT TIME ZONE 'UTC')::date BETWEEN s.from_day AND s.to_day
          AND NEW.says NOT LIKE '%, who is away)'
          AND NOT EXISTS (SELECT FROM notice n WHERE n.person_id = s.substitute_id AND n.at = NEW.at AND n.says = NEW.says
            AND n.item_id IS NOT DISTINCT FROM NEW.item_id);
        RETURN NULL;
      END $$;
      CREATE TRIGGER notice_reaches_substitute AFTER INSERT ON notice FOR EACH ROW
        WHEN (NEW.kind IN ('to check', 'given')) EXECUTE FUNCTION tell_substitute();
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      DROP TRIGGER notice_reaches_substitute ON notice;
      DROP FUNCTION tell_substitute;
      DROP TABLE check_reminder, substitute, check_asked;
      ALTER TABLE check_sheet DROP COLUMN until, DROP COLUMN lead;
    `);
  }
}
