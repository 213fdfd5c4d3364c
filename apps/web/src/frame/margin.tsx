import { useQuery } from '@tanstack/react-query';
import styled from 'styled-components';
import { itemQuery } from '../api/queries.js';
import { Hint, Trouble } from '../ui/controls.js';
import { colour, size } from '../ui/theme.js';
import { useIsNarrow } from '../ui/use-narrow.js';
import { AboutItem, List, Number, Pair } from './about-item.js';
import { useDesk, type CursorNote } from './desk.js';

/** What the thing under the cursor is, and where it can go next. */
export function Margin(): React.JSX.Element {
  const { underCursor, note } = useDesk();
  const isNarrow = useIsNarrow();
  const item = useQuery({ ...itemQuery(underCursor), placeholderData: (before) => before });
  return (
    <Column aria-label="About the item under the cursor" data-over={isNarrow || undefined}>
      {note ? <Note note={note} isAlone={underCursor === ''} /> : null}
      {underCursor === '' && !note ? (
        <Hint>What the cursor is on is described here: move it over a row with ↑ ↓ or a click.</Hint>
      ) : null}
      {underCursor !== '' && item.error ? <Trouble>{item.error.message}</Trouble> : null}
      {underCursor !== '' && item.data && !item.error ? <AboutItem item={item.data} /> : null}
    </Column>
  );
}

function Note({
  note,
  isAlone,
}: {
  readonly note: CursorNote;
  readonly isAlone: boolean;
}): React.JSX.Element {
  return (
    <>
      {note.picture}
      {isAlone ? <Number>{note.title}</Number> : null}
      {note.lines.map((line) => (
        <p key={line}>{line}</p>
      ))}
      {note.facts && note.facts.length > 0 ? (
        <List aria-label="Read from the file">
          {note.facts.map(({ name, shown }) => (
            <Pair key={name} name={name} value={shown} />
          ))}
        </List>
      ) : null}
    </>
  );
}

const Column = styled.aside`
  grid-area: margin;
  overflow-y: auto;
  &[data-over] {
    position: fixed;
    z-index: 4;
    top: ${size.topLine};
    right: 0;
    bottom: 0;
    width: ${size.margin};
    box-shadow: -6px 0 20px #0003;
  }
  border-left: 1px solid ${colour.line};
  background: ${colour.surface};
  padding: 14px 16px;
  display: flex;
  flex-direction: column;
  gap: 14px;
`;
