/** What the demo organisation has set for its store: properties, classes and serial numbers. */

export const DEFINITIONS = [
  { name: 'Wall thickness', kind: 'number', unit: 'mm', choices: [] },
  { name: 'Finish', kind: 'choice', unit: '', choices: ['Raw', 'Galvanised', 'Anodised', 'Painted'] },
  { name: 'Thread', kind: 'text', unit: '', choices: [] },
  { name: 'Protection', kind: 'choice', unit: '', choices: ['none', 'IP 54', 'IP 66', 'IP 67', 'IP 68'] },
  { name: 'Tested in the field', kind: 'yes/no', unit: '', choices: [] },
  { name: 'Last supplier audit', kind: 'date', unit: '', choices: [] },
] as const;

/** `items` are the beginnings of the numbers of those that belong to the class. */
export const CLASSES = [
  {
    name: 'Sheet metal part',
    properties: [
      { name: 'Wall thickness', isRequired: true },
      { name: 'Finish', isRequired: true },
      { name: 'Tested in the field', isRequired: false },
    ],
    items: ['FM-3304', 'FM-3501', 'FM-3502', 'FM-4111'],
  },
  {
    name: 'Fastener',
    properties: [
      { name: 'Thread', isRequired: true },
      { name: 'Finish', isRequired: false },
    ],
    items: ['FM-90'],
  },
  {
    name: 'Cable entry',
    properties: [
      { name: 'Thread', isRequired: true },
      { name: 'Protection', isRequired: true },
      { name: 'Last supplier audit', isRequired: false },
    ],
    items: ['FM-91'],
  },
] as const;

export const SCHEMES = [
  { name: 'Parts of our own', prefix: 'FM-45', digits: 2, suffix: '', class: '' },
  { name: 'Fasteners', prefix: 'FM-90', digits: 2, suffix: '', class: 'Fastener' },
] as const;
