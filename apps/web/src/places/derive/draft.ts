import type { DeriveRequest } from '@stem-trace/contract';

/** What a person has decided so far; the plan is worked out from it by the server. */
export interface DeriveDraft {
  readonly copyAll: boolean;
  readonly decisions: Readonly<Record<string, 'share' | 'copy'>>;
  readonly find: string;
  readonly replace: string;
  readonly prefix: string;
  readonly renamed: Readonly<Record<string, { readonly number?: string; readonly name?: string }>>;
  readonly place: string;
  /** Of this attempt, so that pressing twice makes one variant. */
  readonly key: string;
}

export const EMPTY_DRAFT: DeriveDraft = {
  copyAll: false,
  decisions: {},
  find: '',
  replace: '',
  prefix: '',
  renamed: {},
  place: '',
  key: '',
};

export function requestOf(item: string, draft: DeriveDraft): DeriveRequest {
  const decided = Object.entries(draft.decisions);
  return {
    item,
    copy: draft.copyAll ? 'all' : 'proposed',
    alsoCopy: decided.filter(([, decision]) => decision === 'copy').map(([number]) => number),
    share: decided.filter(([, decision]) => decision === 'share').map(([number]) => number),
    replace: draft.find === '' ? [] : [{ from: draft.find, to: draft.replace }],
    prefix: draft.prefix,
    renamed: draft.renamed,
    place: draft.place,
    key: draft.key,
  };
}
