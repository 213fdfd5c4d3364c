// `npm start`: everything from a fresh machine to a running application.
//   -- --port N    address http://127.0.0.1:N (default 4170; the next free one where it is taken)
//   -- --data DIR  where database and files lie
//   -- --empty     without the demo data
//   -- --demo      fills an empty database of DATABASE_URL with the demo data, whose passwords everybody is told
// DATABASE_URL uses an existing database instead of a cluster of our own; it gets the demo data only where that is asked for.
// What else can be set stands in docs/running.md.
import { spawn } from 'node:child_process';
import { chmodSync, existsSync, mkdirSync } from 'node:fs';
import { createServer } from 'node:net';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { build } from './lib/build.mjs';
import { ensureDatabase, startCluster } from './lib/cluster.mjs';
import { dataFolder } from './lib/data-folder.mjs';
import { ensurePackages, ensurePostgres, isRoot } from './lib/install.mjs';
import { Advice, ROOT, start } from './lib/run.mjs';

const DEFAULT_PORT = 4170;

start(async () => {
  const { port, data, hasDemo } = readOptions();
  await ensurePackages();
  const bin = process.env.DATABASE_URL ? undefined : await ensurePostgres();
  await build();
  mkdirSync(data, { recursive: true });
  // The database's user must be able to walk through to its own folder, and nobody needs to list this one.
  if (isRoot()) chmodSync(data, 0o711);

  const ending = new AbortController();
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => ending.abort());
  endWithParent(ending);

  // Planning that somebody has is used; else there is a stand-in.
  const planning = process.env.STEM_PLANNING === undefined ? await startPlanning(data) : undefined;
  // Mail goes where somebody says; with the demo, to a stand-in that shows it.
  const hooks = hasDemo ? await startStandin('webhooks', { STANDIN: 'hooks' }) : undefined;
  const mail = hasDemo && process.env.STEM_MAIL === undefined ? await startMail(data) : undefined;
  const cluster = bin ? await startCluster({ bin, folder: data }) : undefined;
  let server;
  let shop;
  try {
    const at = port === undefined ? await firstFree(DEFAULT_PORT) : await asked(port);
    shop = hasDemo ? await startShop(at) : undefined;
    const url = process.env.DATABASE_URL ?? cluster.url;
    await ensureDatabase(url);
    server = startServer({
      url,
      planning: planning?.address ?? process.env.STEM_PLANNING,
      mail: mail?.takes ?? process.env.STEM_MAIL,
      data,
      hasDemo,
      port: at,
    });
    const gone = new Promise((done) => server.once('exit', done));
    await Promise.race([
      gone,
      cluster?.ended ?? new Promise(() => {}),
      new Promise((done) => ending.signal.addEventListener('abort', done)),
    ]);
    if (server.exitCode === null) server.kill('SIGTERM');
    const code = await gone;
    process.exitCode = ending.signal.aborted ? 0 : (code ?? 1);
  } finally {
    planning?.process.kill('SIGTERM');
    shop?.process.kill('SIGTERM');
    mail?.process.kill('SIGTERM');
    hooks?.process.kill('SIGTERM');
    await cluster?.stop();
  }
});

/** A signal to npm reaches only the shell that it started us with; that shell's end is ours too. */
function endWithParent(ending) {
  const parent = process.ppid;
  const watch = setInterval(() => process.ppid !== parent && ending.abort(), 300);
  watch.unref();
}

function readOptions() {
  let values;
  try {
    ({ values } = parseArgs({
      options: {
        port: { type: 'string' },
        data: { type: 'string' },
        empty: { type: 'boolean', default: false },
        demo: { type: 'boolean', default: false },
      },
    }));
  } catch (error) {
    throw new Advice(`${error.message}\nOptions: --port N, --data DIR, --empty, --demo`);
  }
  const port = values.port === undefined ? undefined : Number(values.port);
  if (port !== undefined && !(Number.isInteger(port) && port > 0 && port < 65536))
    throw new Advice(`--port ${values.port} is not a port; give a number from 1 to 65535.`);
  return {
    port,
    data: dataFolder(values.data),
    // Our own private store is filled with it; somebody's database only where they say so.
    hasDemo: !values.empty && (values.demo || !process.env.DATABASE_URL),
  };
}

/** A planning system to try with, which keeps what it is sent beside the other data. */
function startPlanning(data) {
  return startStandin('planning', { STANDIN_FOLDER: join(data, 'planning') });
}

/** A mail server to try with, which shows what people are told by mail. */
function startMail(data) {
  return startStandin('mail', { STANDIN_FOLDER: join(data, 'mail') });
}

/** A shop to try with, which orders variants of the demo's stations. */
function startShop(port) {
  return startStandin('shop', {
    STANDIN_STORE: `http://127.0.0.1:${port}`,
    STANDIN_RECIPE: 'FR-1000',
    STANDIN_LOGIN: 'shop',
    STANDIN_PASSWORD: 'fenmark-shop',
  });
}

async function startStandin(what, settings) {
  const standin = spawn(process.execPath, [join(ROOT, 'apps/standins/dist/main.js')], {
    detached: true,
    stdio: ['ignore', 'pipe', 'inherit'],
    env: { ...process.env, STANDIN: what, STANDIN_PORT: '0', ...settings },
  });
  const { address, takes } = await new Promise((done, failed) => {
    let said = '';
    standin.once('exit', () => failed(new Error(`The ${what} stand-in did not start.`)));
    standin.stdout.on('data', (chunk) => {
      said += chunk;
      const found = /^listening (\S+)$/m.exec(said)?.[1];
      const at = /^takes (\S+)$/m.exec(said)?.[1];
      if (found && (at || what !== 'mail')) done({ address: found, takes: at });
    });
  });
  console.log(`  The ${what} stand-in is at ${address}`);
  return { address, takes, process: standin };
}

function startServer({ url, data, hasDemo, port, planning, mail }) {
  const main = join(ROOT, 'apps/server/dist/main.js');
  const server = spawn(process.execPath, ['--enable-source-maps', main], {
    // Ctrl-C goes to the whole group of a terminal; this process tells the server itself when it is time.
    detached: true,
    stdio: ['ignore', 'pipe', 'inherit'],
    env: {
      ...process.env,
      STEM_DATABASE_URL: url,
      STEM_BLOBS: join(data, 'blobs'),
      STEM_WEB: join(ROOT, 'apps/web/dist'),
      STEM_PORT: String(port),
      STEM_PLANNING: planning ?? '',
      STEM_MAIL: mail ?? '',
      STEM_PUBLIC: process.env.STEM_PUBLIC ?? `http://127.0.0.1:${port}`,
      STEM_CLI_FILE: process.env.STEM_CLI_FILE ?? join(ROOT, '.stem-trace/cli.json'),
      ...(hasDemo && existsSync(join(ROOT, 'demo/models'))
        ? { STEM_DEMO: join(ROOT, 'demo') }
        : { STEM_DEMO: '' }),
    },
  });
  server.stdout.on('data', (chunk) => {
    for (const line of String(chunk).split('\n').filter(Boolean)) {
      const address = /^listening (\S+)$/.exec(line)?.[1];
      console.log(address ? `\n  Stem Trace is at ${address}\n  Ctrl-C ends it.\n` : line);
    }
  });
  return server;
}

async function firstFree(from) {
  for (let port = from; port < from + 50; port++) if (await isFree(port)) return port;
  throw new Advice(`No free port between ${from} and ${from + 49}. Choose one: npm start -- --port N`);
}

/** The port that was asked for. @throws Advice where something else listens there */
async function asked(port) {
  if (!(await isFree(port)))
    throw new Advice(`Something already listens on port ${port}. Choose another: npm start -- --port N`);
  return port;
}

function isFree(port) {
  return new Promise((done) => {
    const probe = createServer();
    probe.once('error', () => done(false));
    probe.listen(port, '127.0.0.1', () => probe.close(() => done(true)));
  });
}
