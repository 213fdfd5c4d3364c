// `npm test`: types, lint, unit, server and browser tests; installs what is missing. Last line: `N passed, N failed`.
import { existsSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { build } from './lib/build.mjs';
import { ensureChromium, ensureDebian, ensurePackages, ensurePostgres } from './lib/install.mjs';
import { ROOT, start, tryRun } from './lib/run.mjs';

const REPORTS = join(ROOT, '.stem-trace/reports');
const UNUSED = 'files,dependencies,devDependencies,exports';
const bin = (name) => join(ROOT, 'node_modules/.bin', name);

start(async () => {
  await ensurePackages();
  await ensurePostgres();
  await ensureChromium();
  // What is written as XML is read by a reader that is not ours.
  await ensureDebian('/usr/bin/xmllint', 'libxml2-utils', 'the XML reader');
  await build();
  rmSync(REPORTS, { recursive: true, force: true });
  const results = [
    ...(await sideBySide([
      [['types', process.execPath, ['scripts/types.mjs']]],
      [
        ['lint', bin('eslint'), ['.', '--max-warnings', '0']],
        ['format', bin('prettier'), ['--check', '--log-level', 'warn', '.']],
        [
          'rooms and cycles',
          bin('depcruise'),
          ['packages', 'apps', 'demo/src', '--config', '.dependency-cruiser.cjs'],
        ],
        ['unused code', bin('knip'), ['--no-progress', '--no-config-hints', '--include', UNUSED]],
      ],
    ])),
    await vitest('unit', 'vitest.config.ts'),
    await vitest('server', 'vitest.server.config.ts'),
    await browser(),
  ];
  const passed = results.reduce((sum, result) => sum + result.passed, 0);
  const failed = results.reduce((sum, result) => sum + result.failed, 0);
  console.log(`${passed} passed, ${failed} failed`);
  process.exitCode = failed > 0 ? 1 : 0;
});

/** Lanes of checks, the checks of one after another; what each says is told when it has ended. */
async function sideBySide(lanes) {
  const results = await Promise.all(
    lanes.map(async (lane) => {
      const done = [];
      for (const [name, command, args] of lane) done.push(await check(name, command, args));
      return done;
    }),
  );
  return results.flat();
}

async function check(name, command, args) {
  const { code, output } = await tryRun(command, args, { quiet: true });
  console.log(`\n— ${name}${code === 0 ? '' : ' FAILED'}`);
  if (output.trim() !== '') console.log(output.trimEnd());
  return { passed: code === 0 ? 1 : 0, failed: code === 0 ? 0 : 1 };
}

async function vitest(name, config) {
  console.log(`\n— ${name} tests`);
  const report = join(REPORTS, `${name}.json`);
  const args = ['run', '-c', config, '--reporter=default', '--reporter=json', `--outputFile.json=${report}`];
  const { code } = await tryRun(bin('vitest'), args);
  return counted(code, report, ({ numPassedTests, numFailedTests }) => ({
    passed: numPassedTests,
    failed: numFailedTests,
  }));
}

async function browser() {
  console.log('\n— browser tests');
  const report = join(REPORTS, 'browser.json');
  const { code } = await tryRun(bin('playwright'), ['test', '--project=story', '--reporter=list,json'], {
    cwd: join(ROOT, 'e2e'),
    env: { ...process.env, PLAYWRIGHT_JSON_OUTPUT_NAME: report },
  });
  return counted(code, report, ({ stats }) => ({
    passed: stats.expected,
    failed: stats.unexpected + stats.flaky,
  }));
}

/** A run that failed without a failing test, or without a report, counts as one failure. */
function counted(code, report, read) {
  if (!existsSync(report)) return { passed: 0, failed: 1 };
  const { passed, failed } = read(JSON.parse(readFileSync(report, 'utf8')));
  return { passed, failed: code !== 0 && failed === 0 ? 1 : failed };
}
