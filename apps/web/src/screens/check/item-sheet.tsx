/** One item of a check sheet: what was raised, what changed since its last release, and its file. */
import type { SheetItem } from '@stem-trace/contract';
import { isChange } from '@stem-trace/core';
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import styled from 'styled-components';
import { changeAddress } from '../../frame/addresses.js';
import { IssuedFiles } from '../../frame/issued-files.js';
import { itemQuery } from '../../api/queries.js';
import { Mono, Soft, Trouble } from '../../ui/controls.js';
import { StateGlyph } from '../../ui/glyphs.js';
import { When } from '../../ui/when.js';
import { Redline } from '../change/one/redline.js';
import { LookFile } from '../look/look-file.js';
import { Changes } from './changes.js';
import { Points } from './points.js';

export interface ItemSheetProps {
  readonly sheet: string;
  readonly item: SheetItem;
}

export function ItemSheet({ sheet, item }: ItemSheetProps): React.JSX.Element {
  const { number, name, version, state } = item;
  const reference = `${number}@${version}`;
  const view = useQuery(itemQuery(reference));
  return (
    <>
      <Sheet aria-label={`${number} ${version}`}>
        <h2>
          <StateGlyph state={state} /> <Mono>{number}</Mono> {name} <Mono>{version}</Mono>
        </h2>
        <Points sheet={sheet} item={item} />
        <Changes item={item} />
        <SeenBy item={item} />
        {item.issued.wanted > 0 ? <IssuedFiles item={reference} /> : null}
      </Sheet>
      {view.error ? <Trouble>{view.error.message}</Trouble> : null}
      {isChange(item.kind) ? (
        <Wide aria-label={`The redline of ${number}`}>
          <p>
            <Link to={changeAddress(number)}>What the change says, its tasks and its costs</Link>
          </p>
          <Redline change={number} />
        </Wide>
      ) : (
        <Picture aria-label={`The file of ${number}`}>
          {view.data ? (
            <LookFile item={view.data} before={item.released ?? undefined} lens="recorded" />
          ) : (
            <Soft>Loading the file …</Soft>
          )}
        </Picture>
      )}
    </>
  );
}

function SeenBy({ item: { seenBy } }: Pick<ItemSheetProps, 'item'>): React.JSX.Element | null {
  if (seenBy.length === 0) return null;
  return (
    <Soft>
      Opened by{' '}
      {seenBy.map(({ by, at }, index) => (
        <span key={by}>
          {index > 0 ? ', ' : ''}
          {by} (<When at={at} />)
        </span>
      ))}
      .
    </Soft>
  );
}

const Sheet = styled.section`
  display: grid;
  gap: 10px;
  min-width: 0;
  h2 {
    margin: 0;
    font-size: 15px;
  }
`;
/** Below both halves, as wide as there is room. */
const Picture = styled.section`
  grid-column: 1 / -1;
  display: flex;
  flex-direction: column;
  min-height: 620px;
  min-width: 0;
`;
const Wide = styled.section`
  grid-column: 1 / -1;
  display: grid;
  gap: 8px;
  min-width: 0;
  p {
    margin: 0;
  }
`;
