import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const ROOT = join(import.meta.dirname, '../..');
const STARTED_WITHIN_MS = 120_000;

/** Starts the application as a user does, with the demo data, and ends it as Ctrl-C does. */
export default async function setup(): Promise<() => Promise<void>> {
  const folder = mkdtempSync(join(tmpdir(), 'stem-trace-e2e-'));
  const { freePort } = (await import(join(ROOT, 'scripts/lib/cluster.mjs'))) as {
    freePort(): Promise<number>;
  };
  const port = await freePort();
  const application = spawn('node', ['scripts/start.mjs', '--port', String(port), '--data', folder], {
    cwd: ROOT,
    stdio: ['ignore', 'pipe', 'inherit'],
    env: { ...process.env, STEM_CLI_FILE: join(folder, 'cli.json') },
  });
  const ended = new Promise<number | null>((done) => application.once('exit', done));
  const { shop, mail, hooks } = await new Promise<{ shop: string; mail: string; hooks: string }>(
    (ready, fail) => {
      let said = '';
      const timer = setTimeout(
        () => fail(new Error(`the application did not start:\n${said}`)),
        STARTED_WITHIN_MS,
      );
      application.stdout.on('data', (chunk: Buffer) => {
        said += chunk.toString();
        if (!said.includes(`Stem Trace is at http://127.0.0.1:${port}`)) return;
        clearTimeout(timer);
        const standin = (what: string): string =>
          new RegExp(`${what} stand-in is at (\\S+)`).exec(said)?.[1] ?? '';
        ready({ shop: standin('shop'), mail: standin('mail'), hooks: standin('webhooks') });
      });
      void ended.then(() => fail(new Error(`the application ended:\n${said}`)));
    },
  );
  process.env.STEM_E2E_URL = `http://127.0.0.1:${port}`;
  process.env.STEM_E2E_SHOP = shop;
  process.env.STEM_E2E_MAIL = mail;
  process.env.STEM_E2E_HOOKS = hooks;
  return async () => {
    application.kill('SIGTERM');
    const code = await ended;
    rmSync(folder, { recursive: true, force: true });
    if (code !== 0) throw new Error(`the application ended with ${code}`);
  };
}
