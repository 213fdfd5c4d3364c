/** The verbs, and carrying one out. */
import { CliError } from './client.js';
import { plainText } from './plain-text.js';
import type { Terminal } from './terminal.js';
import { audit } from './verbs/audit.js';
import { checkIn } from './verbs/check-in.js';
import { bill } from './verbs/bill.js';
import { change } from './verbs/change.js';
import { compare } from './verbs/compare.js';
import { check, agree, sendBack, sheet, waits } from './verbs/check.js';
import { effective } from './verbs/effective.js';
import { baselines, issued } from './verbs/issued.js';
import { bringBack, catchUp, checkOut, history, holds, inbox, letGo, revise, step } from './verbs/custody.js';
import { join, split } from './verbs/files.js';
import { begin, derive, plan } from './verbs/derive.js';
import { fetchVerb } from './verbs/fetch.js';
import { find } from './verbs/find.js';
import { intake } from './verbs/intake.js';
import {
  access,
  listBin,
  makePlace,
  moveItems,
  movePlace,
  places,
  putIntoBin,
  restore,
} from './verbs/places.js';
import { common, effect } from './verbs/effect.js';
import { like } from './verbs/like.js';
import { carry } from './verbs/carry.js';
import { drift, family } from './verbs/lineage.js';
import { align, reserve, setProperties } from './verbs/properties.js';
import { signIn } from './verbs/sign-in.js';
import { made, used } from './verbs/structure.js';
import { verify } from './verbs/verify.js';
import { wish } from './verbs/wish.js';
import { status, update, watch } from './verbs/working-copy.js';
import type { Verb } from './verbs/verb.js';

const VERBS = new Map<string, Verb>([
  ['intake', intake],
  ['find', find],
  ['made', made],
  ['used', used],
  ['bill', bill],
  ['change', change],
  ['compare', compare],
  ['begin', begin],
  ['derive', derive],
  ['plan', plan],
  ['wish', wish],
  ['drift', drift],
  ['carry', carry],
  ['family', family],
  ['fetch', fetchVerb],
  ['split', split],
  ['join', join],
  ['checkout', checkOut],
  ['checkin', checkIn],
  ['status', status],
  ['update', update],
  ['watch', watch],
  ['letgo', letGo],
  ['holds', holds],
  ['history', history],
  ['revise', revise],
  ['step', step],
  ['issued', issued],
  ['baselines', baselines],
  ['effective', effective],
  ['check', check],
  ['waits', waits],
  ['sheet', sheet],
  ['sendback', sendBack],
  ['agree', agree],
  ['catchup', catchUp],
  ['bringback', bringBack],
  ['inbox', inbox],
  ['signin', signIn],
  ['verify', verify],
  ['audit', audit],
  ['places', places],
  ['mkplace', makePlace],
  ['mvplace', movePlace],
  ['move', moveItems],
  ['bin', putIntoBin],
  ['inbin', listBin],
  ['restore', restore],
  ['access', access],
  ['set', setProperties],
  ['number', reserve],
  ['align', align],
  ['effect', effect],
  ['common', common],
  ['like', like],
]);

/** What a program leaves behind. */
export interface Outcome {
  readonly code: number;
  readonly out: string;
  readonly err: string;
}

/** Carries out what a command line says; what went wrong is told in a sentence, with code 1. */
export async function runStem([name, ...args]: readonly string[], terminal: Terminal): Promise<Outcome> {
  try {
    const verb = VERBS.get(name ?? '');
    if (!verb) throw new CliError(help(name));
    const { json, lines, isPartial = false } = await verb.run(args, terminal);
    const out = args.includes('--json') ? JSON.stringify(json) : lines.map(plainText).join('\n');
    return {
      code: isPartial ? 1 : 0,
      out: `${out}\n`,
      err: '',
    };
  } catch (error) {
    if (!(error instanceof CliError)) throw error;
    return { code: 1, out: '', err: `${plainText(error.message)}\n` };
  }
}

function help(unknown: string | undefined): string {
  const verbs = [...VERBS.values()].map((verb) => `  stem ${verb.usage}\n      ${verb.about}`).join('\n');
  const first = unknown === undefined ? 'Say what to do.' : `There is no verb '${unknown}'.`;
  return `${first}\n${verbs}\n  Every verb takes --json.`;
}
