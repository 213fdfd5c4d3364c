// Running commands, and the folder everything is relative to. Only Node's own modules: these scripts run before
// anything is installed.
import { spawn } from 'node:child_process';
import { dirname, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';

export const ROOT = resolve(dirname(fileURLToPath(import.meta.url)), '../..');

/** A sentence for the person at the terminal; no stack is shown for it. */
export class Advice extends Error {}

/**
 * Runs a command to its end, its output going where ours goes unless `quiet`.
 * @throws Advice where it fails, with what it said if that was kept back
 */
export async function run(command, args, { quiet = false, ...options } = {}) {
  const { code, output } = await tryRun(command, args, { quiet, ...options });
  if (code !== 0)
    throw new Advice(`'${[command, ...args].join(' ')}' failed with ${code}.${output ? `\n${output}` : ''}`);
  return output;
}

/** As `run`, with the exit code given back. */
export async function tryRun(command, args, { quiet = false, ...options } = {}) {
  const child = spawn(command, args, {
    cwd: ROOT,
    stdio: quiet ? ['ignore', 'pipe', 'pipe'] : ['ignore', 'inherit', 'inherit'],
    ...options,
  });
  let output = '';
  child.stdout?.on('data', (chunk) => (output += chunk));
  child.stderr?.on('data', (chunk) => (output += chunk));
  const code = await new Promise((done, fail) => {
    child.once('error', fail);
    child.once('close', (status, signal) => done(status ?? signal));
  });
  return { code, output };
}

/** Runs `main` and turns advice into a message and exit code 1. */
export function start(main) {
  main().catch((error) => {
    console.error(error instanceof Advice ? error.message : error);
    process.exit(1);
  });
}
