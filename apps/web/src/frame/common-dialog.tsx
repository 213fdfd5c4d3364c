import type { EffectRow } from '@stem-trace/contract';
import { quoted } from '@stem-trace/core';
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { send } from '../api/client.js';
import { Soft } from '../ui/controls.js';
import { nameColumn, numberColumn, versionColumn } from './item-columns.js';
import type { GridColumn } from '../ui/grid.js';
import { findAddress, useLens } from './addresses.js';
import { ItemsDialog } from './items-dialog.js';

export interface CommonDialogProps {
  readonly items: readonly string[];
  readonly onClose: () => void;
}

/** The nearest assemblies that hold all of some items. */
export function CommonDialog({ items, onClose }: CommonDialogProps): React.JSX.Element {
  const [lens] = useLens();
  const answer = useQuery({
    queryKey: ['structure', 'common', items, lens],
    queryFn: () => send('POST', '/api/common', { items, lens }),
  });
  return (
    <ItemsDialog
      title={`Nearest assemblies with all ${items.length}`}
      widthPx={560}
      label="Nearest assemblies"
      kind="common"
      waiting="Searching …"
      nothing="No assembly contains all of them."
      columns={COLUMNS}
      {...{ answer, lens, onClose }}
    >
      <Link to={findAddress(items.map((number) => `made of ${quoted(number)}`).join(' '))} onClick={onClose}>
        Show all in Find
      </Link>
      {answer.data && answer.data.hidden > 0 ? <Soft>{answer.data.hidden} not visible to you</Soft> : null}
    </ItemsDialog>
  );
}

const COLUMNS: readonly GridColumn<EffectRow>[] = [
  numberColumn('minmax(150px, 0.8fr)', ({ state }) => state),
  nameColumn('minmax(150px, 1fr)', ({ name }) => name),
  versionColumn(),
];
