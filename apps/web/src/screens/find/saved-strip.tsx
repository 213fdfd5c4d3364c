import type { SavedRow } from '@stem-trace/contract';
import { useQuery } from '@tanstack/react-query';
import { BellRing, Users, X } from 'lucide-react';
import { Button } from 'react-aria-components';
import { Link } from 'react-router';
import styled from 'styled-components';
import { savedQuery, useForget } from '../../api/find.js';
import { Soft } from '../../ui/controls.js';
import { colour, font } from '../../ui/theme.js';

/** Searches and views that were kept, each with what it finds now: where a day begins. */
export function SavedStrip(): React.JSX.Element | null {
  const rows = useQuery(savedQuery).data ?? [];
  if (rows.length === 0) return null;
  return (
    <Strip aria-label="Kept searches and views">
      {rows.map((row) => (
        <SavedCard key={row.id} row={row} />
      ))}
    </Strip>
  );
}

function SavedCard({ row }: { readonly row: SavedRow }): React.JSX.Element {
  const forget = useForget();
  return (
    <Card>
      <Link to={row.address}>
        <Figure>
          {row.count === null ? (row.kind === 'view' ? 'view' : '?') : row.count.toLocaleString('en-GB')}
        </Figure>
        <span>{row.name}</span>
        <Soft>
          {row.isShared ? <Users size={12} aria-label="shared" /> : null}
          {row.tells && row.isMine ? <BellRing size={12} aria-label="tells of changes" /> : null}
          {row.isMine ? '' : row.owner}
        </Soft>
      </Link>
      {row.isMine ? (
        <Forget aria-label={`Forget ${row.name}`} onPress={() => forget.mutate(row.id)}>
          <X size={13} aria-hidden />
        </Forget>
      ) : null}
    </Card>
  );
}

const Strip = styled.nav`
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
`;
const Card = styled.div`
  display: flex;
  align-items: center;
  border: 1px solid ${colour.line};
  border-radius: 4px;
  background: ${colour.raised};
  max-width: 320px;
  a {
    display: flex;
    align-items: baseline;
    gap: 8px;
    min-width: 0;
    padding: 5px 4px 5px 10px;
    color: ${colour.ink};
    text-decoration: none;
  }
  a > span:nth-child(2) {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  &:hover {
    border-color: ${colour.petrol};
  }
`;
const Figure = styled.b`
  font-family: ${font.mono};
  font-weight: 500;
  color: ${colour.petrol};
`;
const Forget = styled(Button)`
  border: 0;
  background: none;
  color: ${colour.inkSoft};
  padding: 4px 6px;
  display: inline-flex;
  cursor: default;
`;
