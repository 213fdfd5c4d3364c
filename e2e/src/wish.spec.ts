/** From a wish to a variant and on: asked for, made, proved, compared, improved with its origin, looked at in its family. */
import { expect, test } from '@playwright/test';
import { address, expectAccessible, signIn } from './desk.js';

/** What the wishes of the shop's customer are called by the recipe. */
const OTTER = 'FS-30-16-20H Otter';

test('a station is ordered in the shop, made, proved, compared, improved with its origin, seen in its family', async ({
  page,
}) => {
  await page.goto(process.env.STEM_E2E_SHOP ?? '');
  await page.getByLabel('Your name').fill('Otter valley');
  await page.getByLabel(/Arm length/).fill('1600 mm');
  await page.getByLabel('River').fill('Otter');
  await page.getByLabel('Heater').selectOption('yes');
  await page.getByRole('button', { name: 'Order' }).click();
  await expect(page.getByText('Its files hold together.')).toBeVisible({ timeout: 60_000 });
  await expect(page.getByText(/FS-30-16-20H Otter/)).toBeVisible();

  await signIn(page);
  // What the shop ordered is told with who asked for it, and what came of it.
  await page.goto(address('/wish?recipe=FR-1000&view=sheets'));
  const sheets = page.getByRole('grid', { name: 'Wish sheets' });
  await expect(
    sheets.getByRole('row', { name: /Otter valley made FS-30-16-20H Otter .*references hold/ }),
  ).toBeVisible();
  await expectAccessible(page);
  await page.goto(address(`/compare?from=FM-1000&to=${OTTER}`));
  await expect(page.getByText('FM-2216').first()).toBeVisible();
  await page.goto(address('/find?words=arm = 1.6 m'));
  await expect(page.getByRole('row', { name: new RegExp(OTTER) })).toBeVisible();

  // The origin gets better.
  await page.goto(address('/trace?item=FM-1000'));
  await page.getByRole('button', { name: 'Check out …' }).click();
  await page.getByRole('button', { name: 'Check out 1' }).click();
  await page.getByRole('button', { name: 'Properties …' }).click();
  await page.getByLabel('Another property').selectOption('Protection');
  await page.getByLabel('Protection').selectOption('IP 67');
  await page.getByRole('button', { name: 'Save as new version' }).click();
  await expect(page.getByLabel('About the item under the cursor')).toContainText('IP 67');
  await page.getByRole('button', { name: 'Let go …' }).click();
  await page.getByRole('button', { name: 'Let go', exact: true }).click();

  await page.goto(address(`/trace?item=${OTTER}&view=stem&lens=newest`));
  await page
    .getByRole('treegrid', { name: 'Stem' })
    .getByRole('row', { name: new RegExp(OTTER) })
    .click();
  await page.getByRole('button', { name: 'Carry over …' }).click();
  const dialog = page.getByRole('dialog', { name: `Carry over into ${OTTER}` });
  await expect(dialog.getByRole('row', { name: /FM-1000/ })).toBeVisible();
  await dialog.getByRole('button', { name: /^Carry [0-9]+ over$/ }).click();
  await expect(dialog.getByText(/carried over: /)).toBeVisible({ timeout: 60_000 });
  await page.keyboard.press('Escape');
  await expect(page.getByLabel('About the item under the cursor')).toContainText('IP 67');
  const proof = await page.request.get(address(`/api/derive/proof?item=${OTTER}`), { timeout: 60_000 });
  expect(await proof.json()).toMatchObject({ dangling: 0, leaking: 0 });
  await page.getByRole('button', { name: 'Family' }).click();
  await expect(page.getByRole('treegrid', { name: /Family/ })).toBeVisible();
});

test('wishes are typed into a form that says what they lead to, and that they are fulfilled already', async ({
  page,
}) => {
  await signIn(page);
  await page.goto(address('/wish'));
  await page.getByRole('row', { name: /FR-1000/ }).dblclick();
  await page.getByRole('textbox', { name: /Arm length/ }).fill('9');
  await expect(page.getByRole('alert').getByText('9 is not between 1.4 and 2 m')).toBeVisible();
  await page.getByRole('textbox', { name: /Arm length/ }).fill('1.6');
  await page.getByRole('textbox', { name: 'River' }).fill('Otter');
  await page.getByLabel('Heater').selectOption('yes');
  await expect(page.getByRole('cell', { name: 'FM-2200 is swapped for FM-2216' })).toBeVisible();
  await expect(page.getByText('fulfils these wishes already')).toBeVisible();
  await expectAccessible(page);
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
  await expect(dialog.getByRole('row', { name: /FM-7302 / })).toContainText('Door hinged on the left');
  await expectAccessible(page);
  await dialog.getByRole('button', { name: /^Carry [0-9]+ over$/ }).focus();
  await page.keyboard.press('Enter');
  await expect(dialog.getByText(/items were carried over: /)).toBeVisible({ timeout: 60_000 });
  await expect(dialog.getByText(/FM-7302 A\/2/)).toBeVisible();
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
