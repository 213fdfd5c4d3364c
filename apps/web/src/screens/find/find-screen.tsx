import { FIND_GROUPS, FIND_LENSES } from '@stem-trace/contract';
import { useQuery } from '@tanstack/react-query';
import { BarChart3, Bookmark, Columns3, Download, FolderTree } from 'lucide-react';
import { useState } from 'react';
import { Menu, MenuItem, MenuTrigger, ToggleButton as AriaToggle } from 'react-aria-components';
import { Link, useLocation, useSearchParams } from 'react-router';
import styled from 'styled-components';
import { findWordsQuery, tableAddress, type FindQuery } from '../../api/find.js';
import { findAddress, useChangeSearch } from '../../frame/addresses.js';
import { SaveDialog } from '../../frame/save-dialog.js';
import { Button, Hint, MenuDrop, Mono, Select, Soft, Trouble } from '../../ui/controls.js';
import { colour } from '../../ui/theme.js';
import { ColumnsDialog } from './columns-dialog.js';
import { CountsPanel } from './counts-panel.js';
import { PROPERTY, useChosenColumns, type ChosenColumn } from './find-columns.js';
import { FoundTable } from './found-table.js';
import { PlacesTree } from './places-tree.js';
import { SavedStrip } from './saved-strip.js';
import { useFirstFound, type Found } from './use-found.js';
import { WrongQuery } from './wrong-query.js';

/** Items by a search: a table for any number of them, with counts beside it. */
export function FindScreen(): React.JSX.Element {
  const [query, change] = useFindQuery();
  const { words, place, group } = query;
  const [chosen, choose] = useChosenColumns();
  const columns = chosen.flatMap(({ key }) => (key.startsWith(PROPERTY) ? [key.slice(PROPERTY.length)] : []));
  const asked: FindQuery = { ...query, columns: columns.join(';') || undefined };
  const [panel, showPanel] = usePanel(place);
  const [dialog, open] = useState<'columns' | 'save' | null>(null);
  const found = useFirstFound(asked);
  return (
    <>
      <Line>
        <h1 aria-live="polite">{headingOf(found, words, place)}</h1>
        {found.hidden > 0 ? <Soft>and {found.hidden.toLocaleString('en-GB')} not visible to you</Soft> : null}
        <Spacer />
        <PanelPick panel={panel} onPanel={showPanel} />
        <GroupPick group={group} onGroup={(key) => change({ group: key })} />
        <Button aria-label="Columns" onPress={() => open('columns')}>
          <Columns3 size={15} aria-hidden />
        </Button>
        <Export query={asked} columns={chosen.map(({ key }) => key)} />
        <Button aria-label="Keep this search" onPress={() => open('save')}>
          <Bookmark size={15} aria-hidden />
        </Button>
      </Line>
      {words === '' && place === undefined ? <SavedStrip /> : null}
      {found.error ? <WrongQuery words={words} error={found.error} /> : null}
      {found.isThere && found.total === 0 && !found.error ? (
        <Nothing words={words} place={place} near={found.near} />
      ) : null}
      <Halves>
        {panel === 'places' ? (
          <PlacesTree place={place ?? '/'} onPlace={(path) => change({ place: path === '/' ? '' : path })} />
        ) : null}
        {panel === 'counts' ? (
          <CountsPanel
            words={words}
            place={place}
            lens={query.lens}
            onWords={(next) => change({ words: next })}
          />
        ) : null}
        <FoundTable query={asked} chosen={chosen} onChoose={choose} onChange={change} />
      </Halves>
      <Dialogs {...{ dialog, chosen, choose, words }} onClose={() => open(null)} />
    </>
  );
}

interface DialogsProps {
  readonly dialog: 'columns' | 'save' | null;
  readonly chosen: readonly ChosenColumn[];
  readonly choose: (columns: readonly ChosenColumn[]) => void;
  readonly words: string;
  readonly onClose: () => void;
}

function Dialogs({ dialog, chosen, choose, words, onClose }: DialogsProps): React.JSX.Element {
  const { pathname, search } = useLocation();
  const known = useQuery(findWordsQuery).data;
  return (
    <>
      {dialog === 'columns' ? (
        <ColumnsDialog
          chosen={chosen}
          properties={known?.properties.map(({ name }) => name) ?? []}
          onChoose={choose}
          onClose={onClose}
        />
      ) : null}
      {dialog === 'save' ? (
        <SaveDialog
          kind="search"
          address={pathname + search}
          says={words === '' ? 'all items' : words}
          onClose={onClose}
        />
      ) : null}
    </>
  );
}

function headingOf({ isThere, error, total }: Found, words: string, place: string | undefined): string {
  if (error) return 'No search yet';
  return isThere ? sayCount(total, words, place) : 'Finding …';
}

function PanelPick({
  panel,
  onPanel,
}: {
  readonly panel: PanelKind;
  readonly onPanel: (panel: PanelKind) => void;
}): React.JSX.Element {
  return (
    <>
      <ToggleButton isSelected={panel === 'counts'} onChange={(on) => onPanel(on ? 'counts' : 'none')}>
        <BarChart3 size={15} aria-hidden /> Counts
      </ToggleButton>
      <ToggleButton isSelected={panel === 'places'} onChange={(on) => onPanel(on ? 'places' : 'none')}>
        <FolderTree size={15} aria-hidden /> Places
      </ToggleButton>
    </>
  );
}

/** The search in the address of the view. */
function useFindQuery(): [FindQuery, (changes: Readonly<Record<string, string>>) => void] {
  const [search] = useSearchParams();
  const group = FIND_GROUPS.find((key) => key === search.get('group'));
  const lens = FIND_LENSES.find((key) => key === search.get('lens'));
  const query: FindQuery = {
    words: search.get('words') ?? '',
    sort: search.get('sort') ?? 'best',
    order: search.get('order') === 'down' ? 'down' : 'up',
    place: search.get('place') ?? undefined,
    group,
    lens,
  };
  const changeSearch = useChangeSearch();
  const change = (changes: Readonly<Record<string, string>>): void =>
    // Another search is another view, to which one can come back.
    changeSearch(changes, 'words' in changes);
  return [query, change];
}

type PanelKind = 'counts' | 'places' | 'none';
const PANEL = 'stem-trace.find.panel';

function usePanel(place: string | undefined): [PanelKind, (panel: PanelKind) => void] {
  const [panel, setPanel] = useState<PanelKind>(() => {
    if (place !== undefined) return 'places';
    return localStorage.getItem(PANEL) === 'none' ? 'none' : 'counts';
  });
  const show = (next: PanelKind): void => {
    setPanel(next);
    localStorage.setItem(PANEL, next);
  };
  return [panel, show];
}

const GROUP_TITLES: Readonly<Record<string, string>> = {
  kind: 'kind',
  state: 'state',
  class: 'class',
  place: 'place',
  changedBy: 'person',
};

function GroupPick({
  group,
  onGroup,
}: {
  readonly group: string | undefined;
  readonly onGroup: (key: string) => void;
}): React.JSX.Element {
  return (
    <Select aria-label="Group by" value={group ?? ''} onChange={(event) => onGroup(event.target.value)}>
      <option value="">no groups</option>
      {FIND_GROUPS.map((key) => (
        <option key={key} value={key}>
          by {GROUP_TITLES[key]}
        </option>
      ))}
    </Select>
  );
}

/** The table as it is shown: columns, order and groups. */
function Export({
  query,
  columns,
}: {
  readonly query: FindQuery;
  readonly columns: readonly string[];
}): React.JSX.Element {
  return (
    <MenuTrigger>
      <Button aria-label="Export">
        <Download size={15} aria-hidden />
      </Button>
      <MenuDrop>
        <Menu>
          <MenuItem href={tableAddress(query, columns, 'csv')} download="found.csv">
            CSV
          </MenuItem>
          <MenuItem href={tableAddress(query, columns, 'xlsx')} download="found.xlsx">
            Spreadsheet (XLSX)
          </MenuItem>
        </Menu>
      </MenuDrop>
    </MenuTrigger>
  );
}

function sayCount(total: number, words: string, place: string | undefined): string {
  const items = `${total.toLocaleString('en-GB')} ${total === 1 ? 'item' : 'items'}`;
  const where = place === undefined ? '' : ` in ${place}`;
  return words === '' ? `${items}${where}` : `${items} with “${words}”${where}`;
}

function Nothing({
  words,
  place,
  near,
}: {
  readonly words: string;
  readonly place: string | undefined;
  readonly near: Found['near'];
}): React.JSX.Element {
  if (words === '' && place !== undefined)
    return (
      <Hint>
        Nothing lies in {place} or below. Drop files here to bring them in, or move items here from their
        margin; <Link to="/find">show the whole store</Link>.
      </Hint>
    );
  if (words === '')
    return (
      <Hint>
        The store is empty. Begin with <Link to="/intake">bringing in a folder of design files</Link>.
      </Hint>
    );
  if (near.length > 0)
    return (
      <Trouble as="div">
        No exact match. Similar numbers:{' '}
        {near.map(({ number, name }) => (
          <Near key={number}>
            <Link to={findAddress(number)}>
              <Mono>{number}</Mono>
            </Link>{' '}
            {name}
          </Near>
        ))}
      </Trouble>
    );
  return (
    <Hint>
      Nothing fits all of this. Try fewer words, or a part of one; <Link to="/find">show everything</Link>.
    </Hint>
  );
}

const Line = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  min-width: 0;
  h1 {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    min-width: 0;
  }
`;
const Spacer = styled.span`
  flex: 1;
`;
const Halves = styled.div`
  flex: 1;
  min-width: 0;
  min-height: 0;
  display: flex;
  gap: 12px;
`;
const Near = styled.span`
  margin-right: 14px;
  white-space: nowrap;
`;
const ToggleButton = styled(AriaToggle)`
  display: inline-flex;
  align-items: center;
  gap: 6px;
  padding: 4px 10px;
  border: 1px solid ${colour.lineStrong};
  border-radius: 4px;
  background: ${colour.raised};
  color: ${colour.ink};
  font: inherit;
  font-weight: 500;
  cursor: default;
  &[data-selected] {
    background: ${colour.petrolSoft};
    border-color: ${colour.petrol};
  }
`;
