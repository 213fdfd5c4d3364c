/** Two people at work on one assembly: holds, a check-in, being behind, catching up. */
import { expect, test } from '@playwright/test';
import { address, expectAccessible, signIn, tabTo, workingCopyOf } from './desk.js';

test('a hold shows to the other within a second; after the check-in the other is behind, and catches up', async ({
  page: ines,
  browser,
}) => {
  await signIn(ines, 'ines');
  const context = await browser.newContext();
  const teodor = await context.newPage();
  await signIn(teodor, 'teodor');
  await teodor.goto(address('/trace?item=FM-2300'));
  await expect(teodor.getByRole('option', { name: /FM-3302/ })).toBeVisible();

  // Ines checks out; Teodor sees it within a second.
  await ines.goto(address('/trace?item=FM-3302'));
  await ines.getByRole('button', { name: 'Check out …' }).click();
  await ines.getByLabel('Reason (visible to everyone)').fill('longer hinge');
  await ines.getByRole('button', { name: 'Check out 1' }).click();
  await expect(ines.getByText('Held by you')).toBeVisible();
  await expect(
    teodor.getByRole('option', { name: /FM-3302/ }).getByRole('img', { name: /Held by Ines Halvorsen/ }),
  ).toBeVisible({ timeout: 1000 });

  // Teodor is refused, with the holder's name.
  const refused = await teodor.request.post(address('/api/holds'), {
    data: { items: ['FM-3302'], reason: '' },
  });
  expect(await refused.json()).toMatchObject({
    refused: [{ number: 'FM-3302', reason: 'Ines Halvorsen holds it' }],
  });

  // Ines changes the file and drops the working copy back.
  const folder = await workingCopyOf(ines, 'FM-3302', ['FM-3302']);
  await ines.goto(address('/intake'));
  const [chooser] = await Promise.all([
    ines.waitForEvent('filechooser'),
    ines.getByRole('button', { name: 'Choose a folder' }).click(),
  ]);
  await chooser.setFiles(folder);
  await expect(ines.getByRole('heading', { name: 'Check in: working copy of FM-3302 B/1' })).toBeVisible();
  await expectAccessible(ines);
  await ines.getByLabel('Comment for all new versions').fill('Hinge pin 4 mm longer');
  await ines.getByRole('button', { name: 'Check in', exact: true }).click();
  await expect(ines.getByRole('heading', { name: 'Checked in' })).toBeVisible();

  // Teodor sees that the enclosure is behind, and why; he takes it and catches up.
  await expect(teodor.getByRole('option', { name: /FM-3302/ })).toContainText('behind by 1');
  await expect(teodor.getByLabel('About the item under the cursor')).toContainText(
    /newer B\/2 by Ines Halvorsen on .*: Hinge pin 4 mm longer/,
  );
  await teodor.getByRole('button', { name: 'Check out …' }).click();
  await expectAccessible(teodor);
  await teodor.getByRole('button', { name: 'Check out 1' }).click();
  await teodor.getByRole('button', { name: 'Catch up' }).click();
  await expect(teodor.getByRole('option', { name: /FM-3302/ })).not.toContainText('behind');
  await expect(teodor.getByRole('option', { name: /FM-3302/ })).toContainText('B/2');

  // What he holds is on his desk; he lets it go.
  await teodor.goto(address('/work'));
  await expect(teodor.getByRole('row', { name: /FM-2300/ })).toBeVisible();
  await expectAccessible(teodor);
  await teodor.getByRole('row', { name: /FM-2300/ }).click();
  await teodor.getByRole('button', { name: 'Let go' }).first().click();
  await expect(teodor.getByRole('row', { name: /FM-2300/ })).toBeHidden();
  await context.close();
});

test('what others do does not put another item under the cursor', async ({ page: ines }) => {
  await signIn(ines, 'ines');
  const holds = async (items: readonly string[]): Promise<void> => {
    const answer = await ines.request.post(address('/api/holds'), { data: { items, reason: 'cursor' } });
    expect(await answer.json()).toMatchObject({ refused: [] });
  };
  await holds(['FM-4302', 'FM-4303']);
  await ines.goto(address('/work'));
  await ines.getByRole('row', { name: /FM-4303/ }).click();
  await expect(ines.getByLabel('About the item under the cursor')).toContainText('FM-4303');

  // From elsewhere comes one that stands before it, and then the very one goes.
  await holds(['FM-4301']);
  await expect(ines.getByRole('row', { name: /FM-4301/ })).toBeVisible();
  await expect(ines.getByLabel('About the item under the cursor')).toContainText('FM-4303');
  await ines.request.post(address('/api/holds/let-go'), { data: { items: ['FM-4303'] } });
  await expect(ines.getByRole('row', { name: /FM-4303/ })).toBeHidden();
  await expect(ines.getByRole('button', { name: 'Let go' }).first()).toBeDisabled();
  await ines.getByRole('row', { name: /FM-4301/ }).click();
  await ines.getByRole('button', { name: 'Let go' }).first().click();
  await expect(ines.getByRole('row', { name: /FM-4301/ })).toBeHidden();
  await expect(ines.getByRole('row', { name: /FM-4302/ })).toBeVisible();
  await ines.request.post(address('/api/holds/let-go'), { data: { items: ['FM-4302'] } });
});

test('a checker is asked, sends back with a reason, and the one who watches is told', async ({
  page: ines,
  browser,
}) => {
  await signIn(ines, 'ines');
  await ines.goto(address('/trace?item=FM-3402'));
  await ines.getByRole('button', { name: 'Watch' }).click();
  await ines.getByRole('button', { name: 'Ask for check …' }).click();
  await expect(ines.getByText('Nobody can change it until')).toBeVisible();
  await expectAccessible(ines);
  await ines.getByRole('button', { name: 'Ask for check', exact: true }).click();
  await expect(ines.getByLabel('Focus')).toContainText('in check');

  const context = await browser.newContext();
  const maren = await context.newPage();
  await signIn(maren, 'maren');
  // What waits for her stands first on her desk, and opens with one key.
  await maren.keyboard.press('0');
  await expect(maren.getByRole('grid', { name: /^Waiting for me/ })).toBeFocused();
  await expect(maren.getByRole('row', { name: /to check FM-3402/ })).toBeVisible();
  await expectAccessible(maren);
  // The check sheet is walked through by keys: what was not opened says so, what is opened is remembered.
  await maren.keyboard.press('Enter');
  const items = maren.getByRole('grid', { name: 'Items of the check sheet' });
  await expect(items).toBeFocused();
  await expect(items).toContainText('not opened');
  await maren.keyboard.press('Enter');
  await expect(maren.getByText('Since A/1, which was released')).toBeVisible();
  await expect(items).toContainText('seen');
  await tabTo(maren, 'Raise a point …');
  await maren.keyboard.press('Enter');
  await maren.keyboard.type('The radius is missing');
  await maren.keyboard.press('Enter');
  await expect(items).toContainText('1 point');
  await expectAccessible(maren);
  await maren.getByLabel('Decision').getByRole('button', { name: 'Send back …' }).click();
  await maren.getByLabel('Reason (needed, visible to everyone)').fill('See the point');
  await maren.getByRole('button', { name: 'Send back', exact: true }).click();
  await expect(items).toContainText('draft');

  // Who sent it answers on the sheet, which the notice opens.
  await expect(ines.getByRole('link', { name: 'Work' })).toContainText('2');
  await ines.getByRole('link', { name: 'Work' }).click();
  await expect(ines.getByText('Maren Oduya sent FM-3402 B/1 back: See the point')).toBeVisible();
  await expect(ines.getByText(/raised a point about FM-3402: The radius is missing/)).toBeVisible();
  await ines.getByRole('link', { name: 'Open it' }).first().click();
  await ines
    .getByRole('button', { name: /FM-3402/ })
    .first()
    .click();
  await ines.getByRole('button', { name: 'Answer …' }).click();
  await ines.getByLabel('Answer', { exact: true }).fill('It is there now');
  await ines.getByRole('button', { name: 'Answer', exact: true }).click();
  await expect(ines.getByText('→ It is there now')).toBeVisible();
  await ines.getByRole('link', { name: 'Work' }).click();
  await ines.getByRole('button', { name: 'Mark all as read' }).click();
  await expect(ines.getByRole('heading', { name: 'Inbox', exact: true })).toBeVisible();
  await context.close();
});

test('a holder is asked to let go, answers in the inbox, and who asked is told', async ({
  page: ines,
  browser,
}) => {
  await signIn(ines, 'ines');
  await ines.request.post(address('/api/holds'), { data: { items: ['FM-4302'], reason: 'bore' } });
  const context = await browser.newContext();
  const teodor = await context.newPage();
  await signIn(teodor, 'teodor');
  await teodor.goto(address('/trace?item=FM-4302'));
  await teodor.getByRole('button', { name: 'Ask to let go …' }).click();
  await teodor.getByLabel('Reason (visible to everyone)').fill('only for today');
  await expectAccessible(teodor);
  await teodor.getByRole('button', { name: 'Ask', exact: true }).click();

  await expect(ines.getByRole('link', { name: 'Work' })).toContainText('1');
  await ines.getByRole('link', { name: 'Work' }).click();
  await expect(ines.getByText('Teodor Wick asks you to let FM-4302 go: only for today')).toBeVisible();
  await ines.getByRole('button', { name: 'Let FM-4302 go' }).click();
  await expect(ines.getByRole('button', { name: 'Let FM-4302 go' })).toBeHidden();
  await expect(teodor.getByRole('button', { name: 'Check out …' })).toBeVisible();
  await teodor.getByRole('link', { name: 'Work' }).click();
  await expect(teodor.getByText('Ines Halvorsen let FM-4302 go, as asked')).toBeVisible();

  // A rename reaches who holds a user of it, with both names.
  await ines.request.post(address('/api/holds'), { data: { items: ['FM-2300'], reason: '' } });
  await teodor.request.post(address('/api/items/rename'), { data: { item: 'FM-3301', name: 'Shell' } });
  await expect(ines.getByText(/Teodor Wick renamed FM-3301: ‘Shell’, before ‘/)).toBeVisible();
  await ines.request.post(address('/api/holds/let-go'), { data: { items: ['FM-2300'] } });
  await context.close();
});

test('a session that ended asks for the password in place, and goes on', async ({ page }) => {
  await signIn(page, 'teodor');
  await page.goto(address('/trace?item=FM-4401'));
  await expect(page.getByRole('button', { name: 'Check out …' })).toBeVisible();
  // Nothing asks the server any more by itself: it is the click that learns of it.
  await expect(page.getByRole('img', { name: /^FM-4401.* in three dimensions/ })).toBeVisible({
    timeout: 45_000,
  });
  await expect(page.getByText('Making the picture')).toBeHidden({ timeout: 45_000 });
  await page.context().clearCookies();
  await page.getByRole('button', { name: 'Check out …' }).click();
  const dialog = page.getByRole('dialog', { name: 'Your session has ended' });
  await dialog.getByLabel('Password of Teodor Wick').fill('fenmark-teodor');
  await expectAccessible(page);
  await page.keyboard.press('Enter');
  await expect(dialog).toBeHidden();
  // What was being done is still there.
  await expect(page.getByRole('dialog', { name: 'Check out FM-4401' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Check out 1' })).toBeEnabled();
});
