/**
 * The server as a process: what it needs comes in by environment variables, which the start script sets.
 * It says on its standard output when it listens, and ends cleanly on SIGTERM and SIGINT.
 */
import { AccessService } from './access/access.service.js';
import { loadDemo } from './demo/load-demo.js';
import { isDatabaseAway } from './problems/to-problem.js';
import { ServerSettings } from './server-settings.js';
import { startServer } from './server.js';
import { ensureAdministrator, provideTokenFor } from './access/first-start.js';

const { STEM_DATABASE_URL, STEM_BLOBS, STEM_WEB, STEM_PORT, STEM_CLI_FILE, STEM_DEMO } = process.env;
if (!STEM_DATABASE_URL || !STEM_BLOBS)
  throw new Error('STEM_DATABASE_URL and STEM_BLOBS must be set; use npm start');

// Blobs, keys and tokens are for the user that runs the server alone.
process.umask(0o077);

const server = await startServer({
  databaseUrl: STEM_DATABASE_URL,
  blobFolder: STEM_BLOBS,
  port: Number(STEM_PORT ?? 0),
  ...(STEM_DEMO ? { demoFolder: STEM_DEMO } : {}),
  ...(STEM_WEB ? { webFolder: STEM_WEB } : {}),
  worksInBackground: true,
  settings: ServerSettings.from(process.env),
  logLevels: ['warn', 'error', 'fatal'],
});
if (STEM_DEMO) await loadDemo(server.app, STEM_DEMO, (line) => process.stdout.write(`${line}\n`));
await ensureAdministrator(server.app.get(AccessService), (line) => process.stdout.write(`${line}\n`));
if (STEM_CLI_FILE) await provideTokenFor(server.app.get(AccessService), STEM_CLI_FILE, server.address);
process.stdout.write(`listening ${server.address}\n`);

// A connection may be lost at a moment when nobody waits for it; whoever asks next gets a new one.
process.on('uncaughtException', (error) => {
  process.stderr.write(`${error.stack ?? error.message}\n`);
  if (!isDatabaseAway(error)) process.exit(1);
});

const END_MS = 15_000;
let ending = false;
const end = (): void => {
  if (ending) return;
  ending = true;
  // Whatever a thread or a connection is at: what is not committed by then is not there.
  setTimeout(() => process.exit(1), END_MS).unref();
  void server.close().then(
    () => process.exit(0),
    () => process.exit(1),
  );
};
for (const signal of ['SIGTERM', 'SIGINT'] as const) process.on(signal, end);
// The start script may be killed without a chance to end us.
const parent = process.ppid;
setInterval(() => {
  if (process.ppid !== parent) end();
}, 500).unref();
