/** A check sheet: what was sent together, what changed in each, its file, what was raised, and the decision. */
import type { SheetItem, SheetView } from '@stem-trace/contract';
import { useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { useParams, useSearchParams } from 'react-router';
import { allIssued, sayIssued } from '../../frame/issued-files.js';
import { PassOn } from './pass-on.js';
import { AttentionMark } from '../../ui/glyphs.js';
import styled from 'styled-components';
import { sheetQuery, useSheetDeed } from '../../api/sheets.js';
import { addressOf } from '../../api/client.js';
import { useDesk } from '../../frame/desk.js';
import { useKeyHints, type KeyHint } from '../../frame/keys.js';
import { Button, Soft, Trouble } from '../../ui/controls.js';
import { When } from '../../ui/when.js';
import { CheckList } from './check-list.js';
import { Decision } from './decision.js';
import { ItemSheet } from './item-sheet.js';
import { SheetsList } from './sheets-list.js';

const KEYS: readonly KeyHint[] = [
  { key: '↑ ↓', says: 'Through the items of the check sheet' },
  { key: 'Enter', says: 'Open the item under the cursor: then it counts as seen' },
];

export function CheckScreen(): React.JSX.Element {
  const { id = '' } = useParams();
  return id === '' ? <SheetsList /> : <OneSheet key={id} id={id} />;
}

function OneSheet({ id }: { readonly id: string }): React.JSX.Element {
  const sheet = useQuery(sheetQuery(id));
  const [search, setSearch] = useSearchParams();
  useKeyHints(KEYS);
  if (sheet.error && !sheet.data) return <Trouble>{sheet.error.message}</Trouble>;
  if (!sheet.data) return <Soft>Reading the check sheet …</Soft>;
  const open = search.get('item') ?? '';
  const shown = sheet.data.rows.find(({ number }) => number === open);
  return (
    <>
      <Title sheet={sheet.data} />
      <Halves data-open={shown !== undefined || undefined}>
        <section aria-label="Items">
          <CheckList
            rows={sheet.data.rows}
            open={open}
            onOpen={(number) => setSearch({ item: number }, { replace: open !== '' })}
          />
          {sheet.data.hidden > 0 ? (
            <Soft>{sheet.data.hidden} more that you may not see. Ask whoever sent it for access.</Soft>
          ) : null}
          <Decision sheet={sheet.data} open={shown} />
          <PassOn sheet={sheet.data} />
        </section>
        {shown ? <Opened key={shown.number} sheet={id} item={shown} /> : <Begin rows={sheet.data.rows} />}
      </Halves>
    </>
  );
}

function Title({ sheet }: { readonly sheet: SheetView }): React.JSX.Element {
  const { title, sentBy, sentAt, reason, items, undecided } = sheet;
  const left = items - undecided;
  const made = sayIssued(allIssued(sheet.rows.map(({ issued }) => issued)));
  return (
    <Head>
      <h1>Check sheet: {title}</h1>
      <Soft>
        Sent by {sentBy}, <When at={sentAt} />
        {reason === '' ? '' : ` — ${reason}`}.{' '}
        {undecided === 0
          ? 'All of it is decided.'
          : left > 0
            ? `${left} of ${items} decided.`
            : 'Nothing is decided yet.'}{' '}
        <AskedFor sheet={sheet} />
        {made === '' ? '' : `${made}. `}
        <a href={addressOf('/api/record/sheet', { id: sheet.id })} download>
          Record (PDF)
        </a>
      </Soft>
    </Head>
  );
}

/** Who is asked, who stands in for whom, and by when. */
function AskedFor({ sheet: { asked, until, isLate } }: { readonly sheet: SheetView }): React.JSX.Element {
  const names = asked.map(({ name, substitute }) =>
    substitute === null ? name : `${name} (away; ${substitute} stands in)`,
  );
  return (
    <>
      {names.length === 0 ? '' : `Asked: ${names.join(', ')}. `}
      {until === null ? null : isLate ? (
        <AttentionMark>To be decided by {until}, which has passed.</AttentionMark>
      ) : (
        `To be decided by ${until}. `
      )}
    </>
  );
}

function Begin({ rows }: { readonly rows: readonly SheetItem[] }): React.JSX.Element {
  const unseen = rows.filter(({ isSeen }) => !isSeen).length;
  return (
    <Soft>
      {unseen === 0
        ? 'You have opened all of it.'
        : `Open an item: you have not opened ${unseen === rows.length ? 'any of them' : `${unseen} of ${rows.length}`} yet.`}
    </Soft>
  );
}

/** What is opened counts as seen. */
function Opened({ sheet, item }: { readonly sheet: string; readonly item: SheetItem }): React.JSX.Element {
  const { mutate } = useSheetDeed();
  const { pointAt } = useDesk();
  const { number, version, isSeen, shown } = item;
  const [opened, setOpened] = useState(shown);
  // Changed while it is open: it counts as opened again only once the person says so.
  const isChanged = opened !== shown && shown !== '';
  useEffect(() => {
    if (!isSeen && !isChanged) mutate({ kind: 'seen', sheet, item: number, shown });
  }, [isSeen, isChanged, mutate, number, sheet, shown]);
  useEffect(() => {
    pointAt(`${number}@${version}`);
    return () => pointAt('');
  }, [pointAt, number, version]);
  if (isChanged)
    return (
      <Trouble as="div">
        <p>{number} or something below it was changed while you had it open. Nothing was decided.</p>
        <Button onPress={() => setOpened(shown)}>Open {number} again</Button>
      </Trouble>
    );
  return <ItemSheet sheet={sheet} item={item} />;
}

const Head = styled.header`
  h1 {
    margin: 0;
    font-size: 18px;
  }
`;
const Halves = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 14px;
  align-items: start;
  margin-top: 10px;
  container-type: inline-size;
  @media (min-width: 1240px) {
    grid-template-columns: 330px minmax(0, 1fr);
  }
  & > section {
    display: grid;
    gap: 8px;
    min-width: 0;
  }
`;
