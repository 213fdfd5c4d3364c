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
  const [asking, setAsking] = useState<'new' | 'move' | 'access' | 'bin'>();
  const [trouble, setTrouble] = useState('');
  const isWatched = places.data?.some(({ path, watched }) => path === place && watched) ?? false;
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
      <Buttons>
        <Button onPress={() => setAsking('new')}>New …</Button>
        <Button isDisabled={place === '/'} onPress={() => setAsking('move')}>
          Move or rename …
        </Button>
        <Button onPress={() => setAsking('access')}>Access …</Button>
        <Button onPress={() => attempt(change('/api/watch', { place, watch: !isWatched }))}>
          {isWatched ? 'Unwatch' : 'Watch'}
        </Button>
        <Button
          isDisabled={place === '/'}
          onPress={() =>
            attempt(
              change('/api/places/bin', { place }).then(() =>
                onPlace(place.slice(0, place.lastIndexOf('/')) || '/'),
              ),
            )
          }
        >
          Into the bin
        </Button>
        <Button onPress={() => setAsking('bin')}>Bin …</Button>
      </Buttons>
      {trouble === '' ? null : <Trouble>{trouble}</Trouble>}
      {asking === 'access' ? <AccessDialog place={place} onClose={() => setAsking(undefined)} /> : null}
      {asking === 'bin' ? <BinDialog onClose={() => setAsking(undefined)} /> : null}
      {asking === 'new' ? (
        <AskDialog
          title="New place"
          action="Make it"
          fields={[{ key: 'path', label: 'Path', value: `${place === '/' ? '' : place}/` }]}
          onAnswer={({ path = '' }) => change('/api/places', { path })}
          onClose={() => setAsking(undefined)}
        />
      ) : null}
      {asking === 'move' ? (
        <AskDialog
          title={`Move or rename ${place}`}
          action="Move"
          fields={[{ key: 'to', label: 'New path; everything in and below it goes along', value: place }]}
          onAnswer={async ({ to = '' }) => {
            await change('/api/places/move', { from: place, to });
            onPlace(to);
          }}
          onClose={() => setAsking(undefined)}
        />
      ) : null}
    </Panel>
  );
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
