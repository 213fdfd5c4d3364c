/** The same screens at three widths: nothing scrolls sideways, and the margin can be folded away and opened. */
import { expect, test, type Page } from '@playwright/test';
import { address, expectAccessible, signIn } from './desk.js';

const SCREENS = [
  '/desk',
  '/find',
  '/find?place=/Fenmark',
  '/trace?item=FM-1000',
  '/trace?item=FM-1000&view=outline',
  '/trace?item=FM-2300&view=bill',
  '/trace?item=FM-3402&view=effect',
  '/trace?item=FM-1000&view=stem',
  '/trace?item=FM-1000&view=family',
  '/compare?from=FM-1000@A/1&to=FM-1000@C/1',
  '/compare?from=FM-1000@C/1&to=FM-5000&base=lineage',
  '/derive?item=FM-2300',
  '/wish',
  '/wish?recipe=FR-1000',
  '/wish?recipe=FR-1000&view=sheets',
  '/wish?recipe=FR-1000&view=rules',
  '/build',
  '/build?bill=FB-1000',
  '/build?bill=FB-1000&show=releases',
  '/work',
  '/check',
  '/intake',
  '/history?item=FM-1000',
  '/history?item=FM-1000&view=events',
  '/look?item=FM-3402',
  '/settings/you',
  '/settings/access',
];

const SETTLE_MS = 300;
const WIDTHS = [
  [768, 1024],
  [1280, 800],
  [1920, 1080],
] as const;

/** By how much the page and its sheet are too wide, and how many tables are. */
function overflow(page: Page): Promise<{ page: number; sheet: number; tables: number }> {
  return page.evaluate(() => {
    const sheet = document.querySelector('main');
    // A matrix has a column for each of what may be many, and keeps the first in sight.
    const tables = [...document.querySelectorAll(':is([role=grid], [role=treegrid]):not([data-matrix])')];
    return {
      page: document.documentElement.scrollWidth - document.documentElement.clientWidth,
      sheet: sheet ? sheet.scrollWidth - sheet.clientWidth : 0,
      tables: tables.filter((table) => table.scrollWidth > table.clientWidth).length,
    };
  });
}

test('no screen scrolls sideways at 768, 1280 and 1920', async ({ page }) => {
  await signIn(page);
  for (const screen of SCREENS) {
    await page.goto(address(screen));
    const content = page.locator('main :is(h1, [role=grid], [role=treegrid], [role=application], input)');
    await expect(content.first()).toBeVisible();
    for (const [width, height] of WIDTHS) {
      await page.setViewportSize({ width, height });
      // Not the layout of the width before.
      await page.waitForTimeout(SETTLE_MS);
      // What the window's width changes is drawn anew with the next frames.
      await expect
        .poll(() => overflow(page), `${screen} at ${width}`)
        .toEqual({ page: 0, sheet: 0, tables: 0 });
    }
  }
});

test('the margin is a sheet where there is no room beside the table', async ({ page }) => {
  await page.setViewportSize({ width: 768, height: 1024 });
  await signIn(page);
  await expect(page.getByRole('complementary')).toBeHidden();
  await page.getByRole('button', { name: 'Open the margin' }).click();
  await expect(page.getByRole('complementary')).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Fold the margin away' }).click();
  await expect(page.getByRole('complementary')).toBeHidden();
});
