import { DataSource, type DataSourceOptions } from 'typeorm';
import { AccessToken } from './entities/access-token.js';
import { Intake, IntakeFileRow } from './entities/intake.js';
import { Person } from './entities/person.js';
import { Store1764000000001 } from './migrations/1-store.js';
import { Custody1764000000002 } from './migrations/2-custody.js';
import { Files1764000000003 } from './migrations/3-files.js';
import { Access1764000000004 } from './migrations/4-access.js';
import { IntakeJobs1764000000005 } from './migrations/5-intake-jobs.js';
import { Likeness1764000000010 } from './migrations/10-likeness.js';
import { CountedInOrder1764000000013 } from './migrations/13-counted-in-order.js';
import { Configurations1764000000014 } from './migrations/14-configurations.js';
import { TrueReferences1764000000015 } from './migrations/15-true-references.js';
import { CommentText1764000000012 } from './migrations/12-comment-text.js';
import { ItemOrder1764000000011 } from './migrations/11-item-order.js';
import { Find1764000000009 } from './migrations/9-find.js';
import { StructureFeed1764000000008 } from './migrations/8-structure-feed.js';
import { Lookups1764000000007 } from './migrations/7-lookups.js';
import { Properties1764000000006 } from './migrations/6-properties.js';

/** Options for a database; migrations only, never synchronised from entities. */
export function dataSourceOptions(url: string): DataSourceOptions {
  return {
    type: 'postgres',
    url,
    entities: [Person, AccessToken, Intake, IntakeFileRow],
    migrations: [
      Store1764000000001,
      Custody1764000000002,
      Files1764000000003,
      Access1764000000004,
      IntakeJobs1764000000005,
      Properties1764000000006,
      Lookups1764000000007,
      StructureFeed1764000000008,
      Find1764000000009,
      Likeness1764000000010,
      ItemOrder1764000000011,
      CommentText1764000000012,
      CountedInOrder1764000000013,
      Configurations1764000000014,
      TrueReferences1764000000015,
    ],
    migrationsRun: true,
    synchronize: false,
    applicationName: 'stem-trace',
    // Compiling a query costs more than any query here takes, and no disk of today seeks.
    extra: { max: 10, options: '-c jit=off -c random_page_cost=1.1' },
  };
}

export async function openDatabase(url: string): Promise<DataSource> {
  return new DataSource(dataSourceOptions(url)).initialize();
}
