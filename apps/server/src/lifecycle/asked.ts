/** Who is asked to decide about a check sheet: somebody by name, and whoever stands in; else everybody who may. */
import type { EntityManager } from 'typeorm';
import type { RightsService } from '../access/rights.service.js';
import { Person } from '../database/entities/person.js';
import { ProblemError } from '../problems/problem.js';
import type { DescribedVersion } from '../store/catalogue.service.js';

const TODAY = 'site_day(now())';

/** Rows of `substitute` (`alias`) that hold today, as SQL. */
export function holdsToday(alias: string): string {
  return `${TODAY} BETWEEN ${alias}.from_day AND ${alias}.to_day`;
}

/** Condition that somebody is asked about a sheet, or stands in for who is, or nobody is asked by name. Both as SQL. */
export function isAsked(sheet: string, person: string): string {
  return `(NOT EXISTS (SELECT FROM check_asked k WHERE k.sheet_id = ${sheet} AND k.passed_on_at IS NULL)
    OR EXISTS (SELECT FROM check_asked k LEFT JOIN substitute b ON b.person_id = k.person_id AND ${holdsToday('b')}
      WHERE k.sheet_id = ${sheet} AND k.passed_on_at IS NULL AND ${person} IN (k.person_id, b.substitute_id)))`;
}

/**
 * People by login who may all decide where all of these lie; by which step, their roles say when they take it.
 *
 * @throws ProblemError INPUT_INVALID for somebody who is not there or may not
 */
export async function askable(
  manager: EntityManager,
  rights: RightsService,
  logins: readonly string[],
  items: readonly Pick<DescribedVersion, 'number' | 'placeId'>[],
): Promise<Person[]> {
  const people: Person[] = [];
  for (const login of logins) {
    const person = await manager.findOne(Person, { where: { login, isActive: true } });
    if (!person)
      throw new ProblemError(
        'INPUT_INVALID',
        `There is nobody who signs in as ${login}. Nothing was changed.`,
      );
    const own = await rights.of(person, manager);
    const refused = items.find(({ placeId }) => !own.may('release', placeId));
    if (refused)
      throw new ProblemError(
        'INPUT_INVALID',
        `${person.name} may not decide about ${refused.number}. Ask somebody who may. Nothing was changed.`,
      );
    people.push(person);
  }
  return people;
}
