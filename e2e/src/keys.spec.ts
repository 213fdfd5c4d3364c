/** What is done between two meetings, by somebody who has no mouse. */
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import { address, dropFile, expectAccessible, signIn, tabTo } from './desk.js';

const ITEM = 'FM-4303';

/** Tab to it, and press it. */
async function press(page: Page, name: RegExp | string): Promise<void> {
  await tabTo(page, name);
  await page.keyboard.press('Enter');
}

async function goTo(page: Page, item: string): Promise<void> {
  await page.keyboard.press('/');
  await page.keyboard.press('Control+a');
  await page.keyboard.type(item);
  await page.keyboard.press('Enter');
  await expect(page.getByRole('grid', { name: 'Items found' })).toBeFocused();
  await expect(page.getByLabel('About the item under the cursor')).toContainText(item);
}

test('an item is held with a reason, renamed, moved, sent for checking and taken back', async ({ page }) => {
  await signIn(page);
  await goTo(page, ITEM);
  const margin = page.getByLabel('About the item under the cursor');

  await press(page, 'Check out …');
  await tabTo(page, 'Reason (visible to everyone)');
  await page.keyboard.type('thread M6');
  await press(page, 'Check out 1');
  await expect(margin).toContainText('Held by you');
  await expect(margin).toContainText('thread M6');
  await press(page, 'Let go …');
  await press(page, 'Let go');
  await press(page, 'Undo');
  await expect(margin).toContainText('Held by you');
  await press(page, 'Let go …');
  await press(page, 'Let go');
  await expect(margin.getByRole('button', { name: 'Check out …' })).toBeVisible();

  await press(page, 'Rename …');
  await tabTo(page, 'Name');
  await page.keyboard.press('Control+a');
  await page.keyboard.type('Called by keyboard');
  await press(page, 'Rename');
  await expect(margin).toContainText('Called by keyboard');
  await press(page, 'Undo');
  await expect(margin).not.toContainText('Called by keyboard');

  await press(page, 'Ask for check …');
  await tabTo(page, 'Reason (visible to everyone)');
  await page.keyboard.type('first of the series');
  await press(page, 'Ask for check');
  await expect(margin).toContainText('in check');
  await press(page, 'Take back …');
  await press(page, 'Take back');
  await expect(margin).toContainText('draft');

  // What a dialog covered has the focus again when it is gone.
  await tabTo(page, 'Fetch files …');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('dialog', { name: `Fetch ${ITEM}` })).toBeVisible();
  await expectAccessible(page);
  await page.keyboard.press('Escape');
  await expect(page.getByRole('button', { name: 'Fetch files …' })).toBeFocused();
});

test('what happened, who waits and how things are shown are looked up by keys', async ({ page }) => {
  await signIn(page);
  await goTo(page, 'FM-2300');
  await page.keyboard.press('?');
  const keys = page.getByRole('dialog', { name: 'Keys' });
  await expect(keys.getByText('Back to the find box')).toBeVisible();
  await page.keyboard.press('Escape');

  await press(page, 'History');
  await expect(page.getByRole('heading', { name: /^History of FM-2300/ })).toBeVisible();
  // Focus begins in the table of versions; the choice stands before it.
  await expect(page.getByRole('grid', { name: 'Versions' })).toBeFocused();
  await page.keyboard.press('Tab');
  await tabTo(page, 'Versions');
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('grid', { name: 'What happened' })).toBeVisible();

  // The effect of a change, from the part to what uses it.
  await page.goto(address('/trace?item=FM-3402&view=effect'));
  await expect(page.getByRole('grid').first()).toBeFocused();
  await page.keyboard.press('ArrowDown');
  await expect(
    page.getByLabel('About the item under the cursor').getByRole('heading', { level: 1 }),
  ).toBeVisible();

  // Another heading sorts the outline, and structure order comes back.
  await page.goto(address('/trace?item=FM-2300&view=outline'));
  const outline = page.getByRole('treegrid', { name: 'Structure' });
  await expect(outline).toBeFocused();
  await page.getByRole('button', { name: /^Mass/ }).press('Enter');
  await expect(outline.getByRole('columnheader', { name: /^Mass/ })).toHaveAttribute(
    'aria-sort',
    'ascending',
  );
  await page.getByRole('button', { name: /^Mass/ }).press('Enter');
  await page.getByRole('button', { name: /^Mass/ }).press('Enter');
  await expect(outline.getByRole('columnheader', { name: /^Mass/ })).toHaveAttribute('aria-sort', 'none');
});

test('a file that is dropped beside everything opens a short form, and comes in', async ({ page }) => {
  await signIn(page);
  const file = await page.request.get(address('/api/file?item=FM-3304'));
  const path = join(mkdtempSync(join(tmpdir(), 'stem-trace-one-')), 'sun roof.stp');
  writeFileSync(path, (await file.text()).replaceAll('FM-3304', 'FM-3398'));
  await page.goto(address('/find?place=/Fenmark/River stage station'));
  await dropFile(page, path, page.getByRole('grid', { name: 'Items found' }));
  await expect(page.getByRole('dialog', { name: 'Bring in sun roof.stp' })).toBeVisible();
  await expectAccessible(page);
  await tabTo(page, 'Name (empty: from the file)');
  await page.keyboard.type('Sun roof, deeper');
  await tabTo(page, 'Comment');
  await page.keyboard.type('For the south coast');
  await press(page, 'Bring in');
  await expect(page.getByLabel('Focus')).toContainText('Sun roof, deeper');
  const item = (await (await page.request.get(address('/api/item?item=FM-3398'))).json()) as {
    place: string;
    versions: { comment: string }[];
  };
  expect(item.place).toBe('/Fenmark/River stage station');
  expect(item.versions[0]?.comment).toBe('For the south coast');
});
