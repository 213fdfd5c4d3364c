import { afterAll, expect, it } from 'vitest';
import { stepFile } from '../../../../packages/formats/src/testing/step-sets.js';
import { TestStore } from '../testing/test-store.js';
import { TrueReferences1764000000015 } from './migrations/15-true-references.js';
import { Words1764000000018 } from './migrations/18-words.js';
import { EveryDay1764000000019 } from './migrations/19-every-day.js';
import { RollUp1764000000020 } from './migrations/20-roll-up.js';
import { Bom1764000000021 } from './migrations/21-bom.js';
import { Build1764000000022 } from './migrations/22-build.js';
import { Variants1764000000023 } from './migrations/23-variants.js';
import { Templates1764000000024 } from './migrations/24-templates.js';
import { MarkUp1764000000025 } from './migrations/25-mark-up.js';
import { Scenes1764000000026 } from './migrations/26-scenes.js';
import { Lifecycles1764000000027 } from './migrations/27-lifecycles.js';
import { Signatures1764000000028 } from './migrations/28-signatures.js';
import { Reminders1764000000033 } from './migrations/33-reminders.js';
import { RecipeLifecycles1764000000036 } from './migrations/36-recipe-lifecycles.js';
import { Effectivity1764000000037 } from './migrations/37-effectivity.js';
import { StepConsequences1764000000038 } from './migrations/38-step-consequences.js';
import { SiteZone1764000000039 } from './migrations/39-site-zone.js';
import { OrdersTakeEffect1764000000040 } from './migrations/40-orders-take-effect.js';
import { EffectivityFollows1764000000041 } from './migrations/41-effectivity-follows.js';
import { SignedAgain1764000000042 } from './migrations/42-signed-again.js';
import { IssuedContents1764000000043 } from './migrations/43-issued-contents.js';
import { Mentions1764000000044 } from './migrations/44-mentions.js';
import { CheckPeople1764000000035 } from './migrations/35-check-people.js';
import { IssuedFiles1764000000034 } from './migrations/34-issued-files.js';
import { Webhooks1764000000032 } from './migrations/32-webhooks.js';
import { Mail1764000000031 } from './migrations/31-mail.js';
import { Changes1764000000030 } from './migrations/30-changes.js';
import { CheckSheets1764000000029 } from './migrations/29-check-sheets.js';
import { Jobs1764000000017 } from './migrations/17-jobs.js';
import { StandFirm1764000000016 } from './migrations/16-stand-firm.js';

let store: TestStore;

afterAll(() => store.close());

it('a store from before true references is repaired where its versions still know, and whole afterwards', async () => {
  const before = await TestStore.open();
  const uses = [{ id: 'S', locator: 'parts/s.stp' }];
  await before.intake(
    new Map([
      ['t.stp', stepFile({ id: 'T', uses, fileName: 't.stp' })],
      ['parts/s.stp', stepFile({ id: 'S', fileName: 's.stp' })],
    ]),
    { place: '/old' },
  );
  await before.derive({ item: 'T', copy: 'all', prefix: 'V-', place: '/old/variants' });
  await before.json('POST', '/api/items/move', { items: ['T'], place: '/moved' }).catch(() => undefined);
  // As such stores were: without what is known now, and with what earlier intakes got wrong.
  const runner = (await before.owner()).createQueryRunner();
  await new Mentions1764000000044().down(runner);
  await new IssuedContents1764000000043().down(runner);
  await new SignedAgain1764000000042().down(runner);
  await new EffectivityFollows1764000000041().down(runner);
  await new OrdersTakeEffect1764000000040().down(runner);
  await new SiteZone1764000000039().down(runner);
  await new StepConsequences1764000000038().down(runner);
  await new Effectivity1764000000037().down(runner);
  await new RecipeLifecycles1764000000036().down(runner);
  await new CheckPeople1764000000035().down(runner);
  await new IssuedFiles1764000000034().down(runner);
  await new Reminders1764000000033().down(runner);
  await new Webhooks1764000000032().down(runner);
  await new Mail1764000000031().down(runner);
  await new Changes1764000000030().down(runner);
  await new CheckSheets1764000000029().down(runner);
  await new Signatures1764000000028().down(runner);
  await new Lifecycles1764000000027().down(runner);
  await new Scenes1764000000026().down(runner);
  await new MarkUp1764000000025().down(runner);
  await new Templates1764000000024().down(runner);
  await new Variants1764000000023().down(runner);
  await new Build1764000000022().down(runner);
  await new Bom1764000000021().down(runner);
  await new RollUp1764000000020().down(runner);
  await new EveryDay1764000000019().down(runner);
  await new Words1764000000018().down(runner);
  await new Jobs1764000000017().down(runner);
  await new StandFirm1764000000016().down(runner);
  await new TrueReferences1764000000015().down(runner);
  await runner.query(
    `DELETE FROM migrations WHERE name IN ('TrueReferences1764000000015', 'StandFirm1764000000016', 'Jobs1764000000017', 'Words1764000000018', 'EveryDay1764000000019', 'RollUp1764000000020', 'Bom1764000000021', 'Build1764000000022', 'Variants1764000000023', 'Templates1764000000024', 'MarkUp1764000000025', 'Scenes1764000000026', 'Lifecycles1764000000027', 'Signatures1764000000028', 'CheckSheets1764000000029', 'Changes1764000000030', 'Mail1764000000031', 'Webhooks1764000000032', 'Reminders1764000000033', 'IssuedFiles1764000000034', 'CheckPeople1764000000035', 'RecipeLifecycles1764000000036', 'Effectivity1764000000037', 'StepConsequences1764000000038', 'SiteZone1764000000039', 'OrdersTakeEffect1764000000040', 'EffectivityFollows1764000000041', 'SignedAgain1764000000042', 'IssuedContents1764000000043', 'Mentions1764000000044')`,
  );
  await runner.query(`UPDATE item SET file_name = '' WHERE number = 'S'`);
  await runner.query(`UPDATE item SET kind = 'part' WHERE number = 'T'`);
  await runner.release();
  await before.server.close();

  store = await TestStore.open({ databaseUrl: before.databaseUrl, blobFolder: before.blobFolder });
  const items: { number: string; kind: string; file: string }[] = await store.database.query(
    `SELECT number, kind, file_name AS file FROM item WHERE number IN ('S', 'T') ORDER BY number`,
  );
  expect(items).toEqual([
    { number: 'S', kind: 'part', file: 's.stp' },
    { number: 'T', kind: 'assembly', file: 't.stp' },
  ]);
  // Copies say where the bytes of their origin lay, for what these say of others is relative to that.
  const places: { number: string; place: string }[] = await store.database.query(
    `SELECT i.number, v.stored_place AS place FROM version v JOIN item i ON i.id = v.item_id WHERE i.number LIKE '%S' ORDER BY i.number`,
  );
  expect(places).toEqual([
    { number: 'S', place: '/old/parts' },
    { number: 'V-S', place: '/old/parts' },
  ]);
  const admin = { Authorization: `Bearer ${await store.tokenFor('root', 'administrator')}` };
  const verified = await (await store.call('GET', '/api/verify', undefined, admin)).json();
  expect(verified).toMatchObject({ whole: true, faults: [] });
  expect([...(await store.fetch('T')).files.keys()].sort()).toEqual(['moved/t.stp', 'old/parts/s.stp']);
  const proof = await store.json<{ faults: string[] }>('GET', '/api/derive/proof?item=V-T');
  expect(proof.faults).toEqual([]);
});

it('verify finds what cannot be repaired', async () => {
  const owner = await store.owner();
  await owner.query(`UPDATE item SET kind = 'part' WHERE number = 'T'`);
  await owner.query('ALTER TABLE link DISABLE TRIGGER USER');
  await owner.query(
    `INSERT INTO link (version_id, position, relation, target_item_id, target_version_id, quantity, carried, target_ref, target_id_in_file, target_name_in_file, occurrences)
     SELECT s.newest_version_id, 7, 'component', t.id, t.newest_version_id, 1, false, 9, '', '', '[]' FROM item s, item t WHERE s.number = 'S' AND t.number = 'T'`,
  );
  const admin = { Authorization: `Bearer ${await store.tokenFor('root', 'administrator')}` };
  const { faults } = (await (await store.call('GET', '/api/verify', undefined, admin)).json()) as {
    faults: string[];
  };
  expect(faults.join('\n')).toMatch(/T: violates: a model is an assembly/);
  expect(faults.join('\n')).toMatch(/S › T › S|T › S › T/);
});
