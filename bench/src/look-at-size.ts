/** Look in a browser without a graphics card, on a product of 2,000 placed parts whose meshes have been made. */
import { createHash } from 'node:crypto';
import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { massOf } from '@stem-trace/core';
import { annotateStepPart, writeStepAssembly } from '@stem-trace/formats';
import { meshPath } from '@stem-trace/server/meshes/geometry-source.js';
import { packGlb } from '@stem-trace/server/jobs/packed-glb.js';
import { chromium, type Browser, type Page } from 'playwright-core';
import { CROWDED_MM, FILES, PLACES_OF_EACH, placeOf, tubeOf } from './large-product.js';
import { bringIn, served, type Served } from './served.js';

const PRODUCT = 'BENCH-PRODUCT';
const TURNED_MS = 4000;
const RUNS = 3;
const SIDES = 6;

export async function benchLookAtSize(): Promise<string> {
  return served(async (server) => {
    await makeProduct(server);
    const near = await timesOf(() => ask(server, 'near', { of: '500', within: '12' }));
    const overlaps = await timesOf(() => ask(server, 'overlaps', { without: '' }));
    const browser = await chromium.launch({
      executablePath: '/usr/bin/chromium',
      args: ['--no-sandbox', '--use-gl=angle', '--use-angle=swiftshader', '--enable-unsafe-swiftshader'],
    });
    try {
      const opened: Opened[] = [];
      for (let run = 0; run < RUNS; run++) opened.push(await open(browser, server));
      opened.sort((a, b) => a.wholeMs - b.wholeMs);
      const { boxesMs, wholeMs, turned, memoryMb, cutMs, cutScriptMs } = opened[1] as Opened;
      return markdown([
        ['near a part, at the server, meshes on the disk', ms(near.first), '5 s'],
        ['near a part, at the server, again', ms(near.again), '500 ms'],
        ['all pairs that touch or overlap, at the server', ms(overlaps.again), 'a minute'],
        ['boxes on screen, from the address', ms(boxesMs), '1 s'],
        ['the whole picture, from the address', ms(wholeMs), '3 s'],
        [
          'pictures a second while it is turned',
          `${turned.perSecond.toFixed(1)} of ${Math.round(turned.triangles / 1000)},000 triangles`,
          '5 of 300,000 triangles',
        ],
        [
          'pictures a second as drawn at rest',
          `${turned.atRestPerSecond.toFixed(1)} of ${Math.round(turned.atRest / 1000)},000 triangles`,
          '',
        ],
        // Shorter ones are not told.
        [
          'longest script while a section is moved',
          cutScriptMs === 0 ? 'under 50 ms' : ms(cutScriptMs),
          '50 ms',
        ],
        ['caps and outlines of a section', ms(cutMs), '1 s'],
        ['memory of the page’s script', `${memoryMb.toFixed(0)} MB`, '600 MB'],
      ]);
    } finally {
      await browser.close();
    }
  });
}

function markdown(rows: readonly (readonly [string, string, string])[]): string {
  return [
    `## Looking at ${(FILES * PLACES_OF_EACH).toLocaleString('en-GB')} placed parts in a browser`,
    `${FILES} files, 5.0 million triangles, drawn by the processor; median of ${RUNS}. Rival of turning: the picture as it is drawn at rest.`,
    [
      '| what | measured | goal |',
      '| --- | --: | --: |',
      ...rows.map((row) => `| ${row.join(' | ')} |`),
    ].join('\n'),
  ].join('\n\n');
}

function ms(time: number): string {
  return `${time.toFixed(0)} ms`;
}

/** Files that hold the same cube, each with a mesh beside it as if it held a tube. */
async function makeProduct({ client, blobFolder }: Served): Promise<void> {
  const cubes = createRequire(import.meta.url).resolve('occt-import-js/package.json');
  const cube = await readFile(join(dirname(cubes), 'test/testfiles/cube-fcstd/cube.step'));
  const files = new Map<string, Uint8Array>();
  const named = Array.from({ length: FILES }, (_, at) => `BENCH-${at}`);
  for (const [at, id] of named.entries()) {
    const bytes = annotateStepPart(cube, {
      ...{ id, name: `Tube ${at}`, description: '', version: '', source: 'unknown', properties: [] },
      ...{ fileName: `${id}.stp`, time: '' },
    });
    files.set(`${id}.stp`, bytes);
    await writeMesh(blobFolder, createHash('sha256').update(bytes).digest('hex'), at);
  }
  files.set(
    `${PRODUCT}.stp`,
    writeStepAssembly({
      ...{ id: PRODUCT, name: 'Product of tubes', fileName: `${PRODUCT}.stp`, time: '' },
      children: named.map((id) => ({ id, name: id, locator: `${id}.stp` })),
      uses: Array.from({ length: FILES * PLACES_OF_EACH }, (_, at) => ({
        ...{ child: Math.floor(at / PLACES_OF_EACH), name: `${at}`, placement: placeOf(at, CROWDED_MM) },
      })),
    }),
  );
  const { items } = await bringIn(client, files);
  if (items !== FILES + 1) throw new Error(`${items} items came in, not ${FILES + 1}`);
}

async function writeMesh(blobFolder: string, key: string, at: number): Promise<void> {
  const { positions, indices, deflectionMm } = tubeOf(at);
  const drawn = new Float32Array(positions.length);
  for (let i = 0; i < positions.length; i += 3) {
    drawn[i] = (positions[i] ?? 0) / 1000;
    drawn[i + 1] = (positions[i + 2] ?? 0) / 1000;
    drawn[i + 2] = -(positions[i + 1] ?? 0) / 1000;
  }
  const mass = massOf([{ positions: [...positions], indices: [...indices] }]);
  const triangles = indices.length / 3;
  const packed = await packGlb(
    [
      {
        ...{ positions: drawn, indices: new Uint32Array(indices), faces: [[0, triangles - 1] as const] },
        colour: [0.5 + (at % 5) / 10, 0.6, 0.65],
      },
    ],
    { mass, deflectionMm, triangles },
  );
  const path = meshPath(blobFolder, key);
  await mkdir(dirname(path), { recursive: true });
  await writeFile(path, packed);
}

async function ask(server: Served, what: 'near' | 'overlaps', more: Record<string, string>): Promise<void> {
  const nodes = String(1 + FILES * PLACES_OF_EACH);
  const query = new URLSearchParams({ item: PRODUCT, lens: 'newest', nodes, ...more });
  await server.client('GET', `/api/${what}?${query.toString()}`);
}

async function timesOf(
  work: () => Promise<void>,
): Promise<{ readonly first: number; readonly again: number }> {
  const time = async (): Promise<number> => {
    const begin = performance.now();
    await work();
    return performance.now() - begin;
  };
  return { first: await time(), again: await time() };
}

interface Opened {
  readonly boxesMs: number;
  readonly wholeMs: number;
  readonly turned: {
    readonly perSecond: number;
    readonly triangles: number;
    readonly atRest: number;
    readonly atRestPerSecond: number;
  };
  readonly cutMs: number;
  readonly cutScriptMs: number;
  readonly memoryMb: number;
}

async function open(browser: Browser, { address, token }: Served): Promise<Opened> {
  const context = await browser.newContext({
    viewport: { width: 1280, height: 800 },
    extraHTTPHeaders: { Authorization: `Bearer ${token}` },
  });
  const page = await context.newPage();
  await page.addInitScript(countTriangles);
  await page.goto(`${address}/find`);
  await page.getByRole('grid', { name: 'Items found' }).waitFor();
  const start = performance.now();
  await page.goto(`${address}/look?item=${PRODUCT}`);
  const picture = page.getByRole('img', { name: /in three dimensions/ });
  await picture.locator('canvas').waitFor();
  const boxesMs = performance.now() - start;
  await page.locator('[role=img][aria-busy=false] canvas').waitFor();
  const wholeMs = performance.now() - start;
  const turned = await turn(page);
  const { cutMs, cutScriptMs } = await cut(page);
  await page.requestGC();
  const memoryMb = await page.evaluate(
    () => (performance as unknown as { memory: { usedJSHeapSize: number } }).memory.usedJSHeapSize / 1e6,
  );
  await context.close();
  return { boxesMs, wholeMs, turned, cutMs, cutScriptMs, memoryMb };
}

/** Runs in the page before anything else: how many triangles the last picture had. */
function countTriangles(): void {
  const counted = window as unknown as { drawn: number; single: number };
  counted.drawn = 0;
  counted.single = 0;
  const { clear, drawElementsInstanced, drawElements } = WebGL2RenderingContext.prototype;
  WebGL2RenderingContext.prototype.clear = function (mask) {
    counted.drawn = 0;
    counted.single = 0;
    clear.call(this, mask);
  };
  WebGL2RenderingContext.prototype.drawElements = function (mode, count, type, offset) {
    if (mode === WebGL2RenderingContext.TRIANGLES) counted.single += count / 3;
    drawElements.call(this, mode, count, type, offset);
  };
  WebGL2RenderingContext.prototype.drawElementsInstanced = function (mode, count, type, offset, instances) {
    if (mode === WebGL2RenderingContext.TRIANGLES) counted.drawn += (count / 3) * instances;
    drawElementsInstanced.call(this, mode, count, type, offset, instances);
  };
}

/** Drags it about as fast as it follows. */
async function turn(page: Page): Promise<Opened['turned']> {
  const canvas = page.locator('[role=img] canvas');
  const box = await canvas.boundingBox();
  if (!box) throw new Error('there is no picture');
  const atRest = await page.evaluate(() => (window as unknown as { drawn: number }).drawn);
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x + 5, y);
  const triangles = await page.evaluate(() => (window as unknown as { drawn: number }).drawn);
  const frames = await page.evaluate(
    async ([at, high, time]) => {
      const element = document.querySelector<HTMLElement>('[role=img] canvas');
      const pixels = new Uint8Array(4);
      const gl = element instanceof HTMLCanvasElement ? element.getContext('webgl2') : null;
      let count = 0;
      const begin = performance.now();
      while (performance.now() - begin < time) {
        const along = { pointerId: 1, pointerType: 'mouse', clientX: at + 5 + (count % 100), clientY: high };
        element?.dispatchEvent(new PointerEvent('pointermove', { bubbles: true, buttons: 1, ...along }));
        // Waits until it is drawn.
        gl?.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, pixels);
        count++;
        await new Promise((done) => requestAnimationFrame(done));
      }
      return (count * 1000) / (performance.now() - begin);
    },
    [x, y, TURNED_MS] as const,
  );
  await page.mouse.up();
  return { perSecond: frames, triangles, atRest, atRestPerSecond: await lookAround(page) };
}

/** Pictures a second where each is drawn as at rest: one looks from one side after another. */
async function lookAround(page: Page): Promise<number> {
  return page.evaluate(async (sides) => {
    const canvas = document.querySelector<HTMLCanvasElement>('[role=img] canvas');
    const gl = canvas?.getContext('webgl2');
    const pixels = new Uint8Array(4);
    const frame = (): Promise<unknown> => new Promise((done) => requestAnimationFrame(done));
    const begin = performance.now();
    for (let side = 1; side <= sides; side++) {
      canvas?.dispatchEvent(new KeyboardEvent('keydown', { key: String(side), bubbles: true }));
      await frame();
      await frame();
      gl?.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, pixels);
    }
    return (sides * 1000) / (performance.now() - begin);
  }, SIDES);
}

/** How long a section across the middle takes until it is closed, and the longest script while it is moved by keys. */
async function cut(page: Page): Promise<{ readonly cutMs: number; readonly cutScriptMs: number }> {
  await page.evaluate(() => {
    const longest = window as unknown as { longest: number };
    longest.longest = 0;
    new PerformanceObserver((list) => {
      for (const { duration } of list.getEntries()) longest.longest = Math.max(longest.longest, duration);
    }).observe({ type: 'longtask' });
  });
  const start = performance.now();
  await page.getByRole('combobox', { name: 'Section' }).selectOption('x');
  // Only caps are drawn one by one.
  await page.waitForFunction(() => (window as unknown as { single: number }).single > 0);
  const cutMs = performance.now() - start;
  const slider = page.getByRole('slider', { name: /^Place of the section/ });
  await slider.focus();
  await page.evaluate(() => ((window as unknown as { longest: number }).longest = 0));
  for (let step = 0; step < 10; step++) await page.keyboard.press('ArrowRight');
  await page.waitForTimeout(500);
  const cutScriptMs = await page.evaluate(() => (window as unknown as { longest: number }).longest);
  return { cutMs, cutScriptMs };
}
