import type { Addresses } from '@stem-trace/contract';
import type { Grant, Right } from '@stem-trace/core';
import { parseVerb } from '../arguments.js';
import { CliError } from '../client.js';
import { table, type Answer, type Verb } from './verb.js';

export const places: Verb = {
  usage: 'places',
  about: 'The tree of places',
  async run(args, { connect }): Promise<Answer> {
    parseVerb(args, {}, { min: 0, max: 0 }, places.usage);
    const rows = await (await connect()).get('/api/places');
    return {
      json: { rows },
      lines: table(rows.map(({ path, items }) => [path, items === 0 ? '' : String(items)])),
    };
  },
};

interface Deed {
  readonly usage: string;
  readonly about: string;
  readonly words: { readonly min: number; readonly max: number };
  /** Path and body of the request, and what is said when it is done. */
  readonly request: (words: readonly string[]) => { path: Addresses<'POST'>; body: unknown; says: string };
}

/** A verb that does one thing and answers with a sentence. */
function deed({ usage, about, words, request }: Deed): Verb {
  return {
    usage,
    about,
    async run(args, { connect }): Promise<Answer> {
      const { positionals } = parseVerb(args, {}, words, usage);
      const { path, body, says } = request(positionals);
      await (await connect()).send('POST', path, body);
      return { json: { done: true }, lines: [says] };
    },
  };
}

export const makePlace = deed({
  usage: 'mkplace PATH',
  about: 'Make a place',
  words: { min: 1, max: 1 },
  request: ([path = '']) => ({ path: '/api/places', body: { path }, says: `${path} is made.` }),
});

export const movePlace = deed({
  usage: 'mvplace FROM TO',
  about: 'Move or rename a place with all that lies in it',
  words: { min: 2, max: 2 },
  request: ([from = '', to = '']) => ({
    path: '/api/places/move',
    body: { from, to },
    says: `${from} is ${to} now.`,
  }),
});

export const moveItems = deed({
  usage: 'move NUMBER … PATH',
  about: 'Move items to a place',
  words: { min: 2, max: 10_000 },
  request: (words) => ({
    path: '/api/items/move',
    body: { items: words.slice(0, -1), place: words.at(-1) },
    says: `Moved to ${words.at(-1) ?? ''}.`,
  }),
});

export const putIntoBin = deed({
  usage: 'bin PATH',
  about: 'Put a place into the bin with all that lies in it',
  words: { min: 1, max: 1 },
  request: ([place = '']) => ({
    path: '/api/places/bin',
    body: { place },
    says: `${place} is in the bin; 'stem restore ${place}' brings it back.`,
  }),
});

export const restore = deed({
  usage: 'restore PATH',
  about: 'Bring a place back from the bin',
  words: { min: 1, max: 1 },
  request: ([place = '']) => ({
    path: '/api/places/restore',
    body: { place },
    says: `${place} is back as it was.`,
  }),
});

export const listBin: Verb = {
  usage: 'inbin',
  about: 'What is in the bin',
  async run(args, { connect }): Promise<Answer> {
    parseVerb(args, {}, { min: 0, max: 0 }, listBin.usage);
    const rows = await (await connect()).get('/api/places/bin');
    return {
      json: { rows },
      lines: table(rows.map(({ path, items, binnedBy }) => [path, `${items} items`, `by ${binnedBy}`])),
    };
  },
};

export const access: Verb = {
  usage: 'access PATH [--grant WHO=RIGHT,RIGHT … | --cut yes|no]',
  about: 'Who may do what in a place; WHO is a login or role:NAME, no rights take the grant away',
  async run(args, { connect }): Promise<Answer> {
    const parsed = parseVerb(
      args,
      { grant: { type: 'string', multiple: true }, cut: { type: 'string' } },
      { min: 1, max: 1 },
      access.usage,
    );
    const client = await connect();
    const place = parsed.positionals[0] ?? '';
    let view = await client.get('/api/places/access', { place });
    const changes = parsed.texts('grant').map(parseGrant);
    const cut = parsed.text('cut');
    if (changes.length > 0 || cut !== undefined) {
      const changed = new Set(changes.map(({ to }) => keyOf(to)));
      const grants = [
        ...view.grants.filter(({ to }) => !changed.has(keyOf(to))),
        ...changes.filter(({ rights }) => rights.length > 0),
      ];
      const inherits = cut === undefined ? view.inherits : cut !== 'yes';
      view = await client.send('PUT', '/api/places/access', { place, inherits, grants });
    }
    const line = ({ to, rights }: Grant, from: string): string[] => [keyOf(to), rights.join(', '), from];
    return {
      json: view,
      lines: table([
        ...view.grants.map((grant) => line(grant, '')),
        ...view.fromAbove.flatMap((above) => above.grants.map((grant) => line(grant, `from ${above.place}`))),
      ]),
    };
  },
};

function parseGrant(text: string): Grant {
  const at = text.indexOf('=');
  const who = text.slice(0, at);
  if (at <= 0) throw new CliError(`'${text}' is no grant. Write it as ines=see,fetch or role:viewer=see.`);
  const rights = text
    .slice(at + 1)
    .split(',')
    .filter((right) => right !== '') as Right[];
  return {
    to: who.startsWith('role:') ? { kind: 'role', role: who.slice(5) } : { kind: 'person', login: who },
    rights,
  };
}

function keyOf(to: Grant['to']): string {
  return to.kind === 'role' ? `role:${to.role}` : to.login;
}
