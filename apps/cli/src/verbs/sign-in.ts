import { parseVerb } from '../arguments.js';
import { CliError, signIn as signInAs } from '../client.js';
import type { Answer, Verb } from './verb.js';

/** The password is read from standard input or STEM_PASSWORD: what stands in a command is seen by everybody. */
export const signIn: Verb = {
  usage: 'signin NAME [--url ADDRESS]',
  about: 'Act as somebody from now on; the password comes from standard input or STEM_PASSWORD',
  async run(args, { env, readInput }): Promise<Answer> {
    const parsed = parseVerb(args, { url: { type: 'string' } }, { min: 1, max: 1 }, signIn.usage);
    const [login = ''] = parsed.positionals;
    const password = env.STEM_PASSWORD ?? (await readInput()).split(/\r?\n/)[0] ?? '';
    if (password === '') throw new CliError('No password came in. Pipe it in, or set STEM_PASSWORD.');
    const url = parsed.text('url');
    await signInAs({ login, password, url, env });
    return { json: { login }, lines: [`You act as ${login} now, for 30 days.`] };
  },
};
