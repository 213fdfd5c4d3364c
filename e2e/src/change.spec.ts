/** From a remark on a drawing to a change order that two people sign: request, order, work for it, check, sent back, mended, done. */
import { expect, test, type Locator, type Page } from '@playwright/test';
import { address, expectAccessible, signIn } from './desk.js';

const DRAWING = 'FM-7102-D';
const RELEASED = 'FM-4101-D';

test('a remark becomes a request, an order, new versions, and is signed by two, all together', async ({
  page,
}) => {
  test.setTimeout(180_000);
  await signIn(page, 'ines');
  const maren = await other(page, 'maren');
  const admin = await other(page, 'admin');
  const request = await requestFromRemark(page, maren);

  // The request is taken on with an order that affects what it shows in.
  await page.getByRole('button', { name: 'Make a change order …' }).click();
  await page.getByRole('button', { name: 'Make the order' }).click();
  await expect(heading(page, /Change order CO-\d+/)).toBeVisible();
  const order = new URL(page.url()).searchParams.get('change') ?? '';
  const answers = page.getByRole('region', { name: 'Answers' });
  await expect(answers.getByRole('link', { name: request })).toBeVisible();
  await expect(page.getByRole('region', { name: 'Affects' })).toContainText(DRAWING);
  await expectAccessible(page);
  await take(page, 'Begin');

  // What is checked out, or revised, for the order is made by it.
  await page.goto(address(`/trace?item=${DRAWING}`));
  await page.getByRole('button', { name: 'Check out …' }).first().click();
  await page.getByLabel('For the change order').selectOption(order);
  await page.getByRole('button', { name: 'Check out 1' }).click();
  await expect(page.getByText(`for ${order}`)).toBeVisible();
  await again(page, 'Chamfer 2 × 45° added');
  await does(page, '/api/revise', { items: [RELEASED], reason: 'same chamfer', change: order });
  await does(page, '/api/holds/let-go', { items: [DRAWING, RELEASED] });
  await page.goto(address(`/change?change=${order}`));
  const makes = page.getByRole('region', { name: 'Makes: 2' });
  await expect(makes).toContainText('Chamfer 2 × 45° added');
  // By itself nothing that it makes goes on.
  await page.goto(address(`/trace?item=${DRAWING}`));
  await expect(page.getByRole('button', { name: 'Check out …' }).first()).toBeVisible();
  await expect(page.getByRole('button', { name: 'Ask for check …' })).toHaveCount(0);
  await page.goto(address(`/change?change=${order}&view=redline`));
  await expect(page.getByRole('region', { name: DRAWING })).toContainText('A/1 → A/2');
  await expect(page.getByRole('region', { name: DRAWING })).toContainText('Nothing that is drawn differs');
  await page.goto(address('/change?change=CO-0002&view=redline'));
  const door = page.getByRole('region', { name: 'FM-3302-D' });
  await door.scrollIntoViewIfNeeded();
  await expect(door).toContainText('They differ at 8 places');
  await door.getByRole('button', { name: 'Back' }).press('Enter');
  await expect(door).toContainText('8 of 8');
  await expectAccessible(page);
  await page.goto(address(`/change?change=${order}&view=redline`));
  await take(page, 'Ask for check');

  // The checker sees all of it on one sheet, and decides about nothing that was not opened.
  await maren.goto(address('/desk'));
  await maren.getByRole('row', { name: new RegExp(`to check ${order}`) }).dblclick();
  await openOnSheet(maren, order);
  const decision = maren.getByLabel('Decision');
  await expect(decision.getByRole('button', { name: 'Send back …' })).toBeDisabled();
  await openOnSheet(maren, RELEASED);
  await openOnSheet(maren, DRAWING);
  await maren.getByRole('button', { name: 'Raise a point …' }).click();
  await maren.getByLabel('What is wrong, or not clear').fill('The chamfer is on the wrong edge');
  await maren.getByRole('button', { name: 'Raise it' }).click();
  await expect(maren.getByText('The chamfer is on the wrong edge')).toBeVisible();
  await openOnSheet(maren, order);
  await take(maren, 'Send back', 'One point');
  await expect(maren.getByRole('grid', { name: 'Items of the check sheet' })).toContainText('draft');

  await does(page, '/api/holds', { items: [DRAWING], reason: 'wrong edge' });
  await again(page, 'Chamfer on the other edge');
  await does(page, '/api/holds/let-go', { items: [DRAWING] });
  await does(page, '/api/steps', { items: [order], step: 'ask for check', reason: 'Mended' });

  for (const [person, password] of [
    [maren, 'fenmark-maren'],
    [admin, 'fenmark-admin'],
  ] as const) {
    await person.goto(address('/desk'));
    await person.getByRole('row', { name: new RegExp(`to check ${order}`) }).dblclick();
    for (const number of [DRAWING, RELEASED, order]) await openOnSheet(person, number);
    await person.getByLabel('Decision').getByRole('button', { name: 'Carry out …' }).click();
    await person.getByLabel('Your password, once more').fill(password);
    await person.getByRole('button', { name: /^Sign: carry out/ }).click();
    await expect(person.getByRole('dialog')).toBeHidden();
  }

  // What was released is issued: told on the sheet while it is made, and taken from there.
  await expect(admin.getByText('2 of 2 issued files.')).toBeVisible({ timeout: 30_000 });
  await openOnSheet(admin, DRAWING);
  const [download] = await Promise.all([
    admin.waitForEvent('download'),
    admin
      .getByRole('region', { name: 'Issued files' })
      .getByRole('link', { name: `${DRAWING} A-3.pdf` })
      .first()
      .click(),
  ]);
  expect(download.suggestedFilename()).toBe(`${DRAWING} A-3.pdf`);
  await expectAccessible(admin);

  await page.goto(address('/change'));
  await expect(page.getByRole('grid', { name: 'Changes' })).toBeVisible();
  await expect(page.getByRole('row', { name: new RegExp(order) })).toHaveCount(0);
  await page.getByText('Finished ones too').click();
  await expect(page.getByRole('row', { name: new RegExp(order) })).toContainText('carried out');
  await expect(page.getByRole('row', { name: new RegExp(request) })).toContainText('settled');
  await expectAccessible(page);
  await page.goto(address(`/find?words=in change ${order} state = released`));
  await expect(page.getByRole('heading', { name: /^2 items/ })).toBeVisible();
  // Whoever it concerns was told by mail, with a link that opens the very thing.
  await expect(async () => {
    await page.goto(`${process.env.STEM_E2E_MAIL}/?to=ines@fenmark.example`);
    await expect(page.getByText(new RegExp(`carried ${order} A/1 out`)).first()).toBeVisible({
      timeout: 500,
    });
  }).toPass();
  await maren.goto(`${process.env.STEM_E2E_MAIL}/?to=maren@fenmark.example`);
  await maren
    .getByRole('article')
    .filter({ hasText: `sent ${order} A/1 for checking` })
    .first()
    .getByRole('link', { name: /check/ })
    .click();
  await expect(maren.getByRole('heading', { name: new RegExp(`^Check sheet: ${order}`) })).toBeVisible();
  for (const person of [page, maren, admin]) await person.request.post(address('/api/notices/read'));
  for (const person of [maren, admin]) await person.context().close();
});

/** What the checker wrote on a drawing becomes a request in one step. @returns its number */
async function requestFromRemark(page: Page, maren: Page): Promise<string> {
  const mark = {
    item: DRAWING,
    sheet: 'Model',
    kind: 'pin',
    tone: 'change',
    words: 'This edge cuts the cable',
    spots: [[60, 75]],
  };
  await does(maren, '/api/mark-up', mark);
  await page.goto(address(`/look?item=${DRAWING}`));
  await page.getByRole('button', { name: /This edge cuts the cable/ }).click();
  await page.getByRole('list').getByRole('button', { name: 'Request a change …' }).click();
  const dialog = page.getByRole('dialog', { name: `Request a change of ${DRAWING}` });
  await expect(dialog).toContainText('“This edge cuts the cable” as evidence');
  await dialog.getByLabel('In a few words').fill('Chamfer the edge');
  await dialog
    .getByLabel('What is wrong or wanted')
    .fill('The cable is cut by the edge when the mast sways.');
  await dialog.getByLabel('Urgency').selectOption('at once');
  await dialog.getByRole('button', { name: 'Raise the request' }).click();
  await expect(heading(page, /Change request CR-\d+ Chamfer the edge/)).toBeVisible();
  await expect(
    page.getByRole('region', { name: 'Evidence' }).getByRole('link', { name: 'Open' }),
  ).toBeVisible();
  return new URL(page.url()).searchParams.get('change') ?? '';
}

const heading = (page: Page, name: RegExp): Locator => page.getByRole('heading', { name });

async function openOnSheet(page: Page, number: string): Promise<void> {
  await page
    .getByRole('grid', { name: 'Items of the check sheet' })
    .getByRole('row', { name: new RegExp(number) })
    .dblclick();
  await expect(page.getByRole('region', { name: new RegExp(`^${number} `) })).toBeVisible();
}

/** Takes a step from its button through its dialog. */
async function take(page: Page, step: string, reason = ''): Promise<void> {
  await page
    .getByRole('button', { name: `${step} …` })
    .first()
    .click();
  const dialog = page.getByRole('dialog');
  if (reason !== '') await dialog.getByLabel(/^Reason/).fill(reason);
  await dialog.getByRole('button', { name: new RegExp(`^${step}( \\(\\d+\\))?$`) }).click();
  await expect(dialog).toBeHidden();
}

async function again(page: Page, comment: string): Promise<void> {
  await does(page, '/api/items/properties', { items: [DRAWING], set: { remark: comment }, comment });
}

async function does(page: Page, path: string, data: object): Promise<void> {
  const response = await page.request.post(address(path), { data });
  expect(response.ok(), await response.text()).toBe(true);
}

async function other(page: Page, login: string): Promise<Page> {
  const context = await page.context().browser()?.newContext();
  if (!context) throw new Error('there is no browser');
  const theirs = await context.newPage();
  await signIn(theirs, login);
  return theirs;
}
