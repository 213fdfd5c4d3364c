import styled from 'styled-components';

const TAIL = 10;

/** A long name cut in the middle, so that both its beginning and its end can be read; whole on hover. */
export function MiddleCut({ text }: { readonly text: string }): React.JSX.Element {
  const head = text.length > TAIL * 2 ? text.slice(0, -TAIL) : text;
  return (
    <Line title={text}>
      <Head>{head}</Head>
      {head === text ? null : <Tail>{text.slice(-TAIL)}</Tail>}
    </Line>
  );
}

const Line = styled.span`
  display: flex;
  min-width: 0;
  white-space: pre;
`;
const Head = styled.span`
  overflow: hidden;
  text-overflow: ellipsis;
`;
const Tail = styled.span`
  flex: none;
`;
