import { Injectable } from '@nestjs/common';
import type { PropertiesAnswer, SetClassRequest, SetDefinitionRequest } from '@stem-trace/contract';
import { toSi, type ItemClass, type PropertyDefinition } from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import type { Person } from '../database/entities/person.js';
import { countRows, json, listOf, readRow, readRows, text, word } from '../database/read-rows.js';
import { record } from '../trail/record.js';
import { ProblemError } from '../problems/problem.js';

/** Which properties there are and which a class has: data that an administrator keeps. */
@Injectable()
export class DefinitionsService {
  constructor(private readonly database: DataSource) {}

  async list(manager: EntityManager = this.database.manager): Promise<PropertiesAnswer> {
    const definitions = await readRows<PropertyDefinition>(
      manager,
      { name: text, kind: word<PropertyDefinition['kind']>(), unit: text, choices: listOf(text) },
      'SELECT name, kind, unit, choices FROM property_definition ORDER BY lower(name)',
    );
    const classes = await readRows<ItemClass>(
      manager,
      { name: text, properties: json<ItemClass['properties']>() },
      `SELECT c.name, coalesce((
         SELECT jsonb_agg(jsonb_build_object('name', d.name, 'isRequired', p.is_required) ORDER BY p.position)
         FROM class_property p JOIN property_definition d ON d.id = p.property_id WHERE p.class_id = c.id), '[]') AS properties
       FROM class c ORDER BY lower(c.name)`,
    );
    return { definitions, classes };
  }

  /** The class of each item that has one, by item. */
  async classesOf(itemIds: readonly string[], manager: EntityManager): Promise<Map<string, ItemClass>> {
    const { classes } = await this.list(manager);
    const byName = new Map(classes.map((each) => [each.name, each]));
    const rows = await readRows(
      manager,
      { id: text, name: text },
      'SELECT i.id, c.name FROM item i JOIN class c ON c.id = i.class_id WHERE i.id = ANY($1::bigint[])',
      [itemIds],
    );
    return new Map(
      rows.flatMap(({ id, name }) => {
        const found = byName.get(name);
        return found ? [[id, found] as const] : [];
      }),
    );
  }

  /** Makes a definition, or changes one; values that there are stay as they were entered. */
  async setDefinition(
    { name, kind, unit, choices }: SetDefinitionRequest,
    by: Person,
  ): Promise<PropertiesAnswer> {
    refuseOthers(by);
    if (unit !== '' && !toSi(1, unit))
      throw new ProblemError('INPUT_INVALID', `Unknown unit '${unit}'. Write it as in 12 mm or 3 N*m.`);
    if (kind === 'choice' && choices.length === 0)
      throw new ProblemError('INPUT_INVALID', `${name} needs at least one choice.`);
    return this.database.transaction(async (manager) => {
      await manager.query(
        `INSERT INTO property_definition (name, kind, unit, choices) VALUES ($1, $2, $3, $4)
         ON CONFLICT (lower(name)) DO UPDATE SET name = $1, kind = $2, unit = $3, choices = $4`,
        [name, kind, kind === 'number' ? unit : '', kind === 'choice' ? choices : []],
      );
      await tell(manager, `${by.name} defined the property ${name} as ${kind}`, by);
      return this.list(manager);
    });
  }

  /** Makes a class, or changes which properties it has. @throws ProblemError INPUT_INVALID for a property that is not defined */
  async setClass({ name, properties }: SetClassRequest, by: Person): Promise<PropertiesAnswer> {
    refuseOthers(by);
    return this.database.transaction(async (manager) => {
      const { id } = await readRow(
        manager,
        { id: text },
        `INSERT INTO class (name) VALUES ($1) ON CONFLICT (lower(name)) DO UPDATE SET name = $1 RETURNING id`,
        [name],
      );
      await manager.query('DELETE FROM class_property WHERE class_id = $1', [id]);
      for (const [position, property] of properties.entries()) {
        const made = await countRows(
          manager,
          `INSERT INTO class_property (class_id, property_id, position, is_required)
           SELECT $1, id, $3, $4 FROM property_definition WHERE lower(name) = lower($2) RETURNING class_id`,
          [id, property.name, position, property.isRequired],
        );
        if (made === 0)
          throw new ProblemError(
            'INPUT_INVALID',
            `The property ${property.name} is not defined. Nothing was changed.`,
          );
      }
      await tell(manager, `${by.name} set the properties of the class ${name}`, by);
      return this.list(manager);
    });
  }
}

function refuseOthers({ role }: Person): void {
  if (role !== 'administrator')
    throw new ProblemError('NOT_ALLOWED', 'Only an administrator may define properties and classes.');
}

async function tell(manager: EntityManager, says: string, by: Person): Promise<void> {
  await record(manager, [{ personId: by.id, kind: 'setting', itemId: null, says }]);
}
