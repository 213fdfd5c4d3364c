import { sayRule, type NameRule } from '@stem-trace/core';
import { ArrowDown, ArrowUp, Pencil, X } from 'lucide-react';
import { useState } from 'react';
import styled from 'styled-components';
import { Mono, QuietButton, Soft } from '../../ui/controls.js';
import { colour } from '../../ui/theme.js';
import type { DeriveDraft } from './draft.js';
import { RuleDialog } from './rule-dialog.js';

export interface RuleListProps {
  readonly draft: DeriveDraft;
  readonly onChange: (changes: Partial<DeriveDraft>) => void;
  readonly onPropose: () => void;
  /** Takes names from a spreadsheet. */
  readonly onPaste: () => void;
}

/** What makes the new names, in the order in which it is applied; each line can be edited, moved and removed. */
export function RuleList({ draft, onChange, onPropose, onPaste }: RuleListProps): React.JSX.Element {
  const { rules, scheme, says, renamed } = draft;
  const [edited, edit] = useState<number>();
  const setRules = (next: readonly NameRule[]): void => onChange({ rules: next, says: '' });
  const byHand = Object.values(renamed).filter((names) => Object.keys(names).length > 0).length;
  const rule = edited === undefined ? undefined : rules[edited];
  return (
    <Lines aria-label="How the copies are named">
      <Soft>New names:</Soft>
      {rules.map((one, at) => (
        <RuleLine key={`${at} ${JSON.stringify(one)}`} {...{ rules, at, setRules }} onEdit={() => edit(at)} />
      ))}
      {scheme === '' ? null : (
        <Rule role="group" aria-label="Number scheme">
          next free numbers of {scheme}
          <IconButton
            label="Without the scheme"
            icon={X}
            onPress={() => onChange({ scheme: '', says: '' })}
          />
        </Rule>
      )}
      {byHand === 0 ? null : (
        <Rule role="group" aria-label="By hand">
          {byHand} by hand
          <IconButton label="Clear names set by hand" icon={X} onPress={() => onChange({ renamed: {} })} />
        </Rule>
      )}
      <QuietButton onPress={onPropose}>Propose names</QuietButton>
      <QuietButton onPress={onPaste}>Paste numbers …</QuietButton>
      {says === '' ? null : <Soft>{says}</Soft>}
      {rule === undefined ? null : (
        <RuleDialog
          rule={rule}
          onChange={(changed) => setRules(rules.map((one) => (one === rule ? changed : one)))}
          onClose={() => edit(undefined)}
        />
      )}
    </Lines>
  );
}

interface RuleLineProps {
  readonly rules: readonly NameRule[];
  readonly at: number;
  readonly setRules: (rules: readonly NameRule[]) => void;
  readonly onEdit: () => void;
}

function RuleLine({ rules, at, setRules, onEdit }: RuleLineProps): React.JSX.Element | null {
  const rule = rules[at];
  if (!rule) return null;
  const move = (to: number): void => {
    const next = rules.toSpliced(at, 1);
    setRules(next.toSpliced(to, 0, rule));
  };
  const name = `rule ${at + 1}`;
  return (
    <Rule role="group" aria-label={`Rule ${at + 1}`}>
      <Mono>{at + 1}</Mono> {sayRule(rule)}
      {rule.of === 'both' ? null : <Soft> in {rule.of}</Soft>}
      <IconButton label={`Edit ${name}`} icon={Pencil} onPress={onEdit} />
      {at > 0 ? (
        <IconButton label={`Apply ${name} earlier`} icon={ArrowUp} onPress={() => move(at - 1)} />
      ) : null}
      {at < rules.length - 1 ? (
        <IconButton label={`Apply ${name} later`} icon={ArrowDown} onPress={() => move(at + 1)} />
      ) : null}
      <IconButton label={`Remove ${name}`} icon={X} onPress={() => setRules(rules.toSpliced(at, 1))} />
    </Rule>
  );
}

interface IconButtonProps {
  readonly label: string;
  readonly icon: typeof X;
  readonly onPress: () => void;
}

function IconButton({ label, icon: Icon, onPress }: IconButtonProps): React.JSX.Element {
  return (
    <QuietButton aria-label={label} onPress={onPress}>
      <Icon size={13} aria-hidden />
    </QuietButton>
  );
}

const Lines = styled.section`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
`;
const Rule = styled.span`
  display: inline-flex;
  align-items: center;
  gap: 5px;
  padding: 0 2px 0 8px;
  border: 1px solid ${colour.line};
  border-radius: 4px;
  background: ${colour.raised};
  button {
    padding: 3px 4px;
    min-height: 26px;
  }
`;
