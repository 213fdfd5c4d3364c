import { BASES, parseAmount, ROLES, sayAmount, type Amount } from '@stem-trace/core';
import { AskDialog } from '../ui/ask-dialog.js';

const COUNTED: Readonly<Record<(typeof BASES)[number], string>> = {
  each: 'for every piece',
  batch: 'for every batch',
  fixed: 'once, however many are made',
  'as required': 'as required: nobody says how much',
};

const MEANT = {
  needed: 'needed',
  'by-product': 'by-product: it comes out of making it',
  reference: 'reference: it never counts',
} as const satisfies Record<(typeof ROLES)[number] | 'needed', string>;

/** Everything that a quantity can say, field by field, for those who do not know how it is written in one cell. */
export function AmountDialog({
  of,
  value,
  onAnswer,
  onClose,
}: {
  /** What it is the quantity of. */
  readonly of: string;
  /** As it is said. */
  readonly value: string;
  readonly onAnswer: (said: string) => void;
  readonly onClose: () => void;
}): React.JSX.Element {
  const amount = parseAmount(value);
  return (
    <AskDialog
      title={`Quantity of ${of}`}
      action="Take it"
      fields={[
        { key: 'value', label: 'How much', value: amount?.value ?? '1' },
        { key: 'unit', label: 'Unit, such as m, ml or kg; empty for pieces', value: amount?.unit ?? '' },
        {
          key: 'basis',
          label: 'Counted',
          value: amount?.basis ?? 'each',
          options: BASES.map((key) => ({ key, text: COUNTED[key] })),
        },
        { key: 'scrap', label: 'Lost on the way, in %', value: percent(amount?.scrap) },
        { key: 'step', label: 'Rounded up to a multiple of', value: amount?.step ?? '' },
        {
          key: 'role',
          label: 'It is',
          value: amount?.role ?? 'needed',
          options: Object.entries(MEANT).map(([key, text]) => ({ key, text })),
        },
      ]}
      onAnswer={(answers) => {
        const said = saidBy(answers);
        if (said === undefined)
          return Promise.reject(new Error('Write plain numbers, such as 0.4, and 5 for 5 %.'));
        onAnswer(said);
        return Promise.resolve();
      }}
      onClose={onClose}
    />
  );
}

function percent(scrap: string | undefined): string {
  if (scrap === undefined) return '';
  return /\+ ([\d.]+) %/.exec(sayAmount({ value: '1', unit: '', basis: 'each', scrap }))?.[1] ?? '';
}

/** @returns the quantity in one text; undefined where the fields say none */
export function saidBy(answers: Readonly<Record<string, string>>): string | undefined {
  const of = (key: string): string => (answers[key] ?? '').trim();
  const basis = BASES.find((each) => each === of('basis')) ?? 'each';
  const role = ROLES.find((each) => each === of('role')) ?? '';
  const [scrap, step] = [of('scrap').replace(/\s*%$/, ''), of('step')];
  const said: readonly string[] =
    basis === 'as required'
      ? ['as required']
      : [
          ...[of('value'), of('unit')],
          basis === 'batch' ? 'per batch' : basis === 'fixed' ? 'fixed' : '',
          scrap === '' || Number(scrap) === 0 ? '' : `+ ${scrap} %`,
          step === '' ? '' : `rounded up to ${step}`,
        ];
  const amount: Amount | undefined = parseAmount([...said, role].filter(Boolean).join(' '));
  return amount && sayAmount(amount);
}
