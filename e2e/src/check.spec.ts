/** A lifecycle is changed as sentences; by it two people sign on a check sheet, each with the password. */
import { expect, test, type Page } from '@playwright/test';
import { address, expectAccessible, signIn, tabTo } from './desk.js';

const ITEM = 'FM-4404';

test('two people sign what a lifecycle that was made by sentences asks for', async ({ page }) => {
  await signIn(page, 'admin');
  await page.request.post(address('/api/places'), { data: { path: '/Trial' } });
  await page.goto(address('/settings/lifecycle'));
  await expect(page.getByRole('group', { name: 'Picture of the lifecycle Items' })).toContainText(
    'ask for check',
  );
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Another like it …' }).click();
  await page.getByLabel('Lifecycle', { exact: true }).fill('Two eyes');
  await page.getByRole('button', { name: 'Change release' }).click();
  const release = page.getByRole('group', { name: 'The step release' });
  await release.getByLabel('Signatures', { exact: true }).selectOption('2');
  await release.getByText('not an author of it').click();
  await expect(
    page.getByText(/^A checker or administrator, not the author, may release: .* with 2 signatures/),
  ).toBeVisible();
  // The state that nothing leads to is named before anything is saved.
  await page.getByRole('button', { name: 'Also for …' }).click();
  await expect(page.getByText('Everything else: Items is meant for that.')).toBeVisible();
  await page.getByLabel('Place', { exact: true }).selectOption('/Trial');
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Save it' }).click();
  await expect(page.getByText('Meant for everything below /Trial.')).toBeVisible();

  const ines = await other(page, 'ines');
  await ines.request.post(address('/api/items/move'), { data: { items: [ITEM], place: '/Trial' } });
  await asks(ines);

  const maren = await other(page, 'maren');
  await sign(maren, 'wrong password');
  await expect(maren.getByText('The password is wrong. Nothing was changed; try again.')).toBeVisible();
  await maren.getByLabel('Your password, once more').fill('fenmark-maren');
  await maren.getByRole('button', { name: 'Sign: release' }).click();
  await expect(maren.getByRole('dialog')).toBeHidden();
  await expect(maren.getByRole('region', { name: 'Signatures' })).toContainText('Maren Oduya');
  await expect(maren.getByRole('grid', { name: 'Items of the check sheet' })).toContainText('seen');
  await expectAccessible(maren);

  await sign(page, 'fenmark-admin');
  await expect(page.getByRole('grid', { name: 'Items of the check sheet' })).toContainText('released');
  await expect(page.getByRole('region', { name: 'Signatures' })).toContainText(/Maren Oduya.*Odalys Brandt/);
  // Whoever is told of it has read it, so that others begin with an empty inbox.
  for (const person of [ines, maren]) {
    await person.request.post(address('/api/notices/read'));
    await person.context().close();
  }
});

const DRAWINGS = ['7101', '7103', '7303', '7201', '7202', '7203', '7211', '7212', '7213', '7301'].map(
  (number) => `FM-${number}-D`,
);

test('ten drawings are checked on a tablet, by keyboard alone', async ({ page }) => {
  await signIn(page);
  const sent = await page.request.post(address('/api/steps'), {
    data: { items: DRAWINGS, step: 'ask for check', reason: 'All of the snow station' },
  });
  const { sheet } = (await sent.json()) as { readonly sheet: string };
  const maren = await other(page, 'maren');
  await maren.setViewportSize({ width: 768, height: 1024 });
  await maren.goto(address(`/check/${sheet}`));
  const items = maren.getByRole('grid', { name: 'Items of the check sheet' });
  await expect(items).toBeFocused();
  for (const [at, number] of DRAWINGS.entries()) {
    if (at > 0) await maren.keyboard.press('ArrowDown');
    await maren.keyboard.press('Enter');
    await expect(maren.getByRole('region', { name: `${number} A/1` })).toBeVisible();
    await expect(maren.getByRole('region', { name: `The file of ${number}` })).toContainText('Measure (M)');
  }
  await expect(items.getByText('not opened')).toHaveCount(0);
  await expectAccessible(maren);
  await tabTo(maren, 'Send back 10 …');
  await maren.keyboard.press('Enter');
  const dialog = maren.getByRole('dialog');
  await tabTo(maren, /^Reason/);
  await maren.keyboard.type('Say which coating');
  await tabTo(maren, /^Send back$/);
  await maren.keyboard.press('Enter');
  await expect(dialog).toBeHidden();
  await expect(items.getByRole('row', { name: /draft/ })).toHaveCount(10);
  for (const person of [page, maren]) await person.request.post(address('/api/notices/read'));
  await maren.context().close();
});

/** Sends it for checking, to somebody by name and until a day. */
async function asks(page: Page): Promise<void> {
  await page.goto(address(`/trace?item=${ITEM}`));
  await page.getByRole('button', { name: 'Ask for check …' }).first().click();
  const dialog = page.getByRole('dialog');
  for (const login of ['maren', 'admin'])
    await dialog.getByLabel('Ask somebody to decide').selectOption(login);
  await dialog.getByRole('button', { name: 'Ask for check' }).click();
  await expect(dialog).toBeHidden();
  await page.goto(address('/check'));
  await page.getByRole('row', { name: new RegExp(ITEM) }).dblclick();
  await expect(page.getByText(/Asked: Odalys Brandt, Maren Oduya\./)).toBeVisible();
}

/** Opens the sheet from the desk, the item on it, and signs its release. */
async function sign(page: Page, password: string): Promise<void> {
  await page.goto(address('/desk'));
  await page.getByRole('row', { name: new RegExp(`to check ${ITEM}`) }).dblclick();
  await page
    .getByRole('button', { name: new RegExp(ITEM) })
    .first()
    .click();
  await page.getByLabel('Decision').getByRole('button', { name: 'Release …' }).click();
  await page.getByLabel('Your password, once more').fill(password);
  await page.getByRole('button', { name: 'Sign: release' }).click();
}

async function other(page: Page, login: string): Promise<Page> {
  const context = await page.context().browser()?.newContext();
  if (!context) throw new Error('there is no browser');
  const theirs = await context.newPage();
  await signIn(theirs, login);
  return theirs;
}
