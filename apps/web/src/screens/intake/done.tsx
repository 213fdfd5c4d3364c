import type { IntakeView } from '@stem-trace/contract';
import { quoted } from '@stem-trace/core';
import { Link } from 'react-router';
import styled from 'styled-components';
import { findAddress } from '../../frame/addresses.js';
import { Button } from '../../ui/controls.js';
import { colour } from '../../ui/theme.js';
import { Line } from './line.js';

/** What came in, and what did not. */
export function Done({
  view,
  onAgain,
}: {
  readonly view: IntakeView;
  readonly onAgain: () => void;
}): React.JSX.Element {
  const result = view.result ?? view.expected;
  return (
    <Card aria-live="polite">
      <h1>{view.workingCopy ? 'Checked in' : 'Brought in'}</h1>
      <p>
        {result.files} files: {result.items} new items, {result.versions} new versions, {result.links} links
        {result.filled > 0 ? `, ${result.filled} older gaps filled` : ''}.
      </p>
      {result.gaps.map((gap) => (
        <p key={`${gap.file} ${gap.locator}`}>
          Gap: {gap.file} refers to ‘{gap.locator}’, which is not in the store.
        </p>
      ))}
      {result.problems.map((problem) => (
        <p key={`${problem.file} ${problem.reason}`}>
          Left out: {problem.file}: {problem.reason}
        </p>
      ))}
      <Line>
        <Link to={whatCameIn(view)}>See what came in</Link>
        <Button onPress={onAgain}>Bring in more</Button>
      </Line>
    </Card>
  );
}

/** More numbers would make an address that nobody reads. */
const MOST_NAMED = 60;

/** Just what came in; of very much, what changed at its place today. */
function whatCameIn({ rows, place }: IntakeView): string {
  const numbers = rows
    .filter(({ status }) => status === 'new' || status === 'new version')
    .map(({ number }) => number);
  if (numbers.length === 0 || numbers.length > MOST_NAMED)
    return `/find?${new URLSearchParams({ words: 'changed = today', place, sort: 'changed', order: 'down' }).toString()}`;
  return findAddress(numbers.map((number) => `number = ${quoted(number)}`).join(' or '));
}

const Card = styled.section`
  display: flex;
  flex-direction: column;
  gap: 10px;
  background: ${colour.raised};
  border: 1px solid ${colour.line};
  border-radius: 4px;
  padding: 20px 24px;
  overflow: auto;
`;
