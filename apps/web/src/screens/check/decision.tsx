/** What may be decided: about the item that is open, or about all that one has opened. */
import type { OfferedStep, SheetItem, SheetView } from '@stem-trace/contract';
import { Stamp } from 'lucide-react';
import { useState } from 'react';
import styled from 'styled-components';
import { StepDialog } from '../../frame/step-dialog.js';
import { capital } from '../../ui/capital.js';
import { Button, Mono, Soft } from '../../ui/controls.js';
import { colour } from '../../ui/theme.js';

export interface DecisionProps {
  readonly sheet: SheetView;
  readonly open: SheetItem | undefined;
}

interface Deciding {
  readonly items: readonly string[];
  readonly step: OfferedStep;
}

export function Decision({ sheet, open }: DecisionProps): React.JSX.Element | null {
  const [deciding, decide] = useState<Deciding & { readonly shown: ReadonlyMap<string, string> }>();
  const forAll = stepsForAll(sheet.rows);
  const waiting = sheet.rows.filter(({ isUndecided }) => isUndecided);
  const unseen = waiting.filter(({ isSeen }) => !isSeen);
  const openDialog = (deciding: Deciding): void => decide({ ...deciding, shown: shownIn(sheet.rows) });
  if (forAll.length === 0 && unseen.length === 0) return null;
  return (
    <Frame aria-label="Decision">
      {open && open.steps.length > 0 ? (
        <Line>
          <Mono>{open.number}</Mono>
          {open.steps.map((step) => (
            <Button
              key={step.name}
              isDisabled={!open.isSeen || (open.kind === 'order' && unseen.length > 0)}
              onPress={() => openDialog({ items: [open.number], step })}
            >
              <Stamp size={14} aria-hidden /> {capital(step.name)} …
            </Button>
          ))}
        </Line>
      ) : null}
      {open?.kind === 'order' && waiting.length > 1 ? (
        <Soft>It decides about all that it makes, together: open all of it first.</Soft>
      ) : null}
      {forAll.length > 0 && waiting.length > 1 && !waiting.some(({ kind }) => kind === 'order') ? (
        <Line>
          <span>All opened</span>
          {forAll.map(({ step, items }) => (
            <Button key={step.name} onPress={() => openDialog({ items, step })}>
              {capital(step.name)} {items.length} …
            </Button>
          ))}
        </Line>
      ) : null}
      {unseen.length > 0 && waiting.length > 1 ? (
        <Soft>
          Not opened by you: <Mono>{unseen.map(({ number }) => number).join(', ')}</Mono>. Nothing is decided
          about what was not seen.
        </Soft>
      ) : null}
      {deciding ? <StepDialog {...deciding} onClose={() => decide(undefined)} /> : null}
    </Frame>
  );
}

/** Digests of what the person has opened as it is now, by number: the decision is about exactly that. */
function shownIn(rows: readonly SheetItem[]): ReadonlyMap<string, string> {
  return new Map(rows.flatMap(({ number, isSeen, shown }) => (isSeen ? [[number, shown]] : [])));
}

/** Each step with what it is offered for among all that one has opened. */
export function stepsForAll(rows: readonly SheetItem[]): Deciding[] {
  const found = new Map<string, { readonly step: OfferedStep; readonly items: string[] }>();
  for (const { number, steps, isSeen } of rows) {
    if (!isSeen) continue;
    for (const step of steps) {
      const known = found.get(step.name) ?? { step, items: [] };
      known.items.push(number);
      found.set(step.name, known);
    }
  }
  return [...found.values()];
}

const Frame = styled.section`
  display: grid;
  gap: 6px;
  border-top: 2px solid ${colour.petrol};
  padding-top: 8px;
`;
const Line = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
`;
