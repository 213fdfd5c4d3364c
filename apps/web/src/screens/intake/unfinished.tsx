import { useQuery } from '@tanstack/react-query';
import styled from 'styled-components';
import { intakesQuery } from '../../api/queries.js';
import { Mono, QuietButton, Soft } from '../../ui/controls.js';
import { When } from '../../ui/when.js';

/** Sheets that were begun and left; they wait until they are carried out or thrown away. */
export function Unfinished({ onOpen }: { readonly onOpen: (id: string) => void }): React.JSX.Element | null {
  const sheets = useQuery(intakesQuery);
  const waiting = sheets.data?.filter(({ files, state }) => files > 0 || state === 'unpacking') ?? [];
  if (waiting.length === 0) return null;
  return (
    <section aria-label="Sheets not finished">
      <h2>Not finished</h2>
      <List>
        {waiting.map(({ id, place, state, createdAt, isCheckIn, files }) => (
          <li key={id}>
            <QuietButton onPress={() => onOpen(id)}>
              {isCheckIn ? 'Check-in' : 'Intake'} into <Mono>{place}</Mono>
            </QuietButton>
            <Soft>
              {files} {files === 1 ? 'file' : 'files'}, {state}, <When at={createdAt} />
            </Soft>
          </li>
        ))}
      </List>
    </section>
  );
}

const List = styled.ul`
  margin: 4px 0 0;
  padding: 0;
  list-style: none;
  max-height: 140px;
  overflow: auto;
  li {
    display: flex;
    align-items: center;
    gap: 10px;
  }
`;
