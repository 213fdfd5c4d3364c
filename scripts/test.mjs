// `npm test`: types, lint, unit, server and browser tests; installs what is missing.
// Names at its end what failed; the last line is `N passed, N failed`.
import { existsSync, readFileSync, rmSync } from 'node:fs';
import { join, relative } from 'node:path';
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
  for (const name of results.flatMap(({ names }) => names ?? [])) console.log(`FAILED ${name}`);
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
  return code === 0 ? { passed: 1, failed: 0 } : { passed: 0, failed: 1, names: [name] };
}

async function vitest(name, config) {
  console.log(`\n— ${name} tests`);
  const report = join(REPORTS, `${name}.json`);
  const args = ['run', '-c', config, '--reporter=default', '--reporter=json', `--outputFile.json=${report}`];
  const { code } = await tryRun(bin('vitest'), args);
  return counted(name, code, report, ({ numPassedTests, numFailedTests, testResults }) => ({
    passed: numPassedTests,
    failed: numFailedTests,
    names: testResults.flatMap((file) => failedIn(file)),
  }));
}

async function browser() {
  console.log('\n— browser tests');
  const report = join(REPORTS, 'browser.json');
  const { code } = await tryRun(bin('playwright'), ['test', '--project=story', '--reporter=list,json'], {
    cwd: join(ROOT, 'e2e'),
    env: { ...process.env, PLAYWRIGHT_JSON_OUTPUT_NAME: report },
  });
  return counted('browser', code, report, ({ stats, suites }) => ({
    passed: stats.expected,
    failed: stats.unexpected + stats.flaky,
    names: suites.flatMap(({ file, specs }) =>
      specs.filter(({ ok }) => !ok).map(({ title }) => `${file} › ${title}`),
    ),
  }));
}

/** What failed in a file of tests, each with the first line of why; a file that could not even be read is one. */
function failedIn({ name, status, message, assertionResults }) {
  const file = relative(ROOT, name);
  const failed = assertionResults.filter((test) => test.status === 'failed');
  if (failed.length === 0 && status === 'failed') return [`${file}: ${firstLine(message)}`];
  return failed.map((test) => `${file} › ${test.fullName}: ${firstLine(test.failureMessages[0] ?? '')}`);
}

const firstLine = (text) => text.split('\n', 1)[0];

/** A run that failed without a failing test, or without a report, counts as one failure. */
function counted(run, code, report, read) {
  if (!existsSync(report)) return { passed: 0, failed: 1, names: [`${run} tests: no report`] };
  const { passed, failed, names } = read(JSON.parse(readFileSync(report, 'utf8')));
  if (code === 0 || failed > 0) return { passed, failed, names };
  return { passed, failed: 1, names: [...names, `${run} tests: ended with ${code}`] };
}
