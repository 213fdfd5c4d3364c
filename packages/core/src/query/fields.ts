/** What filters there are, besides properties; the parser and the completion both go by these. */
import type { Belonging, ItemRelation, OptionField, TextField, TimeField } from './query.js';

export const TEXT_FIELDS: Readonly<Record<TextField, string>> = {
  number: 'of the item',
  name: 'of the item',
  description: 'as its file gives it',
  comment: 'of any check-in',
  text: 'of a document or drawing',
  file: 'name of its file',
  revision: 'code of the newest revision',
  remark: 'in mark-up, or in an answer to it',
};

export const OPTION_FIELDS: Readonly<Record<Exclude<OptionField, 'class' | 'state'>, readonly string[]>> = {
  kind: ['part', 'assembly', 'drawing', 'document', 'bill', 'request', 'order'],
  format: ['step', 'dxf', 'pdf', 'workbook', 'text document', 'table', 'text', 'image', 'other'],
};

export const TIME_FIELDS: Readonly<Record<TimeField, string>> = {
  changed: 'when the newest version came in',
  created: 'when the first version came in',
};

export const ITEM_RELATIONS: Readonly<Record<ItemRelation, string>> = {
  'used in': 'everything an item is made of, at any level',
  'made of': 'everything that uses an item, at any level',
  'derived from': 'variants of an item, and variants of those',
  like: 'designs of a similar shape',
  'in change': 'what a change request or order has to do with',
  'affected by': 'what a change says has to change',
};

export const BELONGINGS: Readonly<Record<Belonging, string>> = {
  drawing: 'a drawing that shows it',
  document: 'a document about it',
  gap: 'a reference that leads nowhere',
  class: 'a class',
  comment: 'a comment on its newest version',
  'mark-up': 'something drawn or written on it that is still open',
  change: 'a change order that made what of it is released',
};

/** Filters of one or two words that take nothing. */
export const PLAIN_FILTERS: Readonly<Record<'behind' | 'held' | 'held by me' | 'unused', string>> = {
  behind: 'its newest version recorded something that has a newer one',
  held: 'somebody holds it',
  'held by me': 'you hold it',
  unused: 'no item is made of it',
};
