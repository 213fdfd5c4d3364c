/** Makes the pictures of the documentation from the demo data: `npm run pictures -w e2e`. */
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import { address, folderOfFiles, signIn } from './desk.js';

const FOLDER = join(import.meta.dirname, '../../docs/screenshots');

async function picture(page: Page, name: string): Promise<void> {
  await page.waitForLoadState('networkidle');
  await expect(page.getByText('Making the picture')).toBeHidden({ timeout: 45_000 });
  await page.mouse.move(0, 799);
  await page.screenshot({ path: join(FOLDER, `${name}.png`) });
}

test('find', async ({ page }) => {
  await signIn(page);
  await page.goto(address('/find?words=kind = part mass < 1 kg state = released&group=class'));
  await expect(page.getByRole('grid', { name: 'Items found' })).toBeFocused();
  await expect(page.getByRole('row', { name: /Fastener/ })).toBeVisible();
  for (let presses = 0; presses < 3; presses++) await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Space');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Space');
  await picture(page, 'find');
});

test('outline, map and effect', async ({ page }) => {
  await signIn(page);
  await page.goto(address('/trace?item=FM-1000&view=outline&level=3&lens=newest'));
  await expect(page.getByRole('treegrid', { name: 'Structure' })).toBeFocused();
  for (let presses = 0; presses < 7; presses++) await page.keyboard.press('ArrowDown');
  await page.goto(address('/trace?item=FM-2300&view=map&down=1&papers=yes'));
  await page.locator('.react-flow__node').first().waitFor();
  await picture(page, 'map');
  await page.goto(address('/trace?item=FM-3301&view=effect&lens=newest'));
  await page
    .getByRole('row', { name: /FM-2300/ })
    .first()
    .click();
  await picture(page, 'effect');
});

test('changes', async ({ page }) => {
  await signIn(page);
  await page.goto(address('/change'));
  await page.getByRole('row', { name: /CO-0002/ }).click();
  await page.getByRole('link', { name: 'Open in Change' }).waitFor();
  await picture(page, 'changes');
  await page.goto(address('/change?change=CO-0002&view=redline'));
  const drawing = page.getByRole('region', { name: 'FM-3302-D' });
  await drawing.scrollIntoViewIfNeeded();
  await drawing.getByText('They differ at').waitFor();
  await drawing.evaluate((element) => element.scrollIntoView({ block: 'end' }));
  await picture(page, 'redline');
});
test('trace', async ({ page }) => {
  await signIn(page);
  await page.goto(address('/trace?item=FM-2300'));
  await page.getByRole('option', { name: /FM-2900/ }).click();
  await page.getByRole('option', { name: /FM-9012/ }).click();
  await picture(page, 'trace');
});

test('compare', async ({ page }) => {
  await signIn(page);
  await page.goto(address('/compare?from=FM-1000@A/2&to=FM-1000@C/1'));
  await expect(page.getByRole('treegrid', { name: 'Differences' })).toBeFocused();
  await page.keyboard.press('ArrowDown');
  await picture(page, 'compare');
});

test('derive', async ({ page }) => {
  await signIn(page);
  await page.goto(address('/derive?item=FM-1000'));
  await page
    .getByRole('row', { name: /FM-2100/ })
    .getByRole('radio', { name: 'Share' })
    .click();
  // Further down than there is room for.
  await page
    .getByRole('row', { name: /FM-2100/ })
    .first()
    .hover();
  await page.mouse.wheel(0, 600);
  await page
    .getByRole('row', { name: /FM-2310 Logger board/ })
    .getByRole('radio', { name: 'Share' })
    .click();
  await page.mouse.wheel(0, -600);
  await page.getByRole('row', { name: /FM-3103/ }).click();
  await page.keyboard.press('o');
  await page.getByText('1 left out').waitFor();
  await page.getByText(/copied, /).waitFor();
  await page.getByRole('textbox', { name: 'New number for FM-1000' }).fill('FT-1000');
  await page.keyboard.press('Enter');
  await page.getByText('Understood:').waitFor();
  await picture(page, 'derive-plan');
  await page.keyboard.press('Enter');
  await page.getByRole('textbox', { name: 'New name for FM-1000' }).fill('Tide station');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Next: check' }).click();
  await page.getByRole('button', { name: 'Make the variant' }).click();
  await page.getByRole('heading', { name: /hold together/ }).waitFor();
  await picture(page, 'derive-proof');
});

test('recipe', async ({ page }) => {
  await signIn(page);
  await page.goto(address('/wish?recipe=FR-1000&view=rules'));
  await page.getByText('Nothing is wrong with it').waitFor();
  await picture(page, 'recipe');
});

test('intake', async ({ page }) => {
  await signIn(page);
  await page.goto(address('/intake'));
  const [chooser] = await Promise.all([
    page.waitForEvent('filechooser'),
    page.getByRole('button', { name: 'Choose a folder' }).click(),
  ]);
  await chooser.setFiles(folderOfFiles('Spaceship'));
  await page.getByRole('grid', { name: 'Review' }).waitFor();
  await picture(page, 'intake');
});

test('check sheet', async ({ page }) => {
  await signIn(page, 'maren');
  await page.goto(address('/check'));
  await page
    .getByRole('row', { name: /FM-2610/ })
    .first()
    .dblclick();
  await page
    .getByRole('button', { name: /FM-2610 / })
    .first()
    .click();
  await page.getByRole('link', { name: 'Both models side by side' }).waitFor();
  const model = page.getByRole('img', { name: /^FM-2610@.* in three dimensions/ });
  await expect(model.locator('canvas')).toBeVisible({ timeout: 60_000 });
  await picture(page, 'check');
});

test('lifecycle', async ({ page }) => {
  await signIn(page, 'admin');
  await page.goto(address('/settings/lifecycle'));
  await page.getByRole('button', { name: 'Change it …' }).click();
  await page.getByRole('button', { name: 'Change release' }).click();
  await page.getByLabel('Signatures', { exact: true }).selectOption('2');
  await page.getByText(/with 2 signatures/).waitFor();
  await picture(page, 'lifecycle');
});

test('look', async ({ page }) => {
  await signIn(page);
  await page.goto(address('/look?item=FM-2300'));
  const model = page.getByRole('img', { name: /^FM-2300@.* in three dimensions/ });
  await expect(model.locator('canvas')).toBeVisible({ timeout: 60_000 });
  await expect(model).toHaveAttribute('aria-busy', 'false', { timeout: 60_000 });
  await page.getByRole('row', { name: /FM-3301/ }).click();
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'What is near it' }).click();
  await expect(page.getByRole('grid', { name: 'What is near' })).toBeVisible({ timeout: 30_000 });
  await page.getByRole('combobox', { name: 'Section' }).selectOption('y');
  await expect(page.getByRole('button', { name: 'Outline as SVG' })).toBeVisible();
  await picture(page, 'look');
});

test('look-compare', async ({ page }) => {
  await signIn(page);
  await page.goto(address('/look?item=FM-1000&against=FM-5000'));
  await expect(page.getByRole('grid', { name: 'Differences in the picture' })).toBeVisible({
    timeout: 60_000,
  });
  await page.getByRole('radiogroup', { name: 'How they are shown' }).getByText('Side by side').click();
  await expect(
    page.getByRole('img', { name: /FM-5000 in three dimensions/ }).locator('canvas'),
  ).toBeVisible();
  await page.getByRole('button', { name: 'Fold the margin away' }).click();
  await picture(page, 'look-compare');
});

test('drawing', async ({ page }) => {
  await signIn(page, 'teodor');
  await page.goto(address('/look?item=FM-3302-D&over=A%2F1'));
  await expect(page.getByText('They differ at 8 places.')).toBeVisible({ timeout: 30_000 });
  await page.getByRole('radiogroup', { name: 'What it is' }).getByText('question').click();
  // Where the hinges were, and the field that says nothing.
  for (const [kind, words, from, to] of [
    ['Arrow', 'Are the hinges on the right side now?', [402, 432], [520, 372]],
    ['Cloud', 'Say what the surface is like', [664, 588], [910, 616]],
  ] as const) {
    await page.getByRole('button', { name: new RegExp(`^${kind}`) }).click();
    await page.mouse.move(from[0], from[1]);
    await page.mouse.down();
    await page.mouse.move(from[0] + 20, from[1] + 5);
    await page.mouse.move(to[0], to[1]);
    await page.mouse.up();
    await page.getByRole('textbox', { name: 'What it says' }).fill(words);
    await page.getByRole('button', { name: 'Keep (Enter)' }).click();
    await expect(page.getByRole('button', { name: new RegExp(words.slice(0, 20)) })).toBeVisible();
    await page.getByRole('radiogroup', { name: 'What it is' }).getByText('to change').click();
  }
  await page.getByRole('application').press('0');
  await page.getByRole('button', { name: 'Close' }).click();
  await picture(page, 'drawing');
});

test('stem and family', async ({ page }) => {
  await signIn(page);
  await page.goto(address('/trace?item=FM-1000&view=family&lens=newest'));
  const family = page.getByRole('treegrid', { name: 'Family' });
  await expect(family.getByRole('row').nth(3)).toBeVisible();
  await page.getByText('Where they differ').click();
  await family.getByRole('row').nth(2).click();
  await picture(page, 'family');
});

test('desk', async ({ page }) => {
  await signIn(page, 'maren');
  for (const [name, words] of [
    ['Released brackets', 'bracket state = released'],
    ['Bought, without a datasheet', 'class = Fastener without document'],
  ])
    await page.request.post(address('/api/saved'), {
      data: { kind: 'search', name, address: `/find?words=${encodeURIComponent(words ?? '')}` },
    });
  await page.request.post(address('/api/holds'), { data: { items: ['FM-4302'], reason: 'deeper bore' } });
  for (const item of ['FM-2300', 'FM-3402', 'FM-1000']) {
    await page.goto(address(`/trace?item=${item}`));
    await expect(page.getByRole('application')).toBeFocused();
  }
  await page.goto(address('/desk'));
  await expect(page.getByRole('row', { name: /Released brackets/ })).toBeVisible();
  await picture(page, 'desk');
});

test('build', async ({ page }) => {
  await signIn(page, 'pavo');
  await page.request.post(address('/api/revise'), { data: { items: ['FB-1000'], reason: 'vent plug' } });
  await page.goto(address('/build?bill=FB-1000'));
  const sheet = page.getByRole('treegrid', { name: 'Rows of the bill' });
  await expect(sheet.getByRole('row', { name: /FM-2100/ })).toBeVisible();
  await sheet.focus();
  await page.keyboard.press('End');
  await picture(page, 'build');
});
