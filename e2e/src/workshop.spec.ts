/** A bill from its making to planning, and after engineering has moved on. Last of all: it changes what others look at. */
import { expect, test, type APIRequestContext, type Page } from '@playwright/test';
import { address, expectAccessible, signIn } from './desk.js';

/** Somebody else, in a browser of their own. */
async function other(page: Page, login: string): Promise<APIRequestContext> {
  const context = await page.context().browser()?.newContext();
  if (!context) throw new Error('there is no browser');
  const answer = await context.request.post(address('/api/session'), {
    data: { login, password: `fenmark-${login}` },
  });
  expect(answer.ok()).toBe(true);
  return context.request;
}

async function does(who: APIRequestContext, path: string, data: object): Promise<unknown> {
  const answer = await who.post(address(path), { data });
  expect(answer.ok(), `${path}: ${await answer.text()}`).toBe(true);
  return answer.json();
}

const sheet = (page: Page) => page.getByRole('treegrid', { name: 'Rows of the bill' });

test('a bill is made, gets rows and a column, is sent back, released, and received by planning', async ({
  page,
}) => {
  await signIn(page, 'pavo');
  await page.goto(address('/build'));
  await expect(page.getByRole('grid', { name: 'Bills' }).getByRole('row', { name: /FB-1000/ })).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'New bill …' }).click();
  const dialog = page.getByRole('dialog', { name: 'New bill' });
  await dialog.getByRole('combobox', { name: 'Assembly', exact: true }).fill('FM-2500');
  await page.getByRole('option', { name: /assembly.*FM-2500/ }).click();
  await dialog.getByLabel('Number of the bill').fill('FB-2500');
  await dialog.getByLabel('Name', { exact: true }).fill('Battery unit, for the workshop');
  await dialog.getByRole('combobox', { name: /^Place/ }).fill('/Fenmark/Bills');
  await page.getByRole('option', { name: '/Fenmark/Bills', exact: true }).click();
  await dialog.getByRole('button', { name: 'Make the bill' }).click();
  await expect(page.getByRole('heading', { name: /FB-2500/ })).toBeVisible();
  await expect(page.getByText('closed: every engineering part is accounted for')).toBeVisible();

  // Rows that nobody models, and a column.
  for (const [text, amount] of [
    ['Terminal grease', '2 ml'],
    ['Gift ribbon', '1'],
  ] as const) {
    await page.getByRole('button', { name: 'Add text row …' }).click();
    await page.getByRole('textbox', { name: 'Text', exact: true }).fill(text);
    await page.getByLabel(/^Quantity, such/).fill(amount);
    await page.getByRole('button', { name: 'Add', exact: true }).click();
    await expect(sheet(page).getByRole('row', { name: new RegExp(text) })).toBeVisible();
  }
  // By its handle to the top, and back.
  const top = sheet(page).getByRole('row').nth(1);
  await sheet(page)
    .getByRole('row', { name: /Gift ribbon/ })
    .getByTitle(/^Drag the row/)
    // Not from its very middle: that is how a screen reader presses.
    .dragTo(top, { sourcePosition: { x: 3, y: 4 }, targetPosition: { x: 300, y: 3 } });
  await expect(top).toContainText('Gift ribbon');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(top).not.toContainText('Gift ribbon');
  await page.getByRole('button', { name: 'Columns', exact: true }).click();
  await page.getByRole('menuitem', { name: 'Add column …' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Torque');
  await page.getByLabel('Holds').selectOption('number');
  await page.getByLabel('Unit of a number').fill('N*m');
  await page.getByRole('button', { name: 'Add', exact: true }).click();

  // As in a spreadsheet: by keys alone, wrong values told, undone and done again.
  await sheet(page).focus();
  await page.keyboard.press('Home');
  for (let column = 0; column < 6; column++) await page.keyboard.press('ArrowRight');
  await page.keyboard.type('tight');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('alert')).toContainText('Torque takes a number in N*m');
  await page.keyboard.press('Home');
  await page.keyboard.type('12');
  await page.keyboard.press('Enter');
  const first = sheet(page).getByRole('row').nth(1);
  await expect(first).toContainText('12');
  await page.keyboard.press('Control+z');
  await expect(first).not.toContainText('12');
  await page.keyboard.press('Control+y');
  await expect(first).toContainText('12');
  await expectAccessible(page);
  // What is not saved yet outlives a reload.
  await page.reload();
  await expect(sheet(page).getByRole('row', { name: /Gift ribbon/ })).toBeVisible();
  await page.getByRole('button', { name: 'Save …' }).click();
  await page.getByLabel('What was changed, and why').fill('What the workshop needs');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByRole('heading', { name: /FB-2500.*A\/2/ })).toBeVisible();

  // A checker sends it back: one row is not needed.
  await page.getByRole('button', { name: 'Let go …' }).first().click();
  await page.getByRole('button', { name: 'Let go', exact: true }).click();
  await page.getByRole('button', { name: 'Ask for check …' }).first().click();
  await page.getByRole('button', { name: 'Ask for check', exact: true }).click();
  await expect(page.getByText('Check it out to change its rows.')).toBeVisible();
  const maren = await other(page, 'maren');
  await does(maren, '/api/steps', { items: ['FB-2500'], step: 'send back', reason: 'No ribbon' });
  await page.getByRole('button', { name: 'Check out …' }).first().click();
  await page.getByRole('button', { name: /^Check out 1/ }).click();
  await sheet(page)
    .getByRole('row', { name: /Gift ribbon/ })
    .click();
  await page.getByRole('button', { name: 'Rows', exact: true }).click();
  await page.getByRole('menuitem', { name: 'Remove the row' }).click();
  await page.getByRole('button', { name: 'Save …' }).click();
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByRole('heading', { name: /FB-2500.*A\/3/ })).toBeVisible();

  // Compared with the version before, and the direction cannot be mistaken.
  await page.getByRole('main').getByRole('link', { name: 'Compare with A/2' }).click();
  const differences = page.getByRole('treegrid', { name: 'Differences' });
  await expect(differences.getByRole('row', { name: /removed.*Gift ribbon/ })).toBeVisible();

  // Released, with its files, and received by planning.
  await does(page.request, '/api/holds/let-go', { items: ['FB-2500'] });
  await does(page.request, '/api/steps', { items: ['FB-2500'], step: 'ask for check' });
  await does(maren, '/api/steps', { items: ['FB-2500'], step: 'release', reason: 'First batch' });
  await page.goto(address('/build?bill=FB-2500&show=releases'));
  const releases = page.getByRole('list', { name: 'Releases' });
  await expect(releases).toContainText('First batch');
  await expect(releases.getByRole('link', { name: /FB-2500 A-3.xlsx/ })).toBeVisible({ timeout: 20_000 });
  await expect(releases).toContainText('Planning has it', { timeout: 20_000 });
  await expectAccessible(page);
});

test('engineering moves on, and is carried over into the bill', async ({ page }) => {
  await signIn(page, 'pavo');
  const ines = await other(page, 'ines');
  await does(ines, '/api/revise', { items: ['FM-2500'], reason: 'one more' });
  const bom = (await (await ines.get(address('/api/bill?item=FM-2500&lens=newest'))).json()) as {
    item: { version: string };
    rows: { number: string; position: number; level: number }[];
  };
  const [changed] = bom.rows.filter(({ level }) => level === 1);
  await does(ines, '/api/bill/rows', {
    ...{ item: 'FM-2500', version: bom.item.version, comment: '', checkOut: false },
    rows: [{ position: changed?.position ?? 0, amount: '7' }],
  });
  await does(page.request, '/api/revise', { items: ['FB-2500'], reason: 'Battery unit has changed' });
  await page.goto(address('/build?bill=FB-2500'));
  await expect(page.getByText(/engineering moved on/)).toBeVisible();
  await page.getByRole('button', { name: 'Carry over …' }).click();
  const dialog = page.getByRole('dialog', { name: /^Carry over: FM-2500/ });
  await expect(dialog.getByRole('group', { name: 'What comes' })).toContainText('→ 7');
  await expectAccessible(page);
  await dialog.getByRole('button', { name: 'Carry over as a new version' }).click();
  await expect(page.getByText('up to date with engineering')).toBeVisible();
  await expect(page.getByText('closed: every engineering part is accounted for')).toBeVisible();
  await expect(sheet(page).getByRole('row', { name: /Terminal grease/ })).toBeVisible();
  await expect(sheet(page).getByRole('row', { name: new RegExp(changed?.number ?? '') })).toContainText('7');

  // A difference opens the account until somebody says that it is meant.
  const row = sheet(page).getByRole('row', { name: new RegExp(changed?.number ?? '') });
  await row.getByRole('gridcell').nth(4).click();
  await sheet(page).focus();
  await page.keyboard.type('6');
  await page.keyboard.press('Enter');
  await expect(page.getByText('1 missing')).toBeVisible();
  await page.getByRole('button', { name: 'Show …' }).click();
  await page.getByRole('button', { name: 'Intended, because …' }).click();
  await page.getByLabel('Reason').fill('the customer brings one');
  await page.getByRole('button', { name: 'It is intended' }).click();
  await page.keyboard.press('Escape');
  await expect(page.getByText('closed: every engineering part is accounted for')).toBeVisible();

  // Releases lie on the line of versions; the older one is small, with its notes and files.
  await page.goto(address('/history?item=FB-1000'));
  await page.getByRole('button', { name: /^A\/2, superseded release by Pavo/ }).click();
  await expect(page.getByRole('list', { name: 'Releases' })).toContainText('First batch of six stations');
  await expectAccessible(page);
  // A part says in which bills it is.
  await page.goto(address('/trace?item=FM-9002'));
  await page
    .getByRole('navigation', { name: 'Bills and alternates' })
    .getByRole('link', { name: /FB-1000/ })
    .click();
  await expect(page.getByRole('heading', { name: /FB-1000/ })).toBeVisible();
});
