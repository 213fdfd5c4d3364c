import type { DerivePreview, DeriveProposal } from '@stem-trace/contract';
import { ChevronDown } from 'lucide-react';
import { Menu, MenuItem, MenuTrigger } from 'react-aria-components';
import styled from 'styled-components';
import { Button, MenuDrop } from '../../ui/controls.js';
import { decisionsLike, UNDECIDED, type DeriveDraft } from './draft.js';

export interface BeginAgainProps {
  readonly preview: DerivePreview;
  readonly last: DeriveProposal['last'];
  readonly onChange: (changes: Partial<DeriveDraft>) => void;
}

/** What a plan can begin with, in place of what was decided so far; names and place are left. */
export function BeginAgain({ preview, last, onChange }: BeginAgainProps): React.JSX.Element {
  const begin = (changes: Partial<DeriveDraft>) => () => onChange({ ...UNDECIDED, ...changes });
  return (
    <MenuTrigger>
      <Begin>
        Begin again <ChevronDown size={15} aria-hidden />
      </Begin>
      <MenuDrop>
        <Menu aria-label="Begin again with">
          <MenuItem onAction={begin({ copyAll: false })}>What is proposed</MenuItem>
          <MenuItem onAction={begin({ copyAll: true })}>All of it copied</MenuItem>
          {last ? (
            <MenuItem onAction={begin(decisionsLike(last.request, preview))}>
              What was decided for {last.variant}
            </MenuItem>
          ) : null}
        </Menu>
      </MenuDrop>
    </MenuTrigger>
  );
}

const Begin = styled(Button)`
  display: flex;
  align-items: center;
  gap: 4px;
`;
