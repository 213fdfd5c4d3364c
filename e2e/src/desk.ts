/** What every story does: sign in, and check what was fetched. */
import { cpSync, mkdirSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { AxeBuilder } from '@axe-core/playwright';
import { expect, type Download, type Locator, type Page } from '@playwright/test';
import { readStep } from '@stem-trace/formats';
import { unzipSync } from 'fflate';

const EXCHANGE = join(
  dirname(createRequire(import.meta.url).resolve('occt-import-js/package.json')),
  'test/testfiles/cax-if',
);

export function address(path: string): string {
  return `${process.env.STEM_E2E_URL}${path}`;
}

/** A folder of real design files with the given name, as a person would have it on a disk. */
export function folderOfFiles(name: string): string {
  const folder = join(mkdtempSync(join(tmpdir(), 'stem-trace-files-')), name);
  cpSync(join(EXCHANGE, 's1_pe_214'), folder, { recursive: true });
  return folder;
}

export async function signIn(page: Page, login = 'ines'): Promise<void> {
  await page.goto(address('/'));
  await page.getByRole('textbox', { name: 'Name' }).fill(login);
  await page.getByLabel('Password').fill(`fenmark-${login}`);
  await page.getByRole('button', { name: 'Sign in', exact: true }).click();
  await expect(page.getByRole('heading', { name: /^Desk of / })).toBeVisible();
  await page.goto(address('/find'));
  await expect(page.getByRole('grid', { name: 'Items found' })).toBeVisible();
}

/** Reads the fetched archive with the reader and gives `parent uses child` for every file's references. */
export async function referencesOf(download: Download): Promise<string[]> {
  const entries = unzipSync(new Uint8Array(await readFile(await download.path())));
  return Object.entries(entries)
    .filter(([path]) => path.endsWith('.stp'))
    .flatMap(([path, bytes]) => {
      const reading = readStep(bytes);
      for (const product of reading.products)
        if (product.locator !== undefined) expect(Object.keys(entries)).toContain(product.locator);
      return reading.uses.map(
        (use) => `${path}: ${reading.products[use.parent]?.id} uses ${reading.products[use.child]?.id}`,
      );
    })
    .sort();
}

/**
 * Fetches an item as the page's person would, lays it in a folder, and changes the files of the given numbers.
 * @returns the folder
 */
export async function workingCopyOf(page: Page, item: string, changed: readonly string[]): Promise<string> {
  const response = await page.request.get(address(`/api/fetch?item=${item}`));
  const folder = join(mkdtempSync(join(tmpdir(), 'stem-trace-copy-')), 'working copy');
  for (const [path, bytes] of Object.entries(unzipSync(new Uint8Array(await response.body())))) {
    const file = join(folder, path);
    mkdirSync(dirname(file), { recursive: true });
    writeFileSync(file, bytes);
    if (changed.some((number) => path.includes(number))) {
      writeFileSync(file, readFileSync(file, 'latin1').replace('DATA;', 'DATA;\n/* changed */'), 'latin1');
    }
  }
  return folder;
}

/** No findings of the accessibility rules on what is shown. */
export async function expectAccessible(page: Page): Promise<void> {
  const { violations } = await new AxeBuilder({ page })
    .withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa'])
    .analyze();
  expect(violations.map(({ id, nodes }) => `${id}: ${nodes.map((node) => node.html).join('\n')}`)).toEqual(
    [],
  );
}

/** Presses Tab until the focus is on what is called so: the way of somebody without a mouse. */
export async function tabTo(page: Page, name: RegExp | string): Promise<void> {
  const isWanted =
    typeof name === 'string' ? (text: string) => text === name : (text: string) => name.test(text);
  for (let presses = 0; presses < 120; presses++) {
    const label = await page.evaluate(() => {
      const active = document.activeElement;
      const labelledBy = active
        ?.getAttribute('aria-labelledby')
        ?.split(' ')
        .map((id) => document.getElementById(id)?.textContent ?? '')
        .join(' ');
      const own = active instanceof HTMLInputElement ? active.labels?.[0]?.textContent : active?.textContent;
      return (active?.getAttribute('aria-label') ?? labelledBy ?? own ?? '').trim();
    });
    if (isWanted(label)) return;
    await page.keyboard.press('Tab');
  }
  throw new Error(`Tab never came to ${name}`);
}

/** Drags a file of the disk onto an element, as the browser itself would tell of it. */
export async function dropFile(page: Page, path: string, onto: Locator): Promise<void> {
  const box = await onto.boundingBox();
  if (!box) throw new Error('there is nothing to drop it on');
  const session = await page.context().newCDPSession(page);
  const data = { items: [], files: [path], dragOperationsMask: 1 };
  const at = { x: box.x + box.width / 2, y: box.y + box.height / 2 };
  for (const type of ['dragEnter', 'dragOver', 'drop'] as const)
    await session.send('Input.dispatchDragEvent', { type, data, ...at });
  await session.detach();
}
