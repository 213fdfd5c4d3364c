/** Finding: the language with its completion, counts, groups, columns, kept searches, likeness; with the keyboard alone. */
import { mkdtempSync, writeFileSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import { address, dropFile, expectAccessible, signIn } from './desk.js';

test('a search is written with completion, from the keyboard alone', async ({ page }) => {
  await signIn(page);
  await page.keyboard.press('/');
  const box = page.getByRole('combobox', { name: 'Find items or commands' });
  await expect(box).toBeFocused();
  await page.keyboard.type('bolt sta');
  await page.getByRole('option', { name: /^state/ }).waitFor();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await expect(box).toHaveValue('bolt state ');
  await page.keyboard.type('= ');
  await expect(page.getByRole('option', { name: 'in check' })).toBeVisible();
  await page.keyboard.type('released kind = part');
  await page.keyboard.press('Escape');
  await page.keyboard.press('Enter');
  await expect(
    page.getByRole('heading', { name: /^\d+ items with “bolt state = released kind = part”$/ }),
  ).toBeVisible();
  await expect(page.getByRole('row', { name: /Hexagon bolt M8×30/ })).toBeVisible();
  // One goes on in what was found, and from there back into the box.
  await expect(page.getByRole('grid', { name: 'Items found' })).toBeFocused();
  await page.keyboard.press('/');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('grid', { name: 'Items found' })).toBeFocused();

  // What cannot be read is marked, with what would be right.
  await page.goto(address('/find?words=mas > 3'));
  await expect(page.getByRole('heading', { name: 'No search yet' })).toBeVisible();
  await expect(page.getByRole('alert')).toContainText('There is no property ‘mas’'.replace(/[‘’]/g, "'"));
  await expect(page.getByRole('alert').locator('mark')).toHaveText('mas');
  await expect(page.getByRole('alert')).toContainText('Did you mean mass?');
  await expectAccessible(page);

  // A number that nobody has leads to those written like it.
  await page.goto(address('/find?words=FM-33011'));
  await expect(page.getByRole('link', { name: 'FM-3301', exact: true })).toBeVisible();

  // In Trace it is said once that nobody has it, and nothing is claimed of it.
  await page.goto(address('/trace?item=FM-33011'));
  await expect(page.getByText('There is no item FM-33011 in the store')).toHaveCount(1);
  await expect(page.getByText('Nothing uses it')).toHaveCount(0);
});

test('counts write filters into the search, rows come in groups, columns are chosen', async ({ page }) => {
  await signIn(page);
  await page.goto(address('/find?words=kind = part'));
  await page.getByRole('button', { name: /^Only Fastener, \d+/ }).click();
  await expect(page.getByRole('combobox', { name: 'Find items or commands' })).toHaveValue(
    'kind = part class = Fastener',
  );
  await expect(page.getByRole('heading', { name: /^22 items/ })).toBeVisible();
  await page.getByRole('button', { name: /^Remove the filter Fastener/ }).click();
  await page.getByLabel('Group by').selectOption('class');
  await expect(page.getByRole('row', { name: /^Cable entry 6$/ })).toBeVisible();
  await expectAccessible(page);

  await page.getByRole('button', { name: 'Columns' }).click();
  await page.getByRole('group', { name: 'Further columns' }).getByText('material').click();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Done' }).click();
  await page.getByRole('button', { name: 'material' }).click();
  await expect(page.getByRole('columnheader', { name: /material/ })).toHaveAttribute(
    'aria-sort',
    'ascending',
  );
  await page.reload();
  await expect(page.getByRole('columnheader', { name: /material/ })).toBeVisible();

  // Quantities count in whatever unit they are asked for.
  await page.goto(address('/find?words=mass = 800 g..900 g'));
  await expect(page.getByRole('row', { name: /FM-3302/ })).toBeVisible();

  await page.goto(address('/find?words=class = Fastener'));
  await page.getByRole('button', { name: 'Export' }).click();
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('menuitem', { name: 'CSV' }).click(),
  ]);
  const lines = (await readFile(await download.path(), 'utf8')).trim().split('\r\n');
  expect(lines.length).toBeGreaterThan(20);
  // The columns that are shown, in their order.
  expect(lines[0]).toContain('State,Number,Name,Version,Held by,Changed,material');
});

test('searches and views are kept, shared and opened by a colleague', async ({ page, browser }) => {
  await signIn(page);
  await page.goto(address('/find?words=state = draft kind = assembly'));
  await page.getByRole('button', { name: 'Keep this search' }).click();
  await page.getByLabel('Name').fill('Assemblies in work');
  await page.getByText('Colleagues see it too').click();
  await page.getByText('Tell me when its count changes').click();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await page.goto(address('/trace?item=FM-2300&view=outline&level=3'));
  await page.getByRole('button', { name: 'Keep this view' }).click();
  await page.getByLabel('Name').fill('Enclosure, three levels');
  await page.getByText('Colleagues see it too').click();
  await page.getByRole('button', { name: 'Keep', exact: true }).click();

  const other = await (await browser.newContext()).newPage();
  await signIn(other, 'teodor');
  const kept = other.getByRole('navigation', { name: 'Kept searches and views' });
  await expect(kept.getByRole('link', { name: /^\d+ Assemblies in work/ })).toBeVisible();
  await kept.getByRole('link', { name: /Enclosure, three levels/ }).click();
  await expect(other.getByRole('treegrid', { name: 'Structure' })).toBeVisible();
  await expect(other).toHaveURL(/view=outline&level=3/);
  await other.close();

  await page.goto(address('/find'));
  await page.getByRole('button', { name: 'Forget Enclosure, three levels' }).click();
  await expect(page.getByRole('link', { name: /Enclosure, three levels/ })).toBeHidden();
});

test('designs of the same shape are found, and those like a file that is chosen or dropped', async ({
  page,
}) => {
  await signIn(page);
  await page.goto(address('/find?words=FM-9011'));
  await page.getByRole('button', { name: 'Designs like this' }).click();
  const found = page.getByRole('grid', { name: 'Designs like FM-9011' });
  await expect(found.getByRole('row', { name: /Washer/ }).first()).toBeVisible({ timeout: 30_000 });
  await expectAccessible(page);
  await page.getByText('by properties').click();
  await expect(found.getByRole('columnheader', { name: 'mass' })).toBeVisible();
  await expect(found.getByRole('row', { name: /Washer/ }).first()).toBeVisible();
  await page.getByRole('button', { name: 'Close' }).click();

  const file = await page.request.get(address('/api/file?item=FM-9012'));
  const [chooser] = await Promise.all([
    page.waitForEvent('filechooser'),
    page.getByRole('button', { name: 'Find by the shape of a file' }).click(),
  ]);
  await chooser.setFiles({
    name: 'washer from somewhere.stp',
    mimeType: 'application/octet-stream',
    buffer: await file.body(),
  });
  const like = page.getByRole('grid', { name: 'Designs like washer from somewhere.stp' });
  await expect(like.getByRole('row', { name: /FM-9012/ })).toBeVisible({ timeout: 30_000 });
  await page.getByRole('button', { name: 'Close' }).click();

  const path = join(mkdtempSync(join(tmpdir(), 'stem-trace-drop-')), 'dropped.stp');
  writeFileSync(path, await file.body());
  await dropFile(page, path, page.getByLabel('Find items or commands'));
  const dropped = page.getByRole('grid', { name: 'Designs like dropped.stp' });
  await expect(dropped.getByRole('row', { name: /FM-9012/ })).toBeVisible({ timeout: 30_000 });
});
