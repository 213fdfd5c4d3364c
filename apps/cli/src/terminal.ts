import { plainText } from './plain-text.js';
import { resolve } from 'node:path';
import { text } from 'node:stream/consumers';
import { connect, type Client } from './client.js';

/** What a verb has around it. */
export interface Terminal {
  readonly env: NodeJS.ProcessEnv;
  /** A client of the server that the environment says. */
  readonly connect: () => Promise<Client>;
  /** A path as the person meant it. */
  readonly fromHere: (path: string) => string;
  /** All of standard input. */
  readonly readInput: () => Promise<string>;
  /** Says something at once, while the verb goes on. */
  readonly say: (text: string) => void;
  /** Calls back when the person has had enough, as Ctrl-C says it. */
  readonly onEnd: (end: () => void) => void;
}

/** The terminal of a process. npm runs programs elsewhere than where they were called. */
export function terminalOf(
  program: Pick<NodeJS.Process, 'env' | 'stdin' | 'stdout' | 'cwd' | 'once'>,
): Terminal {
  const { env } = program;
  return {
    env,
    connect: () => connect(env),
    fromHere: (path) => resolve(env.INIT_CWD ?? program.cwd(), path),
    readInput: () => text(program.stdin),
    say: (said) => program.stdout.write(`${plainText(said)}\n`),
    onEnd: (end) => {
      program.once('SIGINT', end);
      program.once('SIGTERM', end);
    },
  };
}
