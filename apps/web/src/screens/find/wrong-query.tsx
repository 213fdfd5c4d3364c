import styled from 'styled-components';
import { ApiProblem } from '../../api/client.js';
import { Mono, Trouble } from '../../ui/controls.js';
import { colour } from '../../ui/theme.js';

/** What is wrong with a search, with the place in it marked. */
export function WrongQuery({
  words,
  error,
}: {
  readonly words: string;
  readonly error: Error;
}): React.JSX.Element {
  const at = error instanceof ApiProblem ? error.problem.at : undefined;
  return (
    <Trouble>
      {at ? (
        <Excerpt>
          <Mono>
            {words.slice(0, at.from)}
            <mark>{words.slice(at.from, at.to) || '␣'}</mark>
            {words.slice(at.to)}
          </Mono>
        </Excerpt>
      ) : null}
      {error.message}
    </Trouble>
  );
}

const Excerpt = styled.span`
  display: block;
  overflow-wrap: anywhere;
  mark {
    background: none;
    color: ${colour.copper};
    font-weight: 500;
    text-decoration: underline wavy;
  }
`;
