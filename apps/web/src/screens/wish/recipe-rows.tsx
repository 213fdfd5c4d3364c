import type { Recipe, RecipeAction, RecipeProblem, WishDefinition } from '@stem-trace/core/recipes';
import { ArrowDown, ArrowUp, Plus, X } from 'lucide-react';
import type { ReactNode } from 'react';
import styled from 'styled-components';
import { Box, QuietButton, Select, Soft } from '../../ui/controls.js';
import { AttentionMark } from '../../ui/glyphs.js';
import { colour } from '../../ui/theme.js';
import {
  ACTIONS,
  asKind,
  fieldsOf,
  fieldText,
  moved,
  NEW_EXAMPLE,
  NEW_RULE,
  NEW_WISH,
  replaced,
  wishesIn,
  wishesText,
  withField,
  without,
} from './recipe-edit.js';

export interface RowsProps {
  readonly recipe: Recipe;
  readonly problems: readonly RecipeProblem[];
  readonly onChange: (recipe: Recipe) => void;
}

const KINDS: readonly { readonly key: WishDefinition['kind']; readonly text: string }[] = [
  { key: 'number', text: 'number' },
  { key: 'choice', text: 'choice' },
  { key: 'yes/no', text: 'yes or no' },
  { key: 'text', text: 'text' },
];

/** What may be wished for. */
export function WishRows({ recipe, problems, onChange }: RowsProps): React.JSX.Element {
  const { wishes } = recipe;
  const set = (next: Recipe['wishes']): void => onChange({ ...recipe, wishes: next });
  return (
    <section>
      <h2>Wishes</h2>
      {wishes.map((wish, at) => (
        <Row
          key={at}
          about={wish.name}
          problem={sayWrong(problems, 'wish', wish.name)}
          onRemove={() => set(without(wishes, at))}
        >
          <WishFields
            wish={wish}
            onChange={(changes) => set(replaced(wishes, at, { ...wish, ...changes }))}
          />
        </Row>
      ))}
      <More text="Another wish" onPress={() => set([...wishes, NEW_WISH])} />
    </section>
  );
}

function WishFields({
  wish,
  onChange,
}: {
  readonly wish: WishDefinition;
  readonly onChange: (changes: Partial<WishDefinition>) => void;
}): React.JSX.Element {
  const { name, label, kind, unit, least, most, choices, otherwise } = wish;
  return (
    <>
      <Small label="Word" width="110px" value={name} onChange={(text) => onChange({ name: text })} mono />
      <Small label="Label" width="150px" value={label} onChange={(text) => onChange({ label: text })} />
      <Picked label="Kind" value={kind} options={KINDS} onChange={(key) => onChange({ kind: key })} />
      {kind === 'number' ? (
        <>
          <Small label="Unit" width="60px" value={unit} onChange={(text) => onChange({ unit: text })} />
          <Small
            label="Least"
            width="66px"
            value={sayBound(least)}
            onChange={(text) => onChange({ least: boundIn(text) })}
          />
          <Small
            label="Most"
            width="66px"
            value={sayBound(most)}
            onChange={(text) => onChange({ most: boundIn(text) })}
          />
        </>
      ) : null}
      {kind === 'choice' ? (
        <Small
          label="Choices"
          width="200px"
          value={choices.join(', ')}
          onChange={(text) => onChange({ choices: listIn(text) })}
        />
      ) : null}
      <Small
        label="Otherwise"
        width="90px"
        value={otherwise}
        onChange={(text) => onChange({ otherwise: text })}
      />
    </>
  );
}

/** What the wishes do, in order. */
export function RuleRows({ recipe, problems, onChange }: RowsProps): React.JSX.Element {
  const { rules } = recipe;
  const set = (next: Recipe['rules']): void => onChange({ ...recipe, rules: next });
  return (
    <section>
      <h2>Rules</h2>
      {rules.map((rule, at) => (
        <Row
          key={at}
          about={rule.name}
          problem={sayWrong(problems, 'rule', rule.name)}
          onRemove={() => set(without(rules, at))}
          onMove={(by) => set(moved(rules, at, by))}
        >
          <Small
            label="Rule"
            width="130px"
            value={rule.name}
            onChange={(name) => set(replaced(rules, at, { ...rule, name }))}
          />
          <Small
            label="When"
            width="190px"
            value={rule.when}
            onChange={(when) => set(replaced(rules, at, { ...rule, when }))}
            mono
          />
          <Picked<RecipeAction['do']>
            label="Then"
            value={rule.then.do}
            options={ACTIONS}
            onChange={(kind) => set(replaced(rules, at, { ...rule, then: asKind(rule.then, kind) }))}
          />
          {fieldsOf(rule.then).map(({ key, label }) => (
            <Small
              key={key}
              label={label}
              width="128px"
              mono
              value={fieldText(rule.then, key)}
              onChange={(text) =>
                set(replaced(rules, at, { ...rule, then: withField(rule.then, key, text) }))
              }
            />
          ))}
        </Row>
      ))}
      <More text="Another rule" onPress={() => set([...rules, NEW_RULE])} />
    </section>
  );
}

/** Wishes with the rules that are to hold for them: the recipe's own tests. */
export function ExampleRows({ recipe, problems, onChange }: RowsProps): React.JSX.Element {
  const { examples } = recipe;
  const set = (next: Recipe['examples']): void => onChange({ ...recipe, examples: next });
  return (
    <section>
      <h2>Examples</h2>
      {examples.map((example, at) => (
        <Row
          key={at}
          about={example.name}
          problem={sayWrong(problems, 'example', example.name)}
          onRemove={() => set(without(examples, at))}
        >
          <Small
            label="Example"
            width="130px"
            value={example.name}
            onChange={(name) => set(replaced(examples, at, { ...example, name }))}
          />
          <Small
            label="Wishes"
            width="280px"
            mono
            value={wishesText(example.wishes)}
            onChange={(text) => set(replaced(examples, at, { ...example, wishes: wishesIn(text) }))}
          />
          <Small
            label="Rules that hold"
            width="280px"
            value={example.rules.join(', ')}
            onChange={(text) => set(replaced(examples, at, { ...example, rules: listIn(text) }))}
          />
        </Row>
      ))}
      <More text="Another example" onPress={() => set([...examples, NEW_EXAMPLE])} />
    </section>
  );
}

function sayWrong(problems: readonly RecipeProblem[], where: RecipeProblem['where'], name: string): string {
  return problems
    .flatMap((problem) => (problem.where === where && problem.name === name ? [problem.says] : []))
    .join('; ');
}

function sayBound(value: number | null): string {
  return value === null ? '' : String(value);
}

function boundIn(text: string): number | null {
  const number = Number(text.replace(',', '.'));
  return text.trim() === '' || !Number.isFinite(number) ? null : number;
}

function listIn(text: string): string[] {
  return text.split(',').flatMap((part) => part.trim() || []);
}

interface RowProps {
  readonly about: string;
  readonly problem: string;
  readonly onRemove: () => void;
  readonly onMove?: (by: -1 | 1) => void;
  readonly children: ReactNode;
}

function Row({ about, problem, onRemove, onMove, children }: RowProps): React.JSX.Element {
  return (
    <Line>
      {children}
      {onMove ? (
        <>
          <QuietButton aria-label={`Move ${about} up`} onPress={() => onMove(-1)}>
            <ArrowUp size={14} aria-hidden />
          </QuietButton>
          <QuietButton aria-label={`Move ${about} down`} onPress={() => onMove(1)}>
            <ArrowDown size={14} aria-hidden />
          </QuietButton>
        </>
      ) : null}
      <QuietButton aria-label={`Remove ${about}`} onPress={onRemove}>
        <X size={14} aria-hidden />
      </QuietButton>
      {problem === '' ? null : <AttentionMark>{problem}</AttentionMark>}
    </Line>
  );
}

interface SmallProps {
  readonly label: string;
  readonly width: string;
  readonly value: string;
  readonly onChange: (text: string) => void;
  readonly mono?: boolean;
}

/** A field that is read when it is left, so that what is half typed is not understood. */
function Small({ label, width, value, onChange, mono }: SmallProps): React.JSX.Element {
  return (
    <Labelled>
      <Soft>{label}</Soft>
      <Box
        key={value}
        style={{ width }}
        defaultValue={value}
        aria-label={label}
        spellCheck={false}
        {...(mono ? { 'data-mono': true } : {})}
        onBlur={({ target }) => {
          if (target.value !== value) onChange(target.value);
        }}
      />
    </Labelled>
  );
}

interface PickedProps<K extends string> {
  readonly label: string;
  readonly value: K;
  readonly options: readonly { readonly key: K; readonly text: string }[];
  readonly onChange: (value: K) => void;
}

function Picked<K extends string>({ label, value, options, onChange }: PickedProps<K>): React.JSX.Element {
  return (
    <Labelled>
      <Soft>{label}</Soft>
      <Select
        aria-label={label}
        value={value}
        onChange={({ target }) => onChange(options.find(({ key }) => key === target.value)?.key ?? value)}
      >
        {options.map(({ key, text }) => (
          <option key={key} value={key}>
            {text}
          </option>
        ))}
      </Select>
    </Labelled>
  );
}

function More({ text, onPress }: { readonly text: string; readonly onPress: () => void }): React.JSX.Element {
  return (
    <QuietButton onPress={onPress}>
      <Plus size={14} aria-hidden /> {text}
    </QuietButton>
  );
}

const Line = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: end;
  padding: 6px 0;
  border-bottom: 1px solid ${colour.line};
`;
const Labelled = styled.label`
  display: grid;
  gap: 2px;
  font-size: 12px;
`;
