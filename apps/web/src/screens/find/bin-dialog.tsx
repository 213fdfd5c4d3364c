import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import styled from 'styled-components';
import { get, send } from '../../api/client.js';
import { Button, Hint, Mono, Soft, Trouble } from '../../ui/controls.js';
import { DialogFrame } from '../../ui/dialog-frame.js';
import { colour } from '../../ui/theme.js';
import { When } from '../../ui/when.js';

/** Places in the bin; each can be brought back as it was. */
export function BinDialog({ onClose }: { readonly onClose: () => void }): React.JSX.Element {
  const queries = useQueryClient();
  const bin = useQuery({
    queryKey: ['bin'],
    queryFn: ({ signal }) => get('/api/places/bin', {}, signal),
  });
  const [trouble, setTrouble] = useState('');
  const restore = async (place: string): Promise<void> => {
    try {
      await send('POST', '/api/places/restore', { place });
      await queries.invalidateQueries();
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <DialogFrame title="In the bin" widthPx={560} onClose={onClose}>
      {bin.data?.length === 0 ? (
        <Hint>Nothing. What is put into the bin can be brought back from here.</Hint>
      ) : null}
      <List>
        {bin.data?.map(({ path, items, binnedAt, binnedBy }) => (
          <li key={path}>
            <div>
              <Mono>{path}</Mono>
              <br />
              <Soft>
                {items} {items === 1 ? 'item' : 'items'}, by {binnedBy}, <When at={binnedAt} />
              </Soft>
            </div>
            <Button aria-label={`Bring ${path} back`} onPress={() => void restore(path)}>
              Bring back
            </Button>
          </li>
        ))}
      </List>
      {trouble === '' ? null : <Trouble>{trouble}</Trouble>}
      <div>
        <Button slot="close">Close</Button>
      </div>
    </DialogFrame>
  );
}

const List = styled.ul`
  margin: 0;
  padding: 0;
  list-style: none;
  overflow: auto;
  li {
    display: flex;
    justify-content: space-between;
    align-items: center;
    gap: 12px;
    padding: 8px 0;
    border-bottom: 1px solid ${colour.line};
  }
`;
