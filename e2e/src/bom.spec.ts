/** BOMs: what an item is made of as a list, and lists from outside beside it. */
import { mkdtempSync, writeFileSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import { address, expectAccessible, signIn } from './desk.js';

test('the BOM of an assembly is listed, numbered, saved, and taken away', async ({ page }) => {
  await signIn(page);
  // The board's designators come from its file.
  await page.goto(address('/trace?item=FM-2310&view=bill'));
  const bill = page.getByRole('treegrid', { name: 'Bill of materials' });
  await expect(bill.getByRole('row', { name: /FM-9621/ })).toContainText('J1–J5');
  await expectAccessible(page);
  // What may be used instead is said beside the row, and approved by somebody else's right.
  await bill.getByRole('row', { name: /FM-9621/ }).click();
  await page.getByRole('button', { name: 'Alternates …' }).click();
  const instead = page.getByRole('dialog', { name: 'Alternates of FM-9621' });
  await instead.getByRole('combobox', { name: 'Other item' }).fill('FM-9622');
  await page.getByRole('option', { name: /FM-9622/ }).click();
  await expectAccessible(page);
  await instead.getByRole('button', { name: 'Add' }).click();
  await expect(instead).toBeHidden();
  await page.getByRole('button', { name: 'Alternates …' }).click();
  // Away from the field, whose suggestions cover the rest.
  await page.keyboard.press('Tab');
  await expect(instead.getByRole('listitem')).toContainText(/FM-9622.*anywhere · not approved yet/);
  await instead.getByRole('button', { name: 'Remove FM-9622' }).click();
  await expect(instead).toContainText('No alternates yet.');
  await page.keyboard.press('Escape');

  await page.getByText('Parts only').click();
  await expect(bill.getByRole('row', { name: /FM-9606/ })).toContainText('8');

  await page.goto(address('/trace?item=FM-2300&view=bill'));
  await page.getByRole('button', { name: 'Edit rows' }).click();
  await page.getByRole('button', { name: 'Number the rows' }).click();
  await expect(page.getByText('10 rows are changed and not saved.')).toBeVisible();
  const quantity = page.getByLabel('Quantity of FM-3302');
  await quantity.fill('some');
  await quantity.press('Enter');
  await page.getByRole('button', { name: 'Save as a version' }).click();
  await expect(page.getByText(/FM-3302: “some” is no amount/)).toBeVisible();
  await quantity.fill('2');
  await quantity.press('Enter');
  await expectAccessible(page);
  // What is only pointed at never counts; the dialog knows how that is written.
  await bill.getByRole('row', { name: /FM-3301/ }).click();
  await page.getByRole('button', { name: 'Quantity in full …' }).click();
  await page.getByLabel('It is').selectOption('reference');
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Take it' }).click();
  await expect(page.getByLabel('Quantity of FM-3301')).toHaveValue('1 reference');
  await page.getByRole('button', { name: 'Save as a version' }).click();
  await expect(page.getByRole('button', { name: 'Edit rows' })).toBeVisible();
  await expect(
    bill
      .getByRole('row', { name: /FM-3302/ })
      .getByRole('gridcell')
      .first(),
  ).toHaveText('2');

  await page.getByRole('button', { name: 'Export' }).click();
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('menuitem', { name: 'Table (CSV)' }).click(),
  ]);
  expect(download.suggestedFilename()).toBe('FM-2300 C-2.csv');
  expect(await readFile(await download.path(), 'utf8')).toContain('FM-3302');
});

test('from when on a row counts is said beside the version, and looked at by a lens of its own', async ({
  page,
}) => {
  // What is released is said of by who may release.
  await signIn(page, 'maren');
  const bill = page.getByRole('treegrid', { name: 'Bill of materials' });
  await page.goto(address('/trace?item=FM-2310&view=bill'));
  await bill.getByRole('row', { name: /FM-9621/ }).click();
  await page.getByRole('button', { name: 'When it counts …' }).click();
  const counts = page.getByRole('dialog', { name: 'When FM-9621 counts in FM-2310' });
  await counts.getByLabel('Planned').fill('soon');
  await counts.getByRole('button', { name: 'Save' }).click();
  await expect(counts).toContainText('“soon” is no range');
  await expectAccessible(page);
  await counts.getByLabel('Planned').fill('FM-2310 from 100');
  await counts.getByRole('button', { name: 'Save' }).click();
  await expect(counts).toBeHidden();
  await expect(bill.getByRole('row', { name: /FM-9621/ })).toContainText('FM-2310 from 100');
  await page.getByText('Effective on').click();
  await page.getByLabel('Effective on', { exact: true }).selectOption('serial no.');
  await expect(bill.getByRole('row', { name: /FM-9620/ })).toBeVisible();
  await expect(bill.getByRole('row', { name: /FM-9621/ })).toBeHidden();
  await page.getByLabel('Serial number', { exact: true }).fill('100');
  await page.getByLabel('Serial number', { exact: true }).press('Enter');
  await expect(bill.getByRole('row', { name: /FM-9621/ })).toBeVisible();
  await expectAccessible(page);
});

test('a supplier’s list is compared with the store, its columns mapped, and two rows paired by hand', async ({
  page,
}) => {
  await signIn(page);
  const file = join(mkdtempSync(join(tmpdir(), 'stem-trace-list-')), 'supplier.csv');
  writeFileSync(
    file,
    'Pos;Artikel-Nr.;Bezeichnung;Menge\n1;FM-3301;Body;1\n2;FM-3302;Door;1\n3;FM-9101;Gland;5,0\n4;DRY-1;Desiccant;1\n',
  );
  await page.goto(address('/compare?from=FM-2300@B/1'));
  const [chooser] = await Promise.all([
    page.waitForEvent('filechooser'),
    page.getByRole('button', { name: 'To: a file' }).click(),
  ]);
  await chooser.setFiles(file);
  const columns = page.getByRole('dialog', { name: 'Columns of supplier.csv' });
  await expect(columns.getByLabel('Column 2 is')).toHaveValue('number');
  await expect(columns.getByText(/4\s*rows, 1 number that the store does not know/)).toBeVisible();
  await expectAccessible(page);
  await columns.getByRole('button', { name: 'Compare' }).click();
  await expect(
    page.getByRole('heading', {
      name: /^From FM-2300 B\/1 to supplier\.csv: 1 added, .* only first levels are compared\.$/,
    }),
  ).toBeVisible();
  const table = page.getByRole('treegrid', { name: 'Differences' });
  await expect(table.getByRole('row', { name: /FM-9101/ })).toContainText(/quantity \d → 5/);

  // By hand, and in the address.
  await table.getByRole('row', { name: /DRY-1/ }).click();
  await table.press('b');
  await table.getByRole('row', { name: /FM-3303/ }).click();
  await table.press('b');
  await expect(table.getByRole('row', { name: /DRY-1/ })).toContainText('paired by hand');
  expect(new URL(page.url()).searchParams.get('hand')).toContain('DRY-1');

  // From the other side everything is the other way round.
  await page.getByRole('button', { name: 'Swap sides' }).click();
  await expect(page.getByRole('heading', { name: /^From supplier\.csv to FM-2300 B\/1: / })).toBeVisible();
  await expect(table.getByRole('row', { name: /FM-9101/ })).toContainText(/quantity 5 → \d/);

  // An offer that was brought into the store is compared as it lies there, whatever its columns are called.
  const offer = 'Offer 4711 Brackwater Fixings';
  await page.goto(address(`/compare?from=FM-2900&to=${encodeURIComponent(offer)}`));
  await page.getByRole('button', { name: 'Compare its rows' }).click();
  await expect(table.getByRole('row', { name: /FM-9002/ })).toContainText('quantity 2 → 20');
  await expect(table.getByRole('row', { name: /added.*Anti-seize paste/ })).toBeVisible();
});

test('a variant and its origin stand beside what both come from', async ({ page }) => {
  await signIn(page);
  await page.goto(address('/compare?from=FM-1000@C/1&to=FM-5000'));
  await page.getByText('With the common origin').click();
  await expect(page.getByRole('heading', { name: /^Since FM-1000 C\/1: / })).toBeVisible();
  const three = page.getByRole('treegrid', { name: 'Three sides' });
  await expect(three.getByRole('row', { name: /FM-2200/ })).toContainText('was FM-2200');
  await expectAccessible(page);
});

test('a stem says what drifted, a family what variants have in common, and a plan is decided by a search', async ({
  page,
}) => {
  await signIn(page);
  await page.goto(address('/trace?item=FM-5000&view=stem'));
  const stem = page.getByRole('treegrid', { name: 'Stem' });
  await expect(stem.getByRole('row', { name: /FM-1000.*River/ })).toBeVisible();
  await stem.getByRole('row', { name: /FM-5000.*Snow/ }).click();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'What both changed' }).click();
  await expect(page.getByRole('heading', { name: /^Since FM-1000 / })).toBeVisible();
  await page.goBack();
  await page.getByRole('button', { name: 'Family' }).click();
  const family = page.getByRole('treegrid', { name: 'Family' });
  await expect(
    page.getByText(/^\d+ variants of FM-1000\. In common: \d+ of \d+ parts, \d+ % of the mass/),
  ).toBeVisible();
  await expectAccessible(page);
  await page.getByText('Could be one part').click();
  await expect(family.getByRole('img', { name: 'another version' }).first()).toBeVisible();

  // Of the plan, what a search finds is decided at once, and taken back.
  await page.goto(address('/derive?item=FM-2300'));
  const says = page.getByText(/ copied, /);
  const before = await says.textContent();
  await page.getByRole('textbox', { name: 'Lines that fit' }).fill('FM-33');
  await page.getByRole('button', { name: 'Share them' }).click();
  await expect(says).not.toHaveText(before ?? '');
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(says).toHaveText(before ?? '');
});
