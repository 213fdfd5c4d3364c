import styled from 'styled-components';

/** Shorter texts have no middle worth cutting out. */
const SHORT = 12;
const TAIL = { least: 4, usual: 10, most: 14 } as const;

/**
 * A long name cut in the middle, so that both its beginning and its end can be read: the ending of a file's name, the last
 * word of a title. Whole on hover; one text to a screen reader.
 */
export function MiddleCut({ text }: { readonly text: string }): React.JSX.Element {
  if (text.length <= SHORT) return <Whole title={text}>{text}</Whole>;
  const at = tailOf(text);
  return (
    <Line title={text}>
      <Heard>{text}</Heard>
      <i aria-hidden data-text={text.slice(0, at)} />
      <b aria-hidden data-text={text.slice(at)} />
    </Line>
  );
}

/** Where the part begins that is always seen: at a word, where one begins about there. */
export function tailOf(text: string): number {
  const half = Math.ceil(text.length / 2);
  const from = Math.max(half, text.length - TAIL.most);
  for (let at = from; at <= text.length - TAIL.least; at++)
    if (/[\s\-_/.]/.test(text[at - 1] ?? '') && /\S/.test(text[at] ?? '')) return at;
  const usual = Math.max(half, text.length - TAIL.usual);
  // Not in the middle of a letter of two units.
  return /[\uDC00-\uDFFF]/.test(text[usual] ?? '') ? usual + 1 : usual;
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
  position: relative;
  min-width: 0;
  white-space: pre;
  > i,
  > b {
    font: inherit;
  }
  /* Drawn, and not there a second time: the text is one to whoever reads, copies or looks for it. */
  > i::before,
  > b::before {
    content: attr(data-text);
  }
  /* The beginning gives way first, but never all of it. */
  > i,
  > b {
    overflow: hidden;
    text-overflow: ellipsis;
  }
  > i {
    flex: 0 1000 auto;
    min-width: 2em;
  }
  > b {
    flex: 0 1 auto;
    min-width: 0;
  }
`;
const Heard = styled.span`
  position: absolute;
  width: 1px;
  height: 1px;
  overflow: hidden;
  clip-path: inset(50%);
`;
