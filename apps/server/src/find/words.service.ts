import { Injectable } from '@nestjs/common';
import type { PropertyDefinition, QueryWords } from '@stem-trace/core';
import { DataSource } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { DefinitionsService } from '../properties/definitions.service.js';

/** What names a search may use, for one who asks. */
@Injectable()
export class FindWordsService {
  constructor(
    private readonly database: DataSource,
    private readonly definitions: DefinitionsService,
    private readonly rights: RightsService,
  ) {}

  async of(person: Person): Promise<QueryWords> {
    const [defined, known, people, places] = await Promise.all([
      this.definitions.list(),
      this.database.query<PropertyDefinition[]>(
        `SELECT name, kind, unit, ARRAY[]::text[] AS choices FROM property_known ORDER BY name`,
      ),
      this.database.query<{ login: string; name: string }[]>('SELECT login, name FROM person ORDER BY name'),
      this.database.query<{ id: string; path: string }[]>(
        `SELECT id, path FROM place WHERE path <> '/' ORDER BY path`,
      ),
    ]);
    const hidden = new Set((await this.rights.of(person)).placesWithout('see'));
    const taken = new Set(defined.definitions.map(({ name }) => name.toLowerCase()));
    return {
      properties: [
        ...defined.definitions,
        // A choice that nobody defined is any text.
        ...known
          .filter(({ name }) => !taken.has(name.toLowerCase()))
          .map((property) =>
            property.kind === 'choice' ? { ...property, kind: 'text' as const } : property,
          ),
      ],
      classes: defined.classes.map(({ name }) => name),
      people,
      places: places.filter(({ id }) => !hidden.has(id)).map(({ path }) => path),
      me: person.login,
      today: new Date().toISOString().slice(0, 10),
    };
  }
}
