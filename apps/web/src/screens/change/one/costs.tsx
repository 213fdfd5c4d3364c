/** What a change costs, or saves, as somebody entered it, with its sums. */
import { COST_KINDS, sumCosts, type ChangeCost } from '@stem-trace/core';
import { Plus } from 'lucide-react';
import { Box, Mono, QuietButton, Select, Soft } from '../../../ui/controls.js';
import type { PartProps } from './change-form.js';
import { Part, Rows, Spread, TakeOut } from './parts.js';

export function Costs({ contents: { costs, currency }, isLocked, set }: PartProps): React.JSX.Element | null {
  if (isLocked && costs.length === 0) return null;
  const change = (at: number, next: Partial<ChangeCost>): void =>
    set({ costs: costs.map((cost, other) => (other === at ? { ...cost, ...next } : cost)) });
  return (
    <Part title="Costs and savings">
      <Rows>
        {costs.map((cost, at) => (
          <li key={at}>
            {isLocked ? (
              <>
                <Spread>
                  {cost.kind}: {cost.what}
                </Spread>
                <Mono>{cost.amount}</Mono>
              </>
            ) : (
              <CostFields cost={cost} at={at} onChange={(next) => change(at, next)} />
            )}
            {isLocked ? null : (
              <TakeOut
                label={`Take cost ${at + 1} out`}
                onPress={() => set({ costs: costs.filter((each) => each !== cost) })}
              />
            )}
          </li>
        ))}
      </Rows>
      <Sum costs={costs} currency={currency} />
      {isLocked ? null : (
        <Rows>
          <li>
            <QuietButton
              onPress={() =>
                set({
                  costs: [...costs, { kind: 'parts', what: '', amount: '0' }],
                  currency: currency || 'EUR',
                })
              }
            >
              <Plus size={14} aria-hidden /> Add a cost
            </QuietButton>
            {costs.length > 0 ? (
              <Box
                aria-label="Currency"
                value={currency}
                onChange={({ target }) => set({ currency: target.value })}
                style={{ width: 64 }}
              />
            ) : null}
          </li>
        </Rows>
      )}
    </Part>
  );
}

function Sum({
  costs,
  currency,
}: Pick<PartProps['contents'], 'costs' | 'currency'>): React.JSX.Element | null {
  if (costs.length === 0) return null;
  const { kinds, all } = sumCosts(costs);
  return (
    <Soft>
      In all <Mono>{all}</Mono> {currency}
      {kinds.length > 1 ? ` (${kinds.map(({ kind, amount }) => `${kind} ${amount}`).join(', ')})` : ''}
    </Soft>
  );
}

function CostFields({
  cost: { kind, what, amount },
  at,
  onChange,
}: {
  readonly cost: ChangeCost;
  readonly at: number;
  readonly onChange: (next: Partial<ChangeCost>) => void;
}): React.JSX.Element {
  return (
    <>
      <Select
        aria-label={`Kind of cost ${at + 1}`}
        value={kind}
        onChange={({ target }) =>
          onChange({ kind: COST_KINDS.find((each) => each === target.value) ?? 'other' })
        }
      >
        {COST_KINDS.map((each) => (
          <option key={each}>{each}</option>
        ))}
      </Select>
      <Box
        aria-label={`What cost ${at + 1} is for`}
        placeholder="for what"
        value={what}
        onChange={({ target }) => onChange({ what: target.value })}
      />
      <Box
        data-mono
        aria-label={`Amount of cost ${at + 1}`}
        value={amount}
        onChange={({ target }) => onChange({ amount: target.value })}
        style={{ width: 86, textAlign: 'right' }}
      />
    </>
  );
}
