import { useQuery, useQueryClient } from '@tanstack/react-query';
import type { Addresses, PlaceRow } from '@stem-trace/contract';
import { ChevronRight, Folder } from 'lucide-react';
import { useMemo, useState } from 'react';
import {
  Button as AriaButton,
  Collection,
  Tree,
  TreeItem,
  TreeItemContent,
  type Key,
} from 'react-aria-components';
import styled from 'styled-components';
import { send } from '../../api/client.js';
import { placesQuery } from '../../api/queries.js';
import { AskDialog } from '../../ui/ask-dialog.js';
import { Button, Mono, Soft, Trouble } from '../../ui/controls.js';
import { colour } from '../../ui/theme.js';
import { AccessDialog } from './access-dialog.js';
import { BinDialog } from './bin-dialog.js';

interface Node extends PlaceRow {
  /** The path again, under the name by which the tree tells nodes apart. */
  readonly id: string;
  readonly children: readonly Node[];
}

export interface PlacesTreeProps {
  /** Path of the place shown; `/` for the whole store. */
  readonly place: string;
  readonly onPlace: (path: string) => void;
}

/** The tree of places; choosing one shows what lies in and below it. */
export function PlacesTree({ place, onPlace }: PlacesTreeProps): React.JSX.Element {
  const places = useQuery(placesQuery);
  const queries = useQueryClient();
  const [asking, setAsking] = useState<Asking>();
  const [trouble, setTrouble] = useState('');
  const [folded, setFolded] = useState<ReadonlySet<string>>(new Set());
  const roots = useMemo(() => treeOf(places.data ?? []), [places.data]);
  const change = async (path: Addresses<'POST'>, body: unknown): Promise<void> => {
    await send('POST', path, body);
    await queries.invalidateQueries();
  };
  const attempt = (deed: Promise<void>): void => {
    setTrouble('');
    deed.catch((error: unknown) => setTrouble(error instanceof Error ? error.message : String(error)));
  };
  return (
    <Panel aria-label="Places">
      <Tree
        aria-label="Places"
        items={roots}
        selectionMode="single"
        selectedKeys={[place]}
        expandedKeys={(places.data ?? []).map(({ path }) => path).filter((path) => !folded.has(path))}
        onExpandedChange={(keys) =>
          setFolded(new Set((places.data ?? []).map(({ path }) => path).filter((path) => !keys.has(path))))
        }
        onSelectionChange={(keys) => {
          const [first] = keys as Set<Key>;
          if (first !== undefined) onPlace(String(first));
        }}
      >
        {(node: Node) => <Branch node={node} />}
      </Tree>
      <PlaceButtons
        place={place}
        isWatched={places.data?.some(({ path, watched }) => path === place && watched) ?? false}
        onAsk={setAsking}
        onWatch={(watch) => attempt(change('/api/watch', { place, watch }))}
        onBin={() =>
          attempt(
            change('/api/places/bin', { place }).then(() =>
              onPlace(place.slice(0, place.lastIndexOf('/')) || '/'),
            ),
          )
        }
      />
      {trouble === '' ? null : <Trouble>{trouble}</Trouble>}
      <PlaceDialog
        asking={asking}
        place={place}
        onChange={change}
        onPlace={onPlace}
        onClose={() => setAsking(undefined)}
      />
    </Panel>
  );
}

interface PlaceButtonsProps {
  readonly place: string;
  readonly isWatched: boolean;
  readonly onAsk: (asking: Asking) => void;
  readonly onWatch: (watch: boolean) => void;
  readonly onBin: () => void;
}

function PlaceButtons({ place, isWatched, onAsk, onWatch, onBin }: PlaceButtonsProps): React.JSX.Element {
  const isRoot = place === '/';
  return (
    <Buttons>
      <Button onPress={() => onAsk('new')}>New …</Button>
      <Button isDisabled={isRoot} onPress={() => onAsk('move')}>
        Move or rename …
      </Button>
      <Button onPress={() => onAsk('access')}>Access …</Button>
      <Button onPress={() => onWatch(!isWatched)}>{isWatched ? 'Unwatch' : 'Watch'}</Button>
      <Button isDisabled={isRoot} onPress={onBin}>
        Into the bin
      </Button>
      <Button onPress={() => onAsk('bin')}>Bin …</Button>
    </Buttons>
  );
}

type Asking = 'new' | 'move' | 'access' | 'bin' | undefined;

interface PlaceDialogProps extends PlacesTreeProps {
  readonly asking: Asking;
  readonly onChange: (path: Addresses<'POST'>, body: unknown) => Promise<void>;
  readonly onClose: () => void;
}

function PlaceDialog({
  asking,
  place,
  onChange,
  onPlace,
  onClose,
}: PlaceDialogProps): React.JSX.Element | null {
  switch (asking) {
    case undefined:
      return null;
    case 'access':
      return <AccessDialog place={place} onClose={onClose} />;
    case 'bin':
      return <BinDialog onClose={onClose} />;
    case 'new':
      return (
        <AskDialog
          title="New place"
          action="Make it"
          fields={[{ key: 'path', label: 'Path', value: `${place === '/' ? '' : place}/` }]}
          onAnswer={({ path = '' }) => onChange('/api/places', { path })}
          onClose={onClose}
        />
      );
    case 'move':
      return (
        <AskDialog
          title={`Move or rename ${place}`}
          action="Move"
          fields={[{ key: 'to', label: 'New path; everything in and below it goes along', value: place }]}
          onAnswer={async ({ to = '' }) => {
            await onChange('/api/places/move', { from: place, to });
            onPlace(to);
          }}
          onClose={onClose}
        />
      );
  }
}

function Branch({ node }: { readonly node: Node }): React.JSX.Element {
  const name = node.path === '/' ? 'The whole store' : node.path.slice(node.path.lastIndexOf('/') + 1);
  return (
    <TreeItem id={node.path} textValue={name}>
      <TreeItemContent>
        {({ level, hasChildItems, isExpanded }) => (
          <Row style={{ paddingLeft: 4 + (level - 1) * 12 }}>
            {hasChildItems ? (
              <AriaButton slot="chevron">
                <ChevronRight size={13} aria-hidden style={{ rotate: isExpanded ? '90deg' : '0deg' }} />
              </AriaButton>
            ) : (
              <span />
            )}
            <Folder size={14} aria-hidden />
            <span title={node.path}>{name}</span>
            {node.items > 0 ? (
              <Soft>
                <Mono>{node.items}</Mono>
              </Soft>
            ) : null}
          </Row>
        )}
      </TreeItemContent>
      <Collection items={node.children}>{(child: Node) => <Branch node={child} />}</Collection>
    </TreeItem>
  );
}

/** Nests places by their paths; the server lists every place above another. */
function treeOf(rows: readonly PlaceRow[]): Node[] {
  const nodes = new Map(rows.map((row) => [row.path, { ...row, id: row.path, children: [] as Node[] }]));
  const roots: Node[] = [];
  for (const [path, node] of nodes) {
    const parent = path === '/' ? undefined : nodes.get(path.slice(0, path.lastIndexOf('/')) || '/');
    (parent?.children ?? roots).push(node);
  }
  return roots;
}

const Panel = styled.section`
  flex: 0 0 248px;
  display: flex;
  flex-direction: column;
  min-height: 0;
  background: ${colour.surface};
  border: 1px solid ${colour.line};
  border-radius: 4px;
  > [role='treegrid'] {
    flex: 1;
    overflow: auto;
    padding: 4px;
  }
  [role='row'] {
    border-radius: 3px;
    outline-offset: -2px;
    cursor: default;
  }
  [role='row'][data-selected] {
    background: ${colour.petrolSoft};
  }
`;
const Row = styled.div`
  display: grid;
  grid-template-columns: 15px 16px minmax(0, 1fr) auto;
  align-items: center;
  gap: 4px;
  padding: 4px 6px 4px 0;
  > span {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  button {
    border: 0;
    background: none;
    padding: 0;
    color: inherit;
    display: flex;
  }
`;
const Buttons = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  padding: 8px;
  border-top: 1px solid ${colour.line};
`;
