import type { MigrationInterface, QueryRunner } from 'typeorm';

const KINDS = `('assembly', 'part', 'drawing', 'document', 'bill', 'request', 'order', 'recipe')`;
const KINDS_BEFORE = `('assembly', 'part', 'drawing', 'document', 'bill', 'request', 'order')`;

/** @param recipes what decides that a scope is meant for recipes, and that it counts more than one for documents */
const lifecycleFor = (recipes: { readonly isMeant: string; readonly isMore: string }): string => `
  CREATE OR REPLACE FUNCTION lifecycle_for(wanted bigint) RETURNS bigint LANGUAGE sql STABLE AS $$
    SELECT v.id FROM item i JOIN place p ON p.id = i.place_id
    CROSS JOIN lifecycle_scope s LEFT JOIN place q ON q.id = s.place_id
    JOIN LATERAL (SELECT id FROM lifecycle_version WHERE lifecycle_id = s.lifecycle_id ORDER BY seq DESC LIMIT 1) v ON true
    WHERE i.id = wanted AND (s.kind IS NULL OR s.kind = i.kind${recipes.isMeant}) AND (s.class_id IS NULL OR s.class_id = i.class_id)
      AND (s.place_id IS NULL OR q.path IN ('/', p.path) OR starts_with(p.path, q.path || '/'))
    ORDER BY (s.class_id IS NOT NULL) DESC, ${recipes.isMore}(s.kind IS NOT NULL) DESC, length(coalesce(q.path, '')) DESC LIMIT 1
  $$;`;

/** Recipes are documents with an ending of their own, and may go by a lifecycle of their own. */
export class RecipeLifecycles1764000000036 implements MigrationInterface {
  name = 'RecipeLifecycles1764000000036';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      ALTER TABLE lifecycle_scope DROP CONSTRAINT lifecycle_scope_kind_check,
        ADD CONSTRAINT lifecycle_scope_kind_check CHECK (kind IN ${KINDS});
      ${lifecycleFor({
        isMeant: ` OR (s.kind = 'recipe' AND i.kind = 'document' AND i.file_name LIKE '%.recipe.json')`,
        isMore: `(s.kind IS NOT DISTINCT FROM 'recipe') DESC, `,
      })}
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      DELETE FROM lifecycle_scope WHERE kind = 'recipe';
      ALTER TABLE lifecycle_scope DROP CONSTRAINT lifecycle_scope_kind_check,
        ADD CONSTRAINT lifecycle_scope_kind_check CHECK (kind IN ${KINDS_BEFORE});
      ${lifecycleFor({ isMeant: '', isMore: '' })}
    `);
  }
}
