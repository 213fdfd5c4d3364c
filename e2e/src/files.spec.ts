/** Files of every kind, archives, properties, and who may see what. */
import { mkdirSync, mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import { strToU8, zipSync } from 'fflate';
import { address, expectAccessible, signIn } from './desk.js';

test('a drawing and a document are looked at, and lead to what they are about', async ({ page }) => {
  await signIn(page);
  await page.goto(address('/trace?item=FM-3402'));
  await page.getByLabel('Drawings and documents').getByRole('link', { name: 'FM-3402-D' }).click();
  await expect(page.getByRole('application', { name: /^Drawing FM-3402-D/ }).locator('canvas')).toBeVisible();
  await expect(page.getByRole('checkbox', { name: 'VISIBLE', exact: true })).toBeChecked({ timeout: 20_000 });
  await expect(page.getByRole('button', { name: /Say which edges stay sharp/ })).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('application', { name: /^Drawing FM-3402-D/ }).focus();
  for (const key of ['+', '+', 'ArrowLeft', '0']) await page.keyboard.press(key);
  await page.goto(address('/look?item=FM-1000-S'));
  await expect(page.getByRole('application', { name: /^Page 1 of FM-1000-S/ })).toBeVisible({
    timeout: 20_000,
  });
  await page.goto(address('/look?item=FM-1000-L'));
  await expect(page.getByRole('cell', { name: 'Radar sensor head' })).toBeVisible();
  await expectAccessible(page);
});

test('a ZIP comes in, corrected in bulk; what is found in a document leads to it', async ({ page }) => {
  await signIn(page, 'teodor');
  const file = join(mkdtempSync(join(tmpdir(), 'stem-trace-zip-')), 'Buoy.zip');
  writeFileSync(
    file,
    zipSync({
      'notes/mooring.txt': strToU8('The mooring chain wears at the thimble'),
      'notes/paint.csv': strToU8('layer,colour\n1,yellow\n'),
    }),
  );
  await page.goto(address('/intake'));
  const [chooser] = await Promise.all([
    page.waitForEvent('filechooser'),
    page.getByRole('button', { name: 'Choose files' }).click(),
  ]);
  await chooser.setFiles(file);
  await expect(page.getByRole('heading', { name: 'Review: /Buoy' })).toBeVisible();
  await page.getByLabel('Filter', { exact: true }).fill('mooring');
  await page.getByRole('button', { name: 'Replace …' }).click();
  await page.getByLabel('Find', { exact: true }).fill('mooring');
  await page.getByLabel('Replace by').fill('BUOY-1');
  await page.getByRole('button', { name: 'Replace', exact: true }).click();
  await expect(page.getByRole('textbox', { name: /^Number of .*mooring/ })).toHaveValue('BUOY-1');
  await page.getByLabel('Filter', { exact: true }).fill('');
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Bring in' }).click();
  await expect(page.getByRole('heading', { name: 'Brought in' })).toBeVisible();
  await page.goto(address('/find?words=thimble'));
  await expect(page.getByRole('row', { name: /BUOY-1/ })).toBeVisible();
});

test('a reference that was guessed is said in the review, and corrected there', async ({ page }) => {
  await signIn(page, 'teodor');
  const folder = join(mkdtempSync(join(tmpdir(), 'stem-trace-guess-')), 'Skid');
  mkdirSync(folder);
  writeFileSync(join(folder, 'skid.stp'), stepText('SKID-1', 'SKID-2', 'C:\\\\work\\\\body.stp'));
  writeFileSync(join(folder, 'pump.stp'), stepText('SKID-2'));
  writeFileSync(join(folder, 'motor.stp'), stepText('SKID-3'));
  await page.goto(address('/intake'));
  const [chooser] = await Promise.all([
    page.waitForEvent('filechooser'),
    page.getByRole('button', { name: 'Choose a folder' }).click(),
  ]);
  await chooser.setFiles(folder);
  await page.getByRole('button', { name: 'References of SKID-1: 1 guess' }).click();
  const dialog = page.getByRole('dialog', { name: 'References of SKID-1 to look at' });
  await expect(dialog.getByText('guess: product id')).toBeVisible();
  await expectAccessible(page);
  const meant = dialog.getByLabel(/^Item that .*body\.stp means$/);
  await expect(meant).toHaveValue('SKID-2');
  await meant.fill('SKID-3');
  await meant.press('Enter');
  await expect(dialog.getByText('your correction')).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Bring in' }).click();
  await expect(page.getByRole('heading', { name: 'Brought in' })).toBeVisible();
  await page.goto(address('/trace?item=SKID-1'));
  await expect(page.getByRole('option', { name: /SKID-3/ })).toBeVisible();
  await expect(page.getByRole('option', { name: /SKID-2/ })).toHaveCount(0);
});

test('properties are set on what one holds, with their units', async ({ page }) => {
  await signIn(page, 'teodor');
  await page.goto(address('/trace?item=FM-4401'));
  await page.getByRole('button', { name: 'Check out …' }).click();
  await page.getByRole('button', { name: 'Check out 1' }).click();
  await page.getByRole('button', { name: 'Properties …' }).click();
  await page.getByLabel('Class').selectOption('Sheet metal part');
  await page.getByLabel(/^Wall thickness, required/).fill('3 kg');
  await page.getByRole('button', { name: 'Save as new version' }).click();
  await expect(page.getByRole('alert')).toContainText('measured in mm');
  await page.getByLabel(/^Wall thickness, required/).fill('0.12 in');
  await page.getByLabel(/^Finish, required/).selectOption('Painted');
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Save as new version' }).click();
  const margin = page.getByLabel('About the item under the cursor');
  await expect(margin).toContainText('0.12 in');
  await expect(margin).toContainText('A/2');
  await page.getByRole('button', { name: 'Let go …' }).click();
  await page.getByRole('button', { name: 'Let go', exact: true }).click();
});

test('what somebody may not see is counted, and opens when it is granted', async ({ page, browser }) => {
  await signIn(page, 'admin');
  const context = await browser.newContext();
  const ines = await context.newPage();
  await signIn(ines);
  // In a place it is counted; by its words it is not, else one could find out what it is like.
  await ines.goto(address('/find?place=/Fenmark'));
  await expect(ines.getByText(/and \d+ not visible to you/)).toBeVisible();
  await ines.goto(address('/find?words=framework'));
  await expect(ines.getByRole('button', { name: /Counts/ })).toBeVisible();
  await expect(ines.getByText(/not visible to you/)).toBeHidden();

  await page.goto(address('/find?place=/Fenmark/Supplier terms'));
  await page.getByRole('button', { name: 'Access …' }).click();
  await expect(page.getByRole('cell', { name: 'every planner', exact: true })).toBeVisible();
  await expectAccessible(page);
  await page.getByLabel('Grant to').selectOption({ label: 'Ines Halvorsen, engineer' });
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('dialog')).toBeHidden();
  await expect(ines.getByRole('row', { name: /Framework/ })).toBeVisible();

  // Into the bin and back.
  await page.getByRole('button', { name: 'Into the bin' }).click();
  await expect(ines.getByRole('row', { name: /Framework/ })).toBeHidden();
  await page.getByRole('button', { name: 'Bin …' }).click();
  await page.getByRole('button', { name: 'Bring /Fenmark/Supplier terms back' }).click();
  await page.getByRole('button', { name: 'Close' }).click();
  await expect(ines.getByRole('row', { name: /Framework/ })).toBeVisible();
  await context.close();
});

test('an administrator looks after people, settings and the trail', async ({ page }) => {
  await signIn(page, 'admin');
  await page.goto(address('/settings/people'));
  await expect(page.getByRole('row', { name: /Ines Halvorsen/ })).toBeVisible();
  await expectAccessible(page);
  await page.goto(address('/settings/access'));
  await page.getByRole('button', { name: 'New token for a program …' }).click();
  await page.getByLabel('What it is for').fill('nightly export');
  await page.getByRole('button', { name: 'Make it' }).click();
  await expect(page.getByText(/shown this once: st_/)).toBeVisible();
  await expect(page.getByRole('row', { name: /nightly export/ })).toBeVisible();
  for (const [section, shown] of [
    ['properties', /Sheet metal part/],
    ['numbers', /Fasteners/],
    ['audit', /nightly export/],
  ] as const) {
    await page.goto(address(`/settings/${section}`));
    await expect(page.getByRole('row', { name: shown }).first()).toBeVisible();
    await expectAccessible(page);
  }
  await page.goto(address('/settings/title-block'));
  await expect(page.getByLabel('Field').first()).toHaveValue('DRAWING_NUMBER');
  await expectAccessible(page);
});

/** A product, and one that it uses from another file where that is given. */
function stepText(id: string, child = '', locator = ''): string {
  const product = (at: number, number: string): string =>
    `#${at}=PRODUCT('${number}','${number}','',());\n#${at + 1}=PRODUCT_DEFINITION_FORMATION('','',#${at});\n#${at + 2}=PRODUCT_DEFINITION('design','',#${at + 1},$);\n`;
  const use =
    child === ''
      ? ''
      : `${product(11, child)}#21=NEXT_ASSEMBLY_USAGE_OCCURRENCE('1','1','',#3,#13,$);\n#22=DOCUMENT_FILE('${locator}','','',$,'',$);\n#23=APPLIED_DOCUMENT_REFERENCE(#22,'',(#13));\n`;
  return `ISO-10303-21;\nHEADER;\nFILE_SCHEMA(('AUTOMOTIVE_DESIGN'));\nENDSEC;\nDATA;\n${product(1, id)}${use}ENDSEC;\nEND-ISO-10303-21;\n`;
}
