/** From a wish to a variant and on: asked for, made, proved, compared, improved with its origin, looked at in its family. */
import { expect, test } from '@playwright/test';
import { address, expectAccessible, signIn } from './desk.js';

test('a station is asked for by its wishes, made, proved and found again', async ({ page }) => {
  await signIn(page);
  await page.goto(address('/wish'));
  await page.getByRole('row', { name: /FR-1000/ }).dblclick();
  await page.getByRole('textbox', { name: 'Asked for by' }).fill('Otter valley');
  await page.getByRole('textbox', { name: /Arm length/ }).fill('9');
  await expect(page.getByRole('alert').getByText('9 is not between 1.4 and 2 m')).toBeVisible();
  await page.getByRole('textbox', { name: /Arm length/ }).fill('1600 mm');
  await page.getByRole('textbox', { name: 'River' }).fill('Otter');
  await page.getByLabel('Heater').selectOption('yes');
  await expect(page.getByRole('cell', { name: 'FM-2200 is swapped for FM-2216' })).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Make the variant' }).click();
  const sheets = page.getByRole('grid', { name: 'Wish sheets' });
  await expect(
    sheets.getByRole('row', { name: /Otter valley made FS-30-16-20H Otter .*references hold/ }),
  ).toBeVisible({ timeout: 60_000 });
  await expectAccessible(page);
  // The same wishes again make nothing anew.
  await page.getByRole('radio', { name: 'Wishes' }).click();
  await page.getByRole('textbox', { name: /Arm length/ }).fill('1.6');
  await page.getByRole('textbox', { name: 'River' }).fill('Otter');
  await page.getByLabel('Heater').selectOption('yes');
  await expect(page.getByText('fulfils these wishes already')).toBeVisible();
  // What was decided is what stands in it.
  await page.goto(address('/compare?from=FM-1000&to=FS-30-16-20H Otter'));
  await expect(page.getByText('FM-2216').first()).toBeVisible();
  await page.goto(address('/find?words=arm = 1.6 m'));
  await expect(page.getByRole('row', { name: /FS-30-16-20H Otter/ })).toBeVisible();
});

test('a recipe is read by keys, and its rules are checked while they are typed', async ({ page }) => {
  await signIn(page);
  await page.goto(address('/wish?recipe=FR-1000&view=rules'));
  await expect(page.getByText('Nothing is wrong with it; its examples hold.')).toBeVisible();
  await expectAccessible(page);
  const when = page.getByRole('textbox', { name: 'When' }).first();
  await when.fill('arm > 2 kg');
  await when.press('Tab');
  await expect(page.getByText('the units of what is compared or added do not fit').first()).toBeVisible();
  await page.getByRole('radio', { name: 'As text' }).click();
  await expect(page.getByRole('textbox', { name: 'The recipe as JSON' })).toHaveValue(/arm > 2 kg/);
});

test('later changes of the origin are carried over by keys, and the family is looked at', async ({
  page,
}) => {
  await signIn(page);
  await page.goto(address('/trace?item=FM-5000&view=stem&lens=newest'));
  const stem = page.getByRole('treegrid', { name: 'Stem' });
  await expect(stem.getByRole('row', { name: /FM-5000/ })).toBeVisible();
  await expect(stem).toBeFocused();
  await page.keyboard.press('ArrowDown');
  const carry = page.getByRole('button', { name: 'Carry over …' });
  await carry.focus();
  await page.keyboard.press('Enter');
  const dialog = page.getByRole('dialog', { name: 'Carry over into FM-5000' });
  await expect(dialog.getByRole('row', { name: /FM-6300/ })).toContainText('Door hinged on the left');
  await expectAccessible(page);
  await dialog.getByRole('button', { name: /^Carry [0-9]+ over$/ }).focus();
  await page.keyboard.press('Enter');
  await expect(dialog.getByText(/items were carried over: /)).toBeVisible({ timeout: 60_000 });
  await expect(dialog.getByText(/FM-6300 A\/2/)).toBeVisible();
  await page.keyboard.press('Escape');
  // Nothing is left to carry over, and the files hold together.
  await carry.click();
  await expect(page.getByText('Nothing: FM-1000 has not changed since.')).toBeVisible();
  const proof = await page.request.get(address('/api/derive/proof?item=FM-5000'), { timeout: 60_000 });
  expect(await proof.json()).toMatchObject({ dangling: 0, leaking: 0 });
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Family' }).click();
  await expect(page.getByRole('treegrid', { name: /Family/ })).toBeVisible();
});

test('a plan is decided spot by spot', async ({ page }) => {
  await signIn(page);
  await page.goto(address('/derive?item=FM-2300'));
  const plan = page.getByRole('treegrid', { name: /What the variant shares/ });
  await plan
    .getByRole('row', { name: /FM-3302/ })
    .first()
    .click();
  await page.keyboard.press('o');
  await expect(plan.getByText('Left out').first()).toBeVisible();
  await plan
    .getByRole('row', { name: /FM-3303/ })
    .first()
    .click();
  await page.keyboard.press('Shift+O');
  const dialog = page.getByRole('dialog', { name: 'Decide about FM-3303' });
  await dialog.getByRole('textbox', { name: /Which of the places/ }).fill('2');
  await expectAccessible(page);
  await dialog.getByRole('button', { name: 'Decide' }).click();
  await expect(plan.getByText('decided for place 2 of this spot').first()).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(plan.getByText('decided for place 2 of this spot')).toHaveCount(0);
  await page.getByRole('radio', { name: '2 Check and carry out' }).click();
  await expect(page.getByRole('grid', { name: 'Swapped and left out' })).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('radio', { name: '1 Plan' }).click();
  await page.getByRole('button', { name: 'Begin again' }).click();
  await page.getByRole('menuitem', { name: 'What is proposed' }).click();
});
