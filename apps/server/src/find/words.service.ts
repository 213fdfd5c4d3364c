import { Injectable } from '@nestjs/common';
import type { PropertyDefinition, QueryWords } from '@stem-trace/core';
import { DataSource } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { Marks } from '../feed/freshness.js';
import { Kept } from '../feed/kept.js';
import { DefinitionsService } from '../properties/definitions.service.js';
import { stateBook } from '../database/state-book.js';
import { siteDay } from '../database/site-day.js';

/** What names a search may use, for one who asks. */
@Injectable()
export class FindWordsService {
  private readonly kept: Kept<QueryWords>;

  constructor(
    private readonly database: DataSource,
    private readonly definitions: DefinitionsService,
    private readonly rights: RightsService,
    marks: Marks,
  ) {
    this.kept = new Kept(marks, { most: 500 });
  }

  async of(person: Person): Promise<QueryWords> {
    const words = await this.kept.get(`${person.login} ${person.role}`, () => this.load(person));
    return { ...words, today: await siteDay(this.database, new Date()) };
  }

  private async load(person: Person): Promise<QueryWords> {
    const hiddenPlaces = (await this.rights.of(person)).placesWithout('see');
    const [defined, known, people, places] = await Promise.all([
      this.definitions.list(),
      this.database.query<PropertyDefinition[]>(
        // Only what something has that one may see: a name that only hidden items have is theirs.
        `SELECT k.name, k.kind, k.unit, ARRAY[]::text[] AS choices FROM property_known k
         WHERE $1::bigint[] = '{}' OR EXISTS (SELECT FROM item_property p JOIN item i ON i.id = p.item_id
           WHERE p.key = k.key AND i.place_id <> ALL($1::bigint[])) ORDER BY k.name`,
        [hiddenPlaces],
      ),
      this.database.query<{ login: string; name: string }[]>('SELECT login, name FROM person ORDER BY name'),
      this.database.query<{ id: string; path: string }[]>(
        `SELECT id, path FROM place WHERE path <> '/' ORDER BY path`,
      ),
    ]);
    const hidden = new Set(hiddenPlaces);
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
      states: [...(await stateBook(this.database)).keys()],
      people,
      places: places.filter(({ id }) => !hidden.has(id)).map(({ path }) => path),
      me: person.login,
      today: await siteDay(this.database, new Date()),
    };
  }
}
