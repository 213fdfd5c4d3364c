import { ProgressBar as AriaProgressBar } from 'react-aria-components';
import styled from 'styled-components';
import { colour } from './theme.js';

/** How far something is, in a bar and in numbers. */
export function Bar({
  label,
  done,
  total,
}: {
  readonly label: string;
  readonly done: number;
  readonly total: number;
}): React.JSX.Element {
  return (
    <Progress aria-label={label} value={total === 0 ? 0 : (100 * done) / total}>
      {({ percentage }) => (
        <>
          <span>
            {label}: {done} of {total}
          </span>
          <div>
            <i style={{ width: `${percentage ?? 0}%` }} />
          </div>
        </>
      )}
    </Progress>
  );
}

const Progress = styled(AriaProgressBar)`
  display: grid;
  gap: 4px;
  max-width: 420px;
  div {
    height: 6px;
    background: ${colour.line};
    border-radius: 3px;
    overflow: hidden;
  }
  i {
    display: block;
    height: 100%;
    background: ${colour.petrol};
    transition: width 120ms;
  }
`;
