import { parseVerb } from '../arguments.js';
import { CliError } from '../client.js';
import type { Answer, Verb } from './verb.js';

export const verify: Verb = {
  usage: 'verify',
  about: 'Prove that the store is whole (for administrators)',
  async run(args, { connect }): Promise<Answer> {
    parseVerb(args, {}, { min: 0, max: 0 }, verify.usage);
    const answer = await (await connect()).get('/api/verify');
    if (!answer.whole) throw new CliError(['The store is not whole:', ...answer.faults].join('\n'));
    const { items, versions, links, gaps, blobs } = answer;
    return {
      json: answer,
      lines: [`Whole: ${items} items, ${versions} versions, ${links} links (${gaps} gaps), ${blobs} blobs.`],
    };
  },
};
