import styled from 'styled-components';

const TAIL = 10;

/** A long name cut in the middle, so that both its beginning and its end can be read; whole on hover. */
export function MiddleCut({ text }: { readonly text: string }): React.JSX.Element {
  if (text.length <= TAIL * 2) return <Whole title={text}>{text}</Whole>;
  return (
    <Line title={text}>
      <i>{text.slice(0, -TAIL)}</i>
      <b>{text.slice(-TAIL)}</b>
    </Line>
  );
}

const Whole = styled.span`
  display: block;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: pre;
`;
const Line = styled.span`
  display: flex;
  min-width: 0;
  white-space: pre;
  > i,
  > b {
    font: inherit;
  }
  > i {
    overflow: hidden;
    text-overflow: ellipsis;
  }
  > b {
    flex: none;
  }
`;
