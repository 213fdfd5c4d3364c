import { READINESS_RULES } from '@stem-trace/core';
import { useQuery } from '@tanstack/react-query';
import styled from 'styled-components';
import { readinessQuery } from '../../api/build.js';
import { Hint, QuietButton, Soft, Trouble } from '../../ui/controls.js';
import { DialogFrame } from '../../ui/dialog-frame.js';

/** What stands in the way of a release; each thing leads to its row. */
export function ReadinessDialog({
  bill,
  isChanged,
  onLead,
  onClose,
}: {
  readonly bill: string;
  /** Whether there is more than what was saved, which alone is checked. */
  readonly isChanged: boolean;
  readonly onLead: (id: string) => void;
  readonly onClose: () => void;
}): React.JSX.Element {
  const { data, error } = useQuery(readinessQuery(bill));
  return (
    <DialogFrame title="Ready for release?" widthPx={620} onClose={onClose}>
      {isChanged ? <Soft>What is not saved yet is not looked at.</Soft> : null}
      {error ? <Trouble>{error.message}</Trouble> : null}
      {data || error ? null : <Hint role="status">Checking …</Hint>}
      {data?.failures.length === 0 ? <Hint role="status">Ready: nothing stands in the way.</Hint> : null}
      {data && data.failures.length > 0 ? (
        <>
          <span role="status">{data.failures.length} to look at</span>
          <Listed>
            {data.failures.map(({ rule, id, field, says }) => (
              <li key={`${rule} ${id} ${field} ${says}`}>
                <span>
                  {says} <Soft>{READINESS_RULES[rule]}</Soft>
                </span>
                {id === '' ? null : <QuietButton onPress={() => onLead(id)}>Go to the row</QuietButton>}
              </li>
            ))}
          </Listed>
        </>
      ) : null}
      {data && data.off.length > 0 ? (
        <Soft>Not checked in this store: {data.off.map((rule) => READINESS_RULES[rule]).join('; ')}.</Soft>
      ) : null}
    </DialogFrame>
  );
}

const Listed = styled.ul`
  margin: 0;
  padding: 0;
  list-style: none;
  max-height: 50vh;
  overflow: auto;
  li {
    display: flex;
    justify-content: space-between;
    align-items: center;
    gap: 10px;
    padding: 4px 0;
  }
`;
