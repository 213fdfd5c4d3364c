import { useQuery } from '@tanstack/react-query';
import { Bookmark } from 'lucide-react';
import { useState } from 'react';
import { Link, useLocation } from 'react-router';
import styled from 'styled-components';
import { savedQuery } from '../../../api/find.js';
import { SaveDialog } from '../../../frame/save-dialog.js';
import { QuietButton } from '../../../ui/controls.js';

/** Views of the board that somebody kept, and the way to keep this one. */
export function KeptViews(): React.JSX.Element {
  const { pathname, search } = useLocation();
  const [isKeeping, keep] = useState(false);
  const views = (useQuery(savedQuery).data ?? []).filter(
    ({ kind, address }) => kind === 'view' && /^\/change(\?|$)/.test(address) && !address.includes('change='),
  );
  return (
    <Line aria-label="Kept views">
      {views.map(({ id, name, address }) => (
        <Link key={id} to={address}>
          {name}
        </Link>
      ))}
      <QuietButton onPress={() => keep(true)}>
        <Bookmark size={15} aria-hidden /> Keep this view …
      </QuietButton>
      {isKeeping ? (
        <SaveDialog
          kind="view"
          address={pathname + search}
          says="The changes that are shown now, by the same filters"
          onClose={() => keep(false)}
        />
      ) : null}
    </Line>
  );
}

const Line = styled.nav`
  display: flex;
  align-items: center;
  gap: 10px;
`;
