import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Where people get mail, and what they want to be told how; what is said by mail, and whether it was. */
export class Mail1764000000031 implements MigrationInterface {
  name = 'Mail1764000000031';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ALTER TABLE person ADD COLUMN mail text NOT NULL DEFAULT '', ADD COLUMN notice_ways jsonb NOT NULL DEFAULT '{}',
        ADD COLUMN mail_problem text;
      ALTER TABLE notice ADD COLUMN kind text NOT NULL DEFAULT 'watched'
          CHECK (kind IN ('to check', 'decided', 'given', 'asked', 'watched', 'searches')),
        ADD COLUMN way text NOT NULL DEFAULT 'desk' CHECK (way IN ('desk', 'at once', 'daily')),
        ADD COLUMN mailed_at timestamptz,
        ADD COLUMN mail_tries int NOT NULL DEFAULT 0,
        ADD COLUMN mail_next timestamptz NOT NULL DEFAULT now();
      CREATE INDEX notice_to_mail ON notice (person_id, id) WHERE way <> 'desk' AND mailed_at IS NULL;

      -- Whoever tells somebody says what it is about; how it is told, or that it is not, is theirs to say.
      CREATE FUNCTION notice_way() RETURNS trigger LANGUAGE plpgsql AS $$
      DECLARE
        wanted text;
        has_mail boolean;
      BEGIN
        SELECT coalesce(p.notice_ways->>NEW.kind, 'desk'), p.mail <> '' INTO wanted, has_mail FROM person p WHERE p.id = NEW.person_id;
        IF wanted = 'none' THEN
          RETURN NULL;
        END IF;
        NEW.way := CASE WHEN has_mail THEN coalesce(wanted, 'desk') ELSE 'desk' END;
        RETURN NEW;
      END $$;
      CREATE TRIGGER notice_goes_its_way BEFORE INSERT ON notice FOR EACH ROW EXECUTE FUNCTION notice_way();
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      DROP TRIGGER notice_goes_its_way ON notice;
      DROP FUNCTION notice_way;
      ALTER TABLE notice DROP COLUMN kind, DROP COLUMN way, DROP COLUMN mailed_at, DROP COLUMN mail_tries, DROP COLUMN mail_next;
      ALTER TABLE person DROP COLUMN mail, DROP COLUMN notice_ways, DROP COLUMN mail_problem;
    `);
  }
}
