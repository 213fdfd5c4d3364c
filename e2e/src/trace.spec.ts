/** Trace in all its views, with the keyboard, and as a screen reader is told of it. */
import { readFile } from 'node:fs/promises';
import { expect, test } from '@playwright/test';
import { address, expectAccessible, signIn } from './desk.js';

test('the outline is a tree table for screen readers and for the keyboard', async ({ page }) => {
  await signIn(page);
  await page.goto(address('/trace?item=FM-2300&view=outline&lens=newest'));
  const tree = page.getByRole('treegrid', { name: 'Structure' });
  await expect(tree).toBeFocused();
  const root = tree.getByRole('row', { name: /FM-2300/ });
  await expect(root).toHaveAttribute('aria-level', '1');
  await expect(root).toHaveAttribute('aria-expanded', 'true');
  const clamp = tree.getByRole('row', { name: /FM-2900/ });
  await expect(clamp).toHaveAttribute('aria-level', '2');
  await expect(clamp).toHaveAttribute('aria-expanded', 'false');
  // A part has nothing to open, and says nothing about it.
  const body = tree.getByRole('row', { name: /FM-3301/ });
  expect(await body.getAttribute('aria-expanded')).toBeNull();
  await expect(tree.getByRole('columnheader', { name: 'Mass, kg' })).toBeVisible();
  await expectAccessible(page);

  // Down to the clamp, open it, into it, and back out.
  for (let presses = 0; presses < 30; presses++) {
    if ((await page.locator(`#${await active(page)}`).textContent())?.includes('FM-2900')) break;
    await page.keyboard.press('ArrowDown');
  }
  await page.keyboard.press('ArrowRight');
  await expect(clamp).toHaveAttribute('aria-expanded', 'true');
  await page.keyboard.press('ArrowRight');
  await expect(page.locator(`#${await active(page)}`)).toHaveAttribute('aria-level', '3');
  await page.keyboard.press('ArrowLeft');
  await page.keyboard.press('ArrowLeft');
  await expect(clamp).toHaveAttribute('aria-expanded', 'false');

  // Opened where it says something, however deep.
  await page.getByLabel('Expand matches').fill('resistor');
  await page.keyboard.press('Enter');
  await expect(tree.getByRole('row', { name: /Resistor/ }).first()).toHaveAttribute('aria-level', '3');
  await expect(page.locator(`#${await active(page)}`)).toContainText('Resistor');
  const first = await active(page);
  await page.keyboard.press('Enter');
  await expect(tree).not.toHaveAttribute('aria-activedescendant', first.replaceAll('\\', ''));
  await expect(page.locator(`#${await active(page)}`)).toContainText('Resistor');
  await page.context().grantPermissions(['clipboard-read', 'clipboard-write']);
  await page.getByRole('button', { name: 'Copy as a table' }).click();
  const copied = (await page.evaluate(() => navigator.clipboard.readText())).split('\n');
  expect(copied[0]?.split('\t').slice(0, 4)).toEqual(['Level', 'Number', 'Name', '×']);
  expect(copied[1]?.split('\t').slice(0, 2)).toEqual(['0', 'FM-2300']);
});

async function active(page: import('@playwright/test').Page): Promise<string> {
  const id = await page.getByRole('treegrid', { name: 'Structure' }).getAttribute('aria-activedescendant');
  return (id ?? '').replaceAll(':', '\\:');
}

test('views change by a key and keep the focus; chains multiply quantities', async ({ page }) => {
  await signIn(page);
  await page.goto(address('/trace?item=FM-9002&lens=newest'));
  await expect(page.getByRole('application')).toBeFocused();
  await page.keyboard.press('v');
  await expect(page.getByRole('treegrid', { name: 'Structure' })).toBeVisible();
  await page.keyboard.press('v');
  await expect(page.getByRole('treegrid', { name: 'Bill of materials' })).toBeVisible();
  await page.keyboard.press('v');
  await expect(page).toHaveURL(/view=map/);
  await page.keyboard.press('v');
  await expect(page).toHaveURL(/view=chains/);
  await expect(page).toHaveURL(/lens=newest/);
  await page
    .getByRole('row', { name: /FM-1000/ })
    .first()
    .click();
  await expect(page.getByText(/FM-1000 holds \d+ over \d+ chains/)).toBeVisible();
  const chains = page.getByRole('grid', { name: 'Chains' });
  await expect(chains.getByRole('row', { name: /FM-1000 › FM-2200 ×1 › FM-9002 ×4/ })).toBeVisible();
  await expectAccessible(page);
  const tops = await page.request.get(address('/api/used?item=FM-9002&tops=true&lens=newest'));
  const { rows } = (await tops.json()) as { rows: { number: string; total: number }[] };
  const total = rows.find(({ number }) => number === 'FM-1000')?.total;
  await expect(page.getByText(`FM-1000 holds ${total} over`)).toBeVisible();
});

test('the map draws what hangs together, folds, moves its centre and is taken away', async ({ page }) => {
  await signIn(page);
  await page.goto(address('/trace?item=FM-2300&view=map'));
  const plate = (number: string) =>
    page.locator('.react-flow__node').filter({ has: page.getByText(number, { exact: true }) });
  await expect(plate('FM-2300')).toBeVisible({ timeout: 20_000 });
  await expect(plate('FM-1000')).toBeVisible();
  await expect(page.getByRole('img', { name: 'Overview' })).toBeVisible();
  await expectAccessible(page);
  const count = async (): Promise<number> =>
    Number(/^(\d+) items/.exec((await page.getByRole('status').textContent()) ?? '')?.[1]);
  const before = await count();
  await page.getByRole('main').getByText('Drawings and documents').click();
  await expect.poll(count).toBeGreaterThan(before);
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'SVG' }).click(),
  ]);
  const svg = await readFile(await download.path(), 'utf8');
  expect(svg).toMatch(/^<svg .*FM-2300.*<\/svg>$/s);
  const [png] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'PNG' }).click(),
  ]);
  expect((await readFile(await png.path())).subarray(1, 4).toString()).toBe('PNG');
  // From the keyboard: a plate is focused, folded, and made the new centre.
  await plate('FM-1000').focus();
  await page.keyboard.press('f');
  await plate('FM-1000').focus();
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/item=FM-1000/);
  await expect(page).toHaveURL(/view=map/);
});

test('the effect of a change is a table to work down', async ({ page }) => {
  await signIn(page, 'teodor');
  await page.goto(address('/trace?item=FM-3304&view=effect&lens=newest'));
  const table = page.getByRole('grid', { name: 'What is touched' });
  await expect(table.getByRole('row', { name: /product.*FM-1000/ })).toBeVisible();
  await expect(table.getByRole('row', { name: /assembly.*FM-2300/ })).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('button', { name: /^\d+ drawings?$/ }).click();
  await expect(table.getByRole('row', { name: /^drawing/ })).toHaveCount(0);
  await page.getByText('1 level').click();
  await expect(table.getByRole('row', { name: /product/ })).toHaveCount(0);
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'CSV' }).click(),
  ]);
  expect(await readFile(await download.path(), 'utf8')).toContain('FM-2300');
  await table.focus();
  await page.keyboard.press('Space');
  await expect(page.getByRole('region', { name: 'Tray' }).or(page.getByLabel('Tray'))).toBeVisible();
});

test('a column filters and pages what uses a part', async ({ page }) => {
  await signIn(page);
  await page.goto(address('/trace?item=FM-9014&lens=newest'));
  const filter = page.getByLabel(/^Filter what uses FM-9014/);
  if (await filter.isVisible()) {
    await filter.fill('mast');
    await expect(page.getByRole('option', { name: /Mast/ }).first()).toBeVisible();
  }
  await expect(page.getByText('uses FM-9014')).toBeVisible();
});

test('one configuration is looked at, in every view, and kept in the address', async ({ page }) => {
  await signIn(page);
  await page.goto(address('/trace?item=FM-1100&view=outline'));
  const tree = page.getByRole('treegrid', { name: 'Structure' });
  await expect(tree.getByRole('row', { name: /FM-2400/ })).toBeVisible();
  await page.getByLabel('Configuration').selectOption('Pier powered');
  await expect(tree.getByRole('row', { name: /FM-2400/ })).toHaveCount(0);
  await expect(tree.getByRole('row', { name: /FM-2640/ })).toBeVisible();
  await expect(page).toHaveURL(/lens=recorded(\+|%20)in(\+|%20)Pier(\+|%20)powered/);
  // The lens moves on in it.
  await tree.focus();
  await page.keyboard.press('l');
  await expect(page).toHaveURL(/lens=newest(\+|%20)in(\+|%20)Pier/);
  await page.goto(address('/trace?item=FM-1100'));
  const made = page.getByRole('listbox', { name: 'in FM-1100' });
  await expect(made.getByRole('option', { name: /FM-2640/ })).toContainText('only Pier powered');
  await expect(made.getByRole('option', { name: /FM-2630/ })).toContainText('only in 2');
  await expectAccessible(page);

  // Of a part: its chains say in which configurations they are, and another configuration has none of them.
  await page.goto(address('/trace?item=FM-2400&view=chains'));
  await page.getByRole('row', { name: /FM-1100/ }).click();
  await expect(page.getByRole('grid', { name: 'Chains' }).getByRole('row').nth(1)).toContainText(
    'only Sun powered, Without datum',
  );
  await page.getByLabel('Configuration').selectOption('Pier powered');
  await expect(page.getByRole('row', { name: /FM-1000/ }).first()).toBeVisible();
  await expect(page.getByRole('row', { name: /FM-1100/ })).toHaveCount(0);
});
