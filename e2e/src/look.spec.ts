/** Looking at an assembly in three dimensions: picked, hidden, cut, measured against what is known, and what is near. */
import { readFile } from 'node:fs/promises';
import { expect, test, type Page } from '@playwright/test';
import { address, expectAccessible, signIn } from './desk.js';

const picture = (page: Page, item: string) =>
  page.getByRole('img', { name: new RegExp(`^${item}@.* in three dimensions`) });
const measured = (page: Page) => page.getByRole('status', { name: 'Measured' });

async function look(page: Page, item: string): Promise<void> {
  await page.goto(address(`/look?item=${item}`));
  await expect(picture(page, item).locator('canvas')).toBeVisible({ timeout: 60_000 });
}

test('a part says what was clicked at, and an assembly what is near, cut and hidden', async ({ page }) => {
  await signIn(page);
  // A tube of 76.1 mm with a wall of 3.2 mm, 3 m long.
  await look(page, 'FM-3101');
  await expect(measured(page)).toHaveText('box 76.1 × 76.1 × 3000 mm');
  await picture(page, 'FM-3101').click();
  await expect(measured(page)).toContainText('FM-3101: cylinder ⌀ ≈ 76.1 mm (± 0.001 mm)');
  await expectAccessible(page);

  await look(page, 'FM-2300');
  const uses = page.getByRole('treegrid', { name: 'Uses in the picture' });
  const rails = uses.getByRole('row', { name: /FM-3303/ });
  await expect(rails).toHaveCount(2);
  await rails.first().click();
  // By keys alone: Enter selects, H hides, A shows all again, I leaves it alone.
  await page.keyboard.press('Enter');
  await expect(measured(page)).toContainText('box ');
  await page.keyboard.press('h');
  await expect(page.getByRole('checkbox', { name: 'Show FM-3303' }).first()).not.toBeChecked();
  await page.keyboard.press('a');
  await expect(page.getByRole('checkbox', { name: 'Show FM-3303' }).first()).toBeChecked();
  await page.getByLabel('Distance in mm').fill('2');
  await page.getByRole('button', { name: 'What is near it' }).click();
  const near = page.getByRole('grid', { name: 'What is near' });
  await expect(near.getByRole('row', { name: /FM-3301 .*(touches|overlaps|near)/ }).first()).toBeVisible({
    timeout: 30_000,
  });
  await expectAccessible(page);

  await page.getByRole('radiogroup', { name: 'Section' }).getByText('Z', { exact: true }).click();
  await expect(page.getByRole('slider', { name: /^Place of the section along z/ })).toBeVisible();
  const [saved] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Outline as SVG' }).click(),
  ]);
  const svg = await readFile(await saved.path(), 'utf8');
  expect(svg).toMatch(/^<\?xml .*<svg /s);
  expect(svg.match(/<path /g)?.length).toBeGreaterThan(3);
});
