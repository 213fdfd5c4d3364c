/** Places: looked through, made, moved, and what lies in them renamed. */
import { expect, test } from '@playwright/test';
import { address, expectAccessible, signIn } from './desk.js';

test('items and places are moved and renamed, and what is fetched follows', async ({ page }) => {
  await signIn(page, 'teodor');
  await page.getByRole('button', { name: 'Places' }).click();
  await page.getByRole('row', { name: /Shared assemblies/ }).click();
  await expect(page.getByRole('heading', { name: '4 items in /Fenmark/Shared assemblies' })).toBeVisible();
  await expectAccessible(page);

  await page.getByRole('button', { name: 'New …' }).click();
  await page.getByLabel('Path').fill('/Fenmark/Clamps');
  await page.getByRole('button', { name: 'Make it' }).click();
  await expect(page.getByRole('row', { name: /Clamps/ })).toBeVisible();

  // An item is moved and renamed from the margin.
  await page.goto(address('/trace?item=FM-3901'));
  await page.getByRole('button', { name: 'Move …' }).click();
  const place = page.getByRole('combobox', { name: 'Place', exact: true });
  // What does not exist is chosen only by saying that it is new.
  await place.fill('/Fenmark/Clmaps');
  await expect(page.getByText('No such place.')).toBeVisible();
  await place.fill('/Fenmark/../up');
  await page.getByRole('option', { name: 'New place /Fenmark/../up' }).click();
  await page.getByRole('button', { name: 'Move', exact: true }).click();
  await expect(page.getByRole('alert')).toContainText('without . and ..');
  await place.fill('/Fenmark/Clamps');
  await page.getByRole('option', { name: '/Fenmark/Clamps' }).click();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Move', exact: true }).click();
  await expect(page.getByLabel('About the item under the cursor')).toContainText('/Fenmark/Clamps');
  await page.getByRole('button', { name: 'Rename …' }).click();
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('Clamp shell');
  await page.getByLabel('File name, for whoever fetches it').fill('clamp shell.stp');
  await page.getByRole('button', { name: 'Rename the released item' }).click();
  await expect(page.getByLabel('Focus')).toContainText('Clamp shell');

  // Its drawing went along. A place is renamed with all that lies in it.
  await page.goto(address('/find?place=/Fenmark/Clamps'));
  await page.getByRole('button', { name: 'Move or rename …' }).click();
  await page.getByLabel(/^New path/).fill('/Fenmark/Mast clamps');
  await page.getByRole('button', { name: 'Move', exact: true }).click();
  await expect(page.getByRole('heading', { name: '2 items in /Fenmark/Mast clamps' })).toBeVisible();

  const archive = await page.request.get(address('/api/fetch?item=FM-2900'));
  expect((await archive.body()).toString('latin1')).toContain('Mast clamps/clamp shell.stp');
});

test('a part and an assembly stand in three dimensions', async ({ page }) => {
  await signIn(page);
  await page.goto(address('/trace?item=FM-3901'));
  await expect(
    page.getByRole('img', { name: 'FM-3901@A/1 in three dimensions' }).locator('canvas'),
  ).toBeVisible({ timeout: 30_000 });
  await page.goto(address('/trace?item=FM-2900'));
  await expect(
    page.getByRole('img', { name: 'FM-2900@A/1 in three dimensions' }).locator('canvas'),
  ).toBeVisible({ timeout: 30_000 });
  await expect(
    page.getByLabel('About the item under the cursor').getByText(/^\d[\d.]* × \d[\d.]* × \d[\d.]* mm$/),
  ).toBeVisible({ timeout: 30_000 });
  // What is under the cursor is looked at where it stands in what is traced.
  await page.keyboard.press('ArrowRight');
  await page.getByRole('link', { name: /^Look at it in FM-2900/ }).click();
  await expect(page).toHaveURL(/\/look\?item=FM-2900&select=FM-/);
  await expect(page.locator('[role=img][aria-busy=false] canvas')).toBeVisible({ timeout: 60_000 });
  await expect(page.getByRole('button', { name: 'Hide (H)' })).toBeEnabled();
  await page.goto(address('/look?item=FM-2900&select=FM-1000'));
  await expect(page.getByText('FM-1000 is not in FM-2900@A/1 under this lens')).toBeVisible();
});

test('the history of an item is a line and a table, from which versions are compared', async ({ page }) => {
  await signIn(page);
  await page.goto(address('/trace?item=FM-1000'));
  await page.getByRole('link', { name: 'History' }).click();
  await expect(page.getByRole('grid', { name: 'Versions' })).toBeFocused();
  await page.getByRole('button', { name: 'A/2', exact: true }).click();
  await expect(page.getByRole('row', { name: /Arm 200 mm longer/ })).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Compare with the previous version' }).click();
  await expect(page.getByRole('heading', { name: /^FM-1000 from A\/1 to A\/2: / })).toBeVisible();
});
