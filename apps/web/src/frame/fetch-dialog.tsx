import { lensParts, lensText, type FetchPlanAnswer, type LensText } from '@stem-trace/contract';
import { isDay } from '@stem-trace/core';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import styled from 'styled-components';
import { addressOf, get } from '../api/client.js';
import { baselineChoices, baselinesQuery } from '../api/issued.js';
import { Button, Hint, Pick, Soft, Trouble } from '../ui/controls.js';
import { DayField } from '../ui/day-field.js';
import { DialogButtons, DialogFrame } from '../ui/dialog-frame.js';
import { Tick } from '../ui/tick.js';
import { LENSES, today } from './lens-choice.js';

export interface FetchDialogProps {
  readonly item: string;
  readonly lens: LensText;
  /** Whether drawings come along unless somebody says otherwise. */
  readonly withDrawings?: boolean;
  readonly onClose: () => void;
}

/** Which versions are fetched, and what comes along; said in files before they come. */
export function FetchDialog({
  item,
  lens: first,
  withDrawings = false,
  onClose,
}: FetchDialogProps): React.JSX.Element {
  const [lens, setLens] = useState(first);
  const [drawings, takeDrawings] = useState(withDrawings);
  const [issued, takeIssued] = useState(false);
  const parts = lensParts(lens);
  const isOnDay = isDay(parts.versions);
  const plan = useQuery({
    queryKey: ['structure', 'fetch plan', item, lens, drawings],
    queryFn: ({ signal }) => get('/api/fetch/plan', { item, lens, drawings }, signal),
    retry: false,
  });
  return (
    <DialogFrame title={`Fetch ${item}`} widthPx={460} onClose={onClose}>
      <Row>
        <Pick
          label="Lens: which versions below it"
          options={useLenses(item, parts.versions)}
          value={isOnDay ? 'day' : parts.versions}
          onChange={(key) => setLens(lensText({ ...parts, versions: key === 'day' ? today() : key }))}
        />
        {isOnDay ? (
          <DayField
            label="Day"
            value={parts.versions}
            onChange={(day) => day !== '' && setLens(lensText({ ...parts, versions: day }))}
          />
        ) : null}
      </Row>
      <Tick isSelected={drawings} onChange={takeDrawings}>
        Include the drawings of everything in it
      </Tick>
      <Tick isSelected={issued} onChange={takeIssued}>
        Include issued files, in a folder of their own
      </Tick>
      {plan.error ? <Trouble>{plan.error.message}</Trouble> : null}
      <Soft role="status">{sayPlan(plan.data)}</Soft>
      <Hint>
        The files refer to one another under their present names. A manifest goes with them, so that what you
        change comes back as new versions.
      </Hint>
      <DialogButtons>
        <Button onPress={onClose}>Cancel</Button>
        <Download
          href={addressOf('/api/fetch', {
            ...{ item, lens, drawings: drawings || undefined, issued: issued || undefined },
          })}
          download
          onClick={onClose}
        >
          Fetch files
        </Download>
      </DialogButtons>
    </DialogFrame>
  );
}

function sayPlan(plan: FetchPlanAnswer | undefined): string {
  if (!plan) return 'Working out what belongs to it …';
  const count = plan.files.length;
  const files = count === 1 ? 'One file' : `${count.toLocaleString('en-GB')} files`;
  return `${files} of ${plan.item} ${plan.version}`;
}

/** With what was frozen of the item, and what is chosen though nothing offers it. */
function useLenses(item: string, chosen: string): readonly { readonly key: string; readonly text: string }[] {
  const baselines = useQuery(baselinesQuery(item)).data ?? [];
  const offered = [...LENSES, ...baselineChoices(baselines)];
  return isDay(chosen) || offered.some(({ key }) => key === chosen)
    ? offered
    : [...offered, { key: chosen, text: chosen.replace(/^e/, 'E') }];
}

const Row = styled.div`
  display: flex;
  gap: 12px;
  align-items: end;
`;
const Download = styled.a`
  display: inline-flex;
  align-items: center;
  min-height: 28px;
  padding: 3px 10px;
  border-radius: 4px;
  background: var(--petrol);
  color: var(--on-petrol);
  font-weight: 500;
  text-decoration: none;
`;
