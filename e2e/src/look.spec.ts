/** Looking at an assembly in three dimensions: picked, hidden, cut, measured against what is known, and what is near. */
import { readFile } from 'node:fs/promises';
import { expect, test, type Locator, type Page } from '@playwright/test';
import { address, expectAccessible, signIn } from './desk.js';

const picture = (page: Page, item: string) =>
  page.getByRole('img', { name: new RegExp(`^${item}@.* in three dimensions`) });
const measured = (page: Page) => page.getByRole('status', { name: 'Measured' });

async function look(page: Page, item: string): Promise<void> {
  await page.goto(address(`/look?item=${item}`));
  await expect(picture(page, item).locator('canvas')).toBeVisible({ timeout: 60_000 });
  await expect(picture(page, item)).toHaveAttribute('aria-busy', 'false', { timeout: 60_000 });
}

test('a part says what was clicked at, and an assembly what is near, cut and hidden', async ({ page }) => {
  // Without a graphics card these pictures are drawn by the processor.
  test.slow();
  await signIn(page);
  // A tube of 76.1 mm with a wall of 3.2 mm, 3 m long.
  await look(page, 'FM-3101');
  // Its volume by the formula: π/4 (76.1² − 69.7²) 3000 mm³, however few triangles there are.
  await expect(measured(page)).toContainText('box 76.1 × 76.1 × 3000 mm · ≈ 2199 cm³');
  await expect(measured(page)).toContainText('centre of gravity ≈ x 0, y 0, z 1500 mm');
  await picture(page, 'FM-3101').click();
  await expect(measured(page)).toContainText('FM-3101: cylinder ⌀ ≈ 76.1 mm (± 0.001 mm)');
  await expectAccessible(page);

  // A pin sticks to the face that was clicked, and is drawn where that is however one turns.
  await look(page, 'FM-3302');
  await picture(page, 'FM-3302').click();
  await page.keyboard.press('n');
  await page.keyboard.type('Round this edge');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: /Round this edge.*to change/ })).toBeVisible();
  const sign = picture(page, 'FM-3302').locator('svg text.number').filter({ hasText: '1' });
  const before = await sign.boundingBox();
  await picture(page, 'FM-3302').press('5');
  await expect.poll(async () => (await sign.boundingBox())?.y).not.toBe(before?.y);

  await drawsOnModel(page, sign);

  await look(page, 'FM-2300');
  const uses = page.getByRole('treegrid', { name: 'Uses in the picture' });
  const rails = uses.getByRole('row', { name: /FM-3303/ });
  await expect(rails).toHaveCount(2);
  await rails.first().click();
  // By keys alone: Enter selects, H hides, A shows all again, I leaves it alone.
  await page.keyboard.press('Enter');
  await expect(measured(page)).toContainText('box ');
  await page.keyboard.press('h');
  await expect(page.getByRole('checkbox', { name: 'Show FM-3303' }).first()).not.toBeChecked();
  await page.keyboard.press('a');
  await expect(page.getByRole('checkbox', { name: 'Show FM-3303' }).first()).toBeChecked();
  // The body of the enclosure is 16 mm away: found within 20 mm, and not within 2.
  const near = page.getByRole('grid', { name: 'What is near' });
  const body = near.getByRole('row', { name: /FM-3301 .*near 16 mm/ });
  await page.getByLabel('Distance in mm').fill('20');
  await page.getByRole('button', { name: 'What is near it' }).click();
  await expect(body.first()).toBeVisible({ timeout: 30_000 });
  await page.getByLabel('Distance in mm').fill('2');
  await page.getByRole('button', { name: 'What is near it' }).click();
  await expect(body).toHaveCount(0, { timeout: 30_000 });
  await expectAccessible(page);

  await page.getByRole('button', { name: 'What it touches or overlaps' }).click();
  await expect(near.getByRole('row', { name: /touches|overlaps/ }).first()).toBeVisible({ timeout: 60_000 });

  await page.getByRole('combobox', { name: 'Section' }).selectOption('z');
  await expect(page.getByRole('slider', { name: /^Place of the section along z/ })).toBeVisible();
  const [saved] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Outline as SVG' }).click(),
  ]);
  const svg = await readFile(await saved.path(), 'utf8');
  expect(svg).toMatch(/^<\?xml .*<svg /s);
  expect(svg.match(/<path /g)?.length).toBeGreaterThan(3);
  // A second plane takes away what the first would show.
  await page.getByRole('combobox', { name: 'Section' }).selectOption('x');
  await expect(page.getByRole('group', { name: 'Section across x' })).toBeVisible();
  await expectAccessible(page);
});

/** A cloud by hand, which can be taken elsewhere; a distance across, which says how long it is. @param pin drawn before */
async function drawsOnModel(page: Page, pin: Locator): Promise<void> {
  const list = page.getByRole('region', { name: 'Drawn and written' });
  const box = (await picture(page, 'FM-3302').boundingBox()) ?? { x: 0, y: 0, width: 0, height: 0 };
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  const drag = async (from: readonly [number, number], to: readonly [number, number]): Promise<void> => {
    await page.mouse.move(x + from[0], y + from[1]);
    await page.mouse.down();
    await page.mouse.move(x + to[0], y + to[1], { steps: 4 });
    await page.mouse.up();
  };
  await list.getByRole('button', { name: 'Cloud', exact: true }).click();
  await drag([-90, -90], [-30, -50]);
  await page.keyboard.type('Window here');
  await page.keyboard.press('Enter');
  await expect(list.getByRole('button', { name: /Window here.*to change/ })).toBeVisible();
  // From above all of it is in sight: a ball around 300 × 400 × 6 mm, with a twentieth around it, under 28 degrees.
  await list.getByRole('button', { name: 'Distance', exact: true }).click();
  await drag([-50, 60], [50, 60]);
  await page.keyboard.press('Enter');
  const said = await list.getByText(/^[\d.]+ mm/).textContent();
  const seen = (1.05 * Math.hypot(300, 400, 6)) / Math.cos((14 * Math.PI) / 180);
  const wanted = (100 * seen) / box.height;
  expect(Math.abs(parseFloat(said ?? '') / wanted - 1)).toBeLessThan(0.02);
  const cloud = picture(page, 'FM-3302').locator('svg text.number').filter({ hasText: '2' });
  const before = await cloud.boundingBox();
  await drag([-90, -90], [-60, -90]);
  await expect
    .poll(async () => Math.round(((await cloud.boundingBox())?.x ?? 0) - (before?.x ?? 0)))
    .toBe(30);
  await expect(pin).toBeVisible();
}

test('where nothing is drawn in three dimensions, pictures stand still and still say what is where', async ({
  page,
}) => {
  await page.addInitScript(() => {
    const own = HTMLCanvasElement.prototype.getContext;
    // As in a browser that has none.
    HTMLCanvasElement.prototype.getContext = function (
      this: HTMLCanvasElement,
      kind: string,
      ...rest: unknown[]
    ) {
      return kind.startsWith('webgl')
        ? null
        : (own as (...all: unknown[]) => unknown).call(this, kind, ...rest);
    } as typeof own;
  });
  await signIn(page);
  await page.goto(address('/look?item=FM-2210'));
  await expect(page.getByText(/WebGL is off or missing/)).toBeVisible();
  const still = page.getByRole('img', { name: /^FM-2210@.* from a corner/ });
  await expect(still).toHaveAttribute('aria-busy', 'false', { timeout: 60_000 });
  await still.click();
  const uses = page.getByRole('treegrid', { name: 'Uses in the picture' });
  await expect(uses.getByRole('row', { name: /FM-3211/ })).toHaveAttribute('aria-selected', 'true');
  await expect(measured(page)).toContainText('box 120 × 120 × 95 mm');
  // From above the lid lies over it.
  await page.keyboard.press('5');
  const above = page.getByRole('img', { name: /^FM-2210@.* from above/ });
  await expect(above).toHaveAttribute('aria-busy', 'false');
  await expect(async () => {
    await above.click();
    await expect(uses.getByRole('row', { name: /FM-3213/ })).toHaveAttribute('aria-selected', 'true', {
      timeout: 1000,
    });
  }).toPass();
  await expectAccessible(page);
});

test('on a tablet one finger draws on a drawing, and two magnify it without leaving anything', async ({
  browser,
}) => {
  const context = await browser.newContext({ hasTouch: true, viewport: { width: 768, height: 1024 } });
  const page = await context.newPage();
  await signIn(page, 'teodor');
  await page.goto(address('/look?item=FM-3302-D'));
  const board = page.getByRole('application', { name: /^Drawing FM-3302-D/ });
  await expect(board).toBeVisible();
  await page.getByRole('button', { name: /^Pen/ }).click();
  const touch = await context.newCDPSession(page);
  const box = (await board.boundingBox()) ?? { x: 0, y: 0, width: 0, height: 0 };
  const fingers = async (type: string, ...spots: readonly (readonly [number, number])[]): Promise<void> => {
    const touchPoints = spots.map(([x, y], id) => ({ x: box.x + x, y: box.y + y, id }));
    await touch.send('Input.dispatchTouchEvent', { type: type as 'touchStart', touchPoints });
  };
  // Two fingers, one after the other: what the first began is given up.
  await fingers('touchStart', [100, 100]);
  await fingers('touchMove', [110, 110]);
  await fingers('touchStart', [110, 110], [200, 200]);
  await fingers('touchMove', [60, 60], [260, 260]);
  await fingers('touchEnd', [60, 60]);
  await fingers('touchEnd');
  const words = page.getByRole('textbox', { name: 'What it says' });
  await expect(words).toHaveCount(0);
  await fingers('touchStart', [100, 100]);
  for (let at = 1; at <= 10; at++) await fingers('touchMove', [100 + 12 * at, 100 + 5 * at]);
  await fingers('touchEnd');
  await expect(words).toBeVisible();
  await words.fill('By hand');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: /By hand.*to change, Teodor Wick/ })).toBeVisible();
  await context.close();
});

test('a view is coloured, taken apart, kept, and opened by its address', async ({ page }) => {
  test.slow();
  await signIn(page);
  await look(page, 'FM-2200');
  await page.getByLabel('Colours').selectOption('mass');
  const legend = page.getByRole('group', { name: 'What the colours mean' });
  await expect(legend.getByRole('button', { name: /1 kg to 10 kg: 1/ })).toBeVisible();
  await legend.getByRole('checkbox', { name: /Show what is up to 0.01 kg/ }).press('Space');
  await expect(page.getByRole('checkbox', { name: 'Show FM-9012' }).first()).not.toBeChecked();
  await page.getByRole('slider', { name: 'How far it is taken apart' }).fill('0.5');
  await page.getByRole('radiogroup', { name: 'Beside the picture' }).getByText('Scenes').click();
  await page.getByRole('button', { name: 'Keep this view …' }).click();
  await page.getByLabel('Name', { exact: true }).fill('By mass');
  await page.getByLabel(/^What is to be seen/).fill('Mind the clamp');
  await page.getByRole('button', { name: 'Keep it' }).click();
  await expect(page).toHaveURL(/scene=\d+/);
  const kept = page.url();
  await page.goto(address('/desk'));
  await page.goto(kept);
  await expect(legend).toBeVisible();
  await expect(page.getByRole('checkbox', { name: 'Show FM-9012' }).first()).not.toBeChecked();
  await expect(measured(page)).toContainText('Mind the clamp');
  await expectAccessible(page);

  // The arm is a tube of 1400 mm; the edge that is clicked runs along it.
  await look(page, 'FM-3201');
  await page.getByRole('radiogroup', { name: 'Measure at' }).getByText('Edges').click();
  await picture(page, 'FM-3201').click();
  await expect(measured(page)).toContainText('FM-3201: edge 1400 mm long (± 0.001 mm)');
  await page.keyboard.press('k');
  await page.getByRole('radiogroup', { name: 'Beside the picture' }).getByText('Measured').click();
  await expect(page.getByRole('button', { name: /^Take away: FM-3201/ })).toBeVisible();
  // From the box at the top, by words.
  await page.getByRole('combobox', { name: 'Find items or commands' }).pressSequentially('from above');
  await page.getByRole('option', { name: 'Look from above' }).click();
});

test('another part is tried where one stands, and a variant derived with it', async ({ page }) => {
  test.slow();
  await signIn(page);
  await page.goto(address('/look?item=FM-2300&select=FM-3302'));
  const uses = page.getByRole('treegrid', { name: 'Uses in the picture' });
  await expect(uses.getByRole('row', { name: /FM-3302/ })).toHaveAttribute('aria-selected', 'true', {
    timeout: 60_000,
  });
  await page.getByRole('button', { name: 'Try another in its place …' }).click();
  await page.getByRole('combobox', { name: 'Try this item' }).fill('FM-7302');
  await page
    .getByRole('option', { name: /FM-7302/ })
    .first()
    .click();
  await page.getByRole('button', { name: 'Try it' }).click();
  const tried = page.getByRole('group', { name: 'Tried: FM-7302' });
  await expect(uses.getByRole('row', { name: /FM-7302/ })).toBeVisible({ timeout: 60_000 });
  await expectAccessible(page);
  await tried.getByRole('link', { name: 'Derive with it' }).click();
  await expect(page.getByText(/1 swapped/)).toBeVisible({ timeout: 30_000 });
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByText(/1 swapped/)).toHaveCount(0);

  // One more bolt on a face, by which the assembly is entered.
  await look(page, 'FM-2300');
  await picture(page, 'FM-2300').click();
  await page.getByRole('button', { name: 'Try one on this face …' }).click();
  await page.getByRole('combobox', { name: 'Try this item' }).fill('FM-9006');
  await page
    .getByRole('option', { name: /FM-9006/ })
    .first()
    .click();
  await page.getByRole('button', { name: 'Try it' }).click();
  const bolt = page.getByRole('group', { name: 'Tried: FM-9006' });
  await expect(bolt).toContainText('tried in FM-2300');
  await expect(measured(page)).toContainText('box ', { timeout: 60_000 });
  await bolt.getByRole('link', { name: 'Derive with it' }).click();
  await expect(page.getByText(/1 added/)).toBeVisible({ timeout: 30_000 });
});

test('a variant and its origin are compared in three dimensions', async ({ page }) => {
  test.slow();
  await signIn(page);
  // The variant's arm is 600 mm shorter; what is screwed to its end moved along.
  await page.goto(address('/look?item=FM-2200&against=FM-6200'));
  const differences = page.getByRole('grid', { name: 'Differences in the picture' });
  await expect(differences.getByRole('row', { name: /FM-9002 moved by 600 mm/ }).first()).toBeVisible({
    timeout: 60_000,
  });
  await differences.getByRole('row', { name: /FM-3201 before.* has another shape/ }).click();
  await page.keyboard.press('Enter');
  await expect(page.getByText(/Largest distance between both shapes ≈/)).toBeVisible({ timeout: 30_000 });
  await page.getByRole('radiogroup', { name: 'How they are shown' }).getByText('Side by side').click();
  await expect(page.getByRole('img', { name: /FM-6200 in three dimensions/ })).toBeVisible();
  await expectAccessible(page);
});

/** Where a spot of an A3 sheet in its frame is on the screen, as long as all of it is shown. */
async function onSheet(board: Locator, x: number, y: number): Promise<readonly [number, number]> {
  const box = await board.boundingBox();
  if (!box) throw new Error('there is no board');
  const scale = Math.min(box.width / 410, box.height / 287) * 0.96;
  return [box.x + box.width / 2 + (x - 210) * scale, box.y + box.height / 2 - (y - 148.5) * scale];
}

test('a drawing is measured, searched, drawn on by one and answered by another, and laid over its last version', async ({
  page,
  browser,
}) => {
  await signIn(page, 'teodor');
  await page.goto(address('/look?item=FM-3302-D'));
  const board = page.getByRole('application', { name: /^Drawing FM-3302-D/ });
  await expect(board).toBeVisible();
  await expect(page.getByRole('checkbox', { name: 'A3-FRAME|FRAME' })).toBeChecked();
  await expectAccessible(page);

  // The door is 300 mm wide, drawn at 1:5; from end to end of its dimension line.
  await board.press('m');
  const says = page.getByRole('status', { name: 'What is shown' });
  await page.mouse.click(...(await onSheet(board, 44, 75)));
  await page.mouse.click(...(await onSheet(board, 104, 75)));
  await expect(says).toContainText('300 mm at 1:5 (60 mm on the sheet) from end to end');
  await board.press('m');

  await page.getByRole('textbox', { name: 'Words on the sheet' }).fill('deburr');
  await page.keyboard.press('Enter');
  await expect(page.getByText('1 found; Enter goes to the next.')).toBeVisible();
  await page.getByRole('textbox', { name: 'Words on the sheet' }).fill('');
  await board.press('0');

  // By mouse a cloud, by keys alone a question.
  const list = page.getByRole('region', { name: 'Drawn and written' });
  await page.getByRole('button', { name: /^Cloud/ }).click();
  const [left, top] = await onSheet(board, 40, 100);
  await page.mouse.move(left, top);
  await page.mouse.down();
  await page.mouse.move(left + 40, top + 20);
  await page.mouse.move(...(await onSheet(board, 120, 80)));
  await page.mouse.up();
  await page.keyboard.type('Chamfer is missing');
  await page.keyboard.press('Enter');
  await expect(
    list.getByRole('button', { name: /Chamfer is missing.*to change, Teodor Wick/ }),
  ).toBeVisible();
  await page.getByRole('radiogroup', { name: 'What it is' }).getByText('question').click();
  await board.press('1');
  await board.press('Enter');
  await page.keyboard.type('Which screws?');
  await page.keyboard.press('Enter');
  await expect(list.getByRole('button', { name: /Which screws.*question, Teodor Wick/ })).toBeVisible();
  await expectAccessible(page);

  const other = await (await browser.newContext()).newPage();
  await signIn(other);
  await other.goto(address('/look?item=FM-3302-D'));
  await other.getByRole('button', { name: /Which screws/ }).click();
  await other.getByRole('textbox', { name: 'Answer' }).fill('M3, as before');
  await other.keyboard.press('Enter');
  // Seen by the first without asking.
  await expect(list.getByText('M3, as before')).toBeVisible();
  await list.getByRole('button', { name: 'Settle' }).click();
  await expect(list.getByRole('checkbox', { name: /settled ones too \(1\)/ })).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(list.getByRole('checkbox', { name: /settled ones too/ })).toHaveCount(0);
  await other.goto(address('/find?words=with%20mark-up%20and%20remark%20has%20chamfer'));
  await expect(other.getByRole('row', { name: /FM-3302-D/ })).toBeVisible();
  await other.context().close();

  await page.getByLabel('Lay over').selectOption('A/1');
  await expect(says).toContainText('They differ at 8 places.');
  await board.press('n');
  await expect(page.getByText('1 of 8')).toBeVisible();

  await page.goto(address('/look?item=FM-1000-M'));
  await expect(page.getByRole('application', { name: /^Page 1 of FM-1000-M/ })).toBeVisible();
  await expect(page.getByText(/is released; what is drawn on it can be read, not changed/)).toBeVisible();
  await page.getByRole('textbox', { name: 'Words in it' }).fill('drip loop');
  await expect(page.getByText('1 found; Enter goes to the next.')).toBeVisible();
});
