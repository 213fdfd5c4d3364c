import { PUT_SPOTS, RULE_SPOTS, RULE_SUBJECTS, type NameRule } from '@stem-trace/core';
import { AskDialog, type AskedField } from '../../ui/ask-dialog.js';

export interface RuleDialogProps {
  readonly rule: NameRule;
  readonly onChange: (rule: NameRule) => void;
  readonly onClose: () => void;
}

/** Edits one rule. */
export function RuleDialog({ rule, onChange, onClose }: RuleDialogProps): React.JSX.Element {
  return (
    <AskDialog
      title="Edit the rule"
      action="Save"
      fields={[...fieldsOf(rule), choice('of', 'Applies to', rule.of, RULE_SUBJECTS)]}
      onAnswer={(answers) => {
        const changed = changedRule(rule, answers);
        if (typeof changed === 'string') return Promise.reject(new Error(changed));
        onChange(changed);
        return Promise.resolve();
      }}
      onClose={onClose}
    />
  );
}

const SPOTS: Readonly<Record<string, string>> = {
  start: 'at the start',
  end: 'at the end',
  word: 'as a whole word',
  anywhere: 'anywhere',
  count: 'after the last number',
  first: 'the first number',
  last: 'the last number',
  upper: 'capitals',
  lower: 'lower case',
  numbers: 'numbers',
  names: 'names',
  both: 'numbers and names',
};

function choice(key: string, label: string, value: string, keys: readonly string[]): AskedField {
  return { key, label, value, options: keys.map((one) => ({ key: one, text: SPOTS[one] ?? one })) };
}

function fieldsOf(rule: NameRule): AskedField[] {
  switch (rule.kind) {
    case 'replace':
      return [
        { key: 'from', label: 'This text', value: rule.from },
        choice('where', 'Where it stands', rule.where, RULE_SPOTS),
        { key: 'to', label: 'Becomes', value: rule.to },
      ];
    case 'put':
      return [
        { key: 'text', label: 'This text', value: rule.text },
        choice('at', 'Position', rule.at, PUT_SPOTS),
      ];
    case 'count':
      return [
        { key: 'by', label: 'Add', value: String(rule.by) },
        choice('run', 'To', rule.run, ['first', 'last']),
      ];
    case 'case':
      return [choice('to', 'All in', rule.to, ['upper', 'lower'])];
  }
}

/** The rule with what was answered, or what is wrong with that. */
function changedRule(rule: NameRule, answers: Readonly<Record<string, string>>): NameRule | string {
  const of = RULE_SUBJECTS.find((subject) => subject === answers.of) ?? rule.of;
  switch (rule.kind) {
    case 'replace':
      return answers.from === ''
        ? 'Enter the text to replace.'
        : {
            ...rule,
            of,
            from: answers.from ?? rule.from,
            to: answers.to ?? rule.to,
            where: RULE_SPOTS.find((spot) => spot === answers.where) ?? rule.where,
          };
    case 'put':
      return answers.text === ''
        ? 'Enter the text to insert.'
        : {
            ...rule,
            of,
            text: answers.text ?? rule.text,
            at: PUT_SPOTS.find((spot) => spot === answers.at) ?? rule.at,
          };
    case 'count':
      return /^[+−-]?[0-9]{1,15}$/.test(answers.by ?? '')
        ? {
            ...rule,
            of,
            by: Number((answers.by ?? '').replace('−', '-')),
            run: answers.run === 'first' ? 'first' : 'last',
          }
        : 'Enter a whole number to add.';
    case 'case':
      return { ...rule, of, to: answers.to === 'lower' ? 'lower' : 'upper' };
  }
}
