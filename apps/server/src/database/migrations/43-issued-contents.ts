import type { MigrationInterface, QueryRunner } from 'typeorm';

/**
 * Items whose numbers, names or geometry may be in a file issued of a version: all that is linked below it as recorded or in its
 * baseline, what lives in the same files, alternates of all of these, and what an MBOM names. Wider rather than narrower than what
 * each kind of file shows. O(links reached).
 */
const HOLDS = `CREATE FUNCTION issued_holds(of_version bigint, of_baseline bigint) RETURNS SETOF bigint LANGUAGE sql STABLE AS $$
  WITH RECURSIVE reached(version_id) AS (
    SELECT of_version
    UNION SELECT n.version_id FROM baseline_item n WHERE n.baseline_id = of_baseline
    UNION SELECT l.target_version_id FROM reached r JOIN link l ON l.version_id = r.version_id
          WHERE l.target_version_id IS NOT NULL AND l.relation <> 'describes'
  ), filed AS (
    SELECT DISTINCT coalesce(v.carrier_version_id, v.id) AS file FROM reached r JOIN version v ON v.id = r.version_id
  ), held AS (
    SELECT v.item_id FROM filed f JOIN version v ON v.id = f.file OR v.carrier_version_id = f.file
    UNION SELECT u.item_id FROM version v JOIN bill_use u ON u.sha256 = v.sha256 WHERE v.id = of_version
  )
  SELECT item_id FROM held
  UNION SELECT a.other_id FROM alternate a JOIN held h ON h.item_id = a.item_id
  UNION SELECT a.item_id FROM alternate a JOIN held h ON h.item_id = a.other_id
$$`;

export class IssuedContents1764000000043 implements MigrationInterface {
  name = 'IssuedContents1764000000043';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(HOLDS);
    await runner.query(`
      CREATE TABLE issued_content (
        file_id bigint NOT NULL REFERENCES issued_file ON DELETE CASCADE,
        item_id bigint NOT NULL REFERENCES item ON DELETE CASCADE,
        PRIMARY KEY (file_id, item_id)
      );
      CREATE INDEX issued_content_item ON issued_content (item_id);
      INSERT INTO issued_content (file_id, item_id)
      SELECT f.id, held FROM issued_file f, issued_holds(f.version_id, f.baseline_id) AS held WHERE f.made_at IS NOT NULL;
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP TABLE issued_content; DROP FUNCTION issued_holds(bigint, bigint);');
  }
}
