/** The whole story, once by mouse and once by keyboard alone: from a folder of files to a fetched variant. */
import { expect, test } from '@playwright/test';
import { address, expectAccessible, folderOfFiles, referencesOf, signIn, tabTo } from './desk.js';

test('by mouse', async ({ page }) => {
  await page.goto(address('/'));
  await expect(page.getByRole('heading', { name: 'Stem Trace' })).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('button', { name: /Ines Halvorsen/ }).click();

  // Bring in.
  await page.getByRole('link', { name: 'Intake' }).click();
  await page.getByLabel('Prefix for every number').fill('M-');
  await expectAccessible(page);
  const [chooser] = await Promise.all([
    page.waitForEvent('filechooser'),
    page.getByRole('button', { name: 'Choose a folder' }).click(),
  ]);
  await chooser.setFiles(folderOfFiles('Spaceship'));
  await expect(page.getByRole('heading', { name: 'Review: /Spaceship' })).toBeVisible();
  await expect(
    page.getByText('13 files: 13 new items, 13 new versions, 12 links, 0 gaps, 0 problems'),
  ).toBeVisible();
  await expectAccessible(page);
  await page.getByLabel('Name of M-S1_PE_TOP').fill('Spaceship');
  await page.getByLabel('Name of M-S1_PE_TOP').press('Enter');
  await page.getByLabel('Comment for all new versions').fill('As drawn');
  await page.getByRole('button', { name: 'Bring in', exact: true }).click();
  await expect(page.getByText('13 files: 13 new items, 13 new versions, 12 links.')).toBeVisible();

  // Find.
  await page.getByRole('combobox', { name: 'Find items or commands' }).fill('spaceship');
  await page.getByRole('combobox', { name: 'Find items or commands' }).press('Enter');
  await expect(page.getByRole('heading', { name: /items with “spaceship”/ })).toBeVisible();
  await expectAccessible(page);

  // Trace.
  await page.getByRole('row', { name: /M-S1_PE_TOP/ }).dblclick();
  await page.getByRole('option', { name: /M-TAIL_ASM/ }).click();
  await page.getByRole('option', { name: /M-TAIL_TURBINE/ }).click();
  await expect(page.getByLabel('Chain')).toHaveText(
    'M-S1_PE_TOP › M-TAIL_ASM×1 › M-TAIL_TURBINE×2= 2 per M-S1_PE_TOP',
  );
  await expect(page.getByLabel('About the item under the cursor')).toContainText('M-TAIL_TURBINE');
  await expectAccessible(page);
  await page.getByRole('option', { name: /M-TAIL_TURBINE/ }).dblclick();
  await expect(page.getByLabel('Focus')).toContainText('M-TAIL_TURBINE');
  await expect(page.getByRole('option', { name: /M-TAIL_ASM/ })).toBeVisible();

  // Compare two versions that the demo's history has.
  await page.goto(address('/compare?from=FM-1000@A/2&to=FM-1000@C/1'));
  await expect(
    page.getByRole('heading', {
      name: 'FM-1000 from A/2 to C/1: 2 added, 1 removed, 3 changed, 1 replaced.',
    }),
  ).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Swap sides' }).click();
  await expect(
    page.getByRole('heading', {
      name: 'FM-1000 from C/1 to A/2: 1 added, 2 removed, 3 changed, 1 replaced.',
    }),
  ).toBeVisible();
  await page.getByRole('radio', { name: 'Net totals' }).click();
  await expect(page.getByRole('row', { name: /FM-9101/ })).toContainText('×5');

  // Derive.
  await page.goto(address('/derive?item=M-S1_PE_TOP'));
  const body = page.getByRole('row', { name: /M-MAIN_BODY_BACK/ });
  await body.getByRole('radio', { name: 'Share' }).click();
  await expect(page.getByText('12 copied, 1 shared')).toBeVisible();
  await expectAccessible(page);
  // Names are proposed at once; one is edited, and the others follow.
  await expect(page.getByRole('group', { name: 'Rule 1' })).toContainText('“-2” is put at the end');
  await page.getByRole('button', { name: 'Remove rule 1' }).click();
  await expect(page.getByText('12 copies need numbers')).toBeVisible();
  await page.getByRole('textbox', { name: 'New number for M-S1_PE_TOP' }).fill('N-S1_PE_TOP');
  await page.keyboard.press('Enter');
  await expect(page.getByText('“M” at the start becomes “N”. Fits 12 lines.')).toBeVisible();
  await expectAccessible(page);
  await page.keyboard.press('Enter');
  await expect(page.getByText('copies need numbers')).toBeHidden();
  await page.getByRole('button', { name: 'Next: check' }).click();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Make the variant' }).click();
  await expect(
    page.getByRole('heading', { name: 'N-S1_PE_TOP is made, and its files hold together' }),
  ).toBeVisible();
  await expectAccessible(page);

  // Fetch, and read what was fetched.
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'Fetch the files' }).click(),
  ]);
  expect(download.suggestedFilename()).toBe('N-S1_PE_TOP A-1.zip');
  const references = await referencesOf(download);
  expect(references).toContain('N-MAINBODY_ASM.stp: N-MAINBODY_ASM uses M-MAIN_BODY_BACK');
  expect(references).toContain('N-TAIL_ASM.stp: N-TAIL_ASM uses N-TAIL_TURBINE');
  expect(references).toHaveLength(14);
});

test('by keyboard alone', async ({ page }) => {
  await page.goto(address('/'));
  await expect(page.getByRole('textbox', { name: 'Name' })).toBeVisible();
  await tabTo(page, 'Name');
  await page.keyboard.type('teodor');
  await page.keyboard.press('Tab');
  await page.keyboard.type('fenmark-teodor');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'Desk of Teodor Wick' })).toBeVisible();

  // Bring in: 8 is Intake.
  await page.keyboard.press('8');
  // Until the place has come, Tab would walk through the one before.
  await expect(page.getByLabel('Prefix for every number')).toBeVisible();
  await tabTo(page, 'Prefix for every number');
  await page.keyboard.type('K-');
  // Asked for well before the key: the browser takes a while to hand its dialog over.
  const chooser = page.waitForEvent('filechooser');
  await tabTo(page, 'Choose a folder');
  await page.keyboard.press('Enter');
  await (await chooser).setFiles(folderOfFiles('Keyboard ship'));
  await expect(page.getByRole('grid', { name: 'Review' })).toBeFocused();
  await tabTo(page, 'Comment for all new versions');
  await page.keyboard.type('By keyboard');
  await tabTo(page, 'Bring in');
  await page.keyboard.press('Enter');
  await expect(page.getByText('13 files: 13 new items, 13 new versions, 12 links.')).toBeVisible();

  // Find and Trace.
  await tabTo(page, 'Bring in more');
  await page.keyboard.press('/');
  await page.keyboard.type('K-S1_PE');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('grid', { name: 'Items found' })).toBeFocused();
  await expect(page.getByRole('row', { name: /K-S1_PE_TOP/ })).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('application')).toBeFocused();
  await expect(page.getByRole('option', { name: /K-FOOT_ASM/ })).toBeVisible();
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('End');
  await expect(page.getByRole('option', { name: /K-FOOT_FRONT/ })).toBeVisible();
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('ArrowDown');
  await expect(page.getByLabel('Chain')).toHaveText(
    'K-S1_PE_TOP › K-FOOT_ASM×2 › K-FOOT_FRONT×1= 2 per K-S1_PE_TOP',
  );
  await page.keyboard.press('Enter');
  await expect(page.getByLabel('Focus')).toContainText('K-FOOT_FRONT');
  await page.keyboard.press('Backspace');
  await expect(page.getByLabel('Focus')).toContainText('K-S1_PE_TOP');

  // The cursor is where it was left. Two items into the tray, and compare them.
  await page.keyboard.press('ArrowLeft');
  await page.keyboard.press('Space');
  await page.keyboard.press('ArrowUp');
  await page.keyboard.press('Space');
  await expect(page.getByLabel('Tray')).toContainText('2 picked');
  await tabTo(page, 'Compare the two');
  await page.keyboard.press('Enter');
  await expect(
    page.getByRole('heading', { name: /^From K-FOOT_ASM A\/1 to K-TAIL_ASM A\/1: / }),
  ).toBeVisible();

  // Derive.
  await page.keyboard.press('4');
  await expect(page.getByRole('combobox', { name: 'Derive from' })).toBeFocused();
  await page.keyboard.type('K-S1_PE_TOP');
  await page.keyboard.press('Enter');
  const plan = page.getByRole('treegrid', { name: /^What the variant shares and copies/ });
  await expect(plan).toBeFocused();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('s');
  await expect(page.getByText('12 copied, 1 shared')).toBeVisible();
  await page.keyboard.press('Home');
  await page.keyboard.press('e');
  await page.keyboard.type('Copy of K-S1_PE_TOP');
  await page.keyboard.press('Enter');
  await expect(page.getByText('“Copy of ” is put at the start. Fits 12 lines.')).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(plan).toBeFocused();
  await tabTo(page, 'Next: check');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: 'Make the variant' })).toBeVisible();
  await tabTo(page, 'Make the variant');
  await page.keyboard.press('Enter');
  await expect(
    page.getByRole('heading', { name: 'Copy of K-S1_PE_TOP is made, and its files hold together' }),
  ).toBeVisible();
  await tabTo(page, 'Fetch the files');
  const [download] = await Promise.all([page.waitForEvent('download'), page.keyboard.press('Enter')]);
  expect(await referencesOf(download)).toContain(
    'Copy of K-TAIL_ASM.stp: Copy of K-TAIL_ASM uses Copy of K-TAIL_TURBINE',
  );
});

test('an address opens the same view for a colleague', async ({ page, browser }) => {
  await signIn(page);
  await page.goto(address('/trace?item=FM-2300'));
  await page.getByRole('option', { name: /FM-2900/ }).click();
  const colleague = await browser.newPage();
  await signIn(colleague, 'maren');
  await colleague.goto(page.url());
  await expect(colleague.getByLabel('Chain')).toHaveText('FM-2300 › FM-2900×2= 2 per FM-2300');
  await expect(colleague.getByRole('option', { name: /FM-9501/ })).toContainText('gap');
  await colleague.close();
});

test('behind and gap are told in words', async ({ page }) => {
  await signIn(page);
  await page.goto(address('/trace?item=FM-2400'));
  await expect(page.getByRole('option', { name: /FM-3402/ })).toContainText('behind by 1');
  await expect(page.getByRole('option', { name: /FM-3402/ })).toContainText('A/1');
  await page.keyboard.press('l');
  await expect(page.getByRole('option', { name: /FM-3402/ })).toContainText('B/1');
  expect(page.url()).toContain('lens=newest');
});
