import { effectiveIn, effectiveLens, type BuildAnswer } from '@stem-trace/contract';
import {
  changesFromEngineering,
  changesSince,
  effectivityColumns,
  rowsThatCount,
  type BillChanges,
  type BuildRow,
} from '@stem-trace/core';
import { useQuery } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import styled from 'styled-components';
import { buildQuery } from '../../api/build.js';
import { addressOf } from '../../api/client.js';
import { itemQuery } from '../../api/queries.js';
import { compareAddress, historyAddress, traceAddress, useChangeSearch } from '../../frame/addresses.js';
import { CustodyActions } from '../../frame/custody-actions.js';
import { EffectiveChoice } from '../../frame/effective-choice.js';
import { today } from '../../frame/lens-choice.js';
import { usePerson } from '../../frame/person.js';
import { Button, Choice, Hint, Mono, Pick, Soft, Trouble } from '../../ui/controls.js';
import { AttentionMark, SIGN, StateGlyph } from '../../ui/glyphs.js';
import { AccountStrip } from './account-strip.js';
import { CarryDialog } from './carry-dialog.js';
import { ReadinessDialog } from './readiness-dialog.js';
import { ReleasesView } from './releases-view.js';
import { SheetGrid } from './sheet-grid.js';
import { SheetTools } from './sheet-tools.js';
import { useBillDraft, type BillDraft } from './use-bill-draft.js';

type Against = 'engineering' | 'before';

/** One bill: its rows with what differs, the account, and its releases. */
export function BillSheet({ answer }: { readonly answer: BuildAnswer }): React.JSX.Element {
  const [search] = useSearchParams();
  const draft = useBillDraft(answer);
  const [goTo, lead] = useState('');
  const person = usePerson();
  const { item, hidden } = answer;
  const mayEdit = item.isNewest && hidden === 0 && item.heldBy?.login === person.login;
  const shows = search.get('show') === 'releases' ? 'releases' : 'rows';
  return (
    <>
      <Heading {...{ answer, draft }} onLead={lead} />
      <AccountStrip {...{ draft, hidden }} />
      {draft.trouble === '' ? null : <Trouble>{draft.trouble}</Trouble>}
      {draft.isStale ? (
        <Trouble>
          You edited an earlier version; {item.number} is at {item.version} by now. Discard your changes, or
          copy them and put them into the newest.
        </Trouble>
      ) : null}
      {shows === 'releases' ? (
        <>
          <Line>
            <ShowChoice />
          </Line>
          <ReleasesView bill={item.number} />
        </>
      ) : (
        <Rows {...{ answer, draft, mayEdit, goTo }} />
      )}
    </>
  );
}

function Heading({
  answer: { item, bill, behind, newest },
  draft,
  onLead,
}: {
  readonly answer: BuildAnswer;
  readonly draft: BillDraft;
  readonly onLead: (id: string) => void;
}): React.JSX.Element {
  const [asking, ask] = useState<'carry' | 'check'>();
  const view = useQuery(itemQuery(item.number)).data;
  const person = usePerson();
  const isMine = item.heldBy?.login === person.login;
  const { number, version } = bill.engineering;
  return (
    <>
      <Line>
        <h1>
          <StateGlyph state={item.state} /> <Mono>{item.number}</Mono> {item.name} <Mono>{item.version}</Mono>
        </h1>
        <Soft>
          for <Link to={traceAddress(`${number}@${version}`)}>{number}</Link> <Mono>{version}</Mono>
        </Soft>
        <Behind {...{ behind, newest, version }} />
        {behind !== null && behind > 0 ? (
          <Button isDisabled={!isMine || draft.isChanged} onPress={() => ask('carry')}>
            Carry over …
          </Button>
        ) : null}
        <Button onPress={() => ask('check')}>Check …</Button>
        {item.isNewest ? null : <Soft>an older version, which cannot be changed</Soft>}
      </Line>
      {view && item.isNewest ? (
        <Custody>
          <CustodyActions item={view} />
        </Custody>
      ) : null}
      {asking === 'carry' ? (
        <CarryDialog bill={item.number} version={item.version} onClose={() => ask(undefined)} />
      ) : null}
      {asking === 'check' ? (
        <ReadinessDialog
          bill={item.number}
          isChanged={draft.isChanged}
          onLead={(id) => {
            onLead(id);
            ask(undefined);
          }}
          onClose={() => ask(undefined)}
        />
      ) : null}
    </>
  );
}

function Behind({
  behind,
  newest,
  version,
}: {
  readonly behind: number | null;
  readonly newest: string;
  readonly version: string;
}): React.JSX.Element {
  if (behind === null) return <AttentionMark>cannot be told whether engineering moved on</AttentionMark>;
  if (behind === 0) return <Soft>up to date with engineering</Soft>;
  return (
    <AttentionMark>
      engineering moved on: {behind} {behind === 1 ? 'row' : 'rows'}
      {newest === version ? '' : `, ${newest}`}
    </AttentionMark>
  );
}

interface RowsProps {
  readonly answer: BuildAnswer;
  readonly draft: BillDraft;
  readonly mayEdit: boolean;
  readonly goTo: string;
}

const NO_CHANGES: BillChanges = { rows: new Map(), removed: [] };

function useChanges({ item }: BuildAnswer, { bill }: BillDraft, against: Against): BillChanges {
  const before = useQuery({
    ...buildQuery(item.before === null ? '' : `${item.number}@${item.before}`),
    enabled: against === 'before' && item.before !== null,
  }).data;
  return useMemo(() => {
    if (against === 'engineering') return changesFromEngineering(bill);
    return before ? changesSince(before.bill, bill) : NO_CHANGES;
  }, [against, bill.base, bill.rows, bill.columns, before]); // eslint-disable-line react-hooks/exhaustive-deps
}

function Rows({ answer, draft, mayEdit, goTo }: RowsProps): React.JSX.Element {
  const [against, hold] = useState<Against>('engineering');
  const [only, show] = useState<'all' | 'changed'>('all');
  const counting = useCounting(answer, draft);
  const [picked, pick] = useState<ReadonlySet<string>>(new Set());
  const [under, setUnder] = useState('');
  const changes = useChanges(answer, draft, against);
  const { rows } = counting;
  const seen = useMemo(
    () =>
      only === 'all' ? rows : rows.filter(({ id }) => (changes.rows.get(id)?.change ?? 'same') !== 'same'),
    [only, rows, changes],
  );
  return (
    <>
      <Line>
        <ShowChoice />
        <Pick
          label="Changes"
          options={[
            { key: 'engineering', text: 'against engineering' },
            ...(answer.item.before === null ? [] : [{ key: 'before', text: `since ${answer.item.before}` }]),
          ]}
          value={against}
          onChange={(key) => hold(key as Against)}
        />
        <Choice
          label="Rows shown"
          options={[
            { key: 'all', text: 'All rows' },
            { key: 'changed', text: 'Changed only' },
          ]}
          value={only}
          onChange={show}
        />
        {counting.choice}
        <Legend changes={changes} />
        <Gap />
        <Links answer={answer} />
      </Line>
      {mayEdit ? (
        <SheetTools {...{ draft, under, picked }} />
      ) : (
        <Hint>
          {answer.hidden > 0
            ? 'Rows that are not visible to you stand in it, so that you cannot change it.'
            : 'Check it out to change its rows.'}
        </Hint>
      )}
      <SheetGrid
        bill={answer.item.number}
        {...{ draft, changes, mayEdit, picked, goTo }}
        rows={seen}
        onPick={pick}
        onCursor={setUnder}
      />
      <LeftOut changes={changes} against={against} />
    </>
  );
}

const EVER = 'whenever they count';

/** The rows that count on a day, or in a piece of a product, where the bill says when its rows count; kept in the address. */
function useCounting(
  { bill: { engineering } }: BuildAnswer,
  { bill }: BillDraft,
): { readonly rows: readonly BuildRow[]; readonly choice: React.ReactNode } {
  const [search] = useSearchParams();
  const change = useChangeSearch();
  const lens = search.get('counts') ?? '';
  const at = effectiveIn(lens);
  const rows = useMemo(() => {
    const until = effectiveIn(lens);
    return until ? rowsThatCount(bill, until) : bill.rows;
  }, [lens, bill.rows, bill.columns]); // eslint-disable-line react-hooks/exhaustive-deps
  if (effectivityColumns(bill.columns).length === 0) return { rows: bill.rows, choice: null };
  const look = (counts: string): void => change({ counts });
  const first = effectiveLens({ kind: 'day', day: today() });
  return {
    rows,
    choice: (
      <>
        <Pick
          label="Rows that count"
          options={[
            { key: '', text: EVER },
            { key: at ? lens : first, text: 'effective on …' },
          ]}
          value={at ? lens : ''}
          onChange={look}
        />
        {at ? (
          <EffectiveChoice {...{ at }} product={engineering.number} today={today()} onChange={look} />
        ) : null}
        {rows.length < bill.rows.length ? (
          <Soft role="status">
            {rows.length} of {bill.rows.length} rows
          </Soft>
        ) : null}
      </>
    ),
  };
}

function ShowChoice(): React.JSX.Element {
  const [search] = useSearchParams();
  const change = useChangeSearch();
  return (
    <Choice
      label="View"
      options={[
        { key: 'rows', text: 'Rows' },
        { key: 'releases', text: 'Releases' },
      ]}
      value={search.get('show') === 'releases' ? 'releases' : 'rows'}
      onChange={(key) => change({ show: key === 'releases' ? key : '' })}
    />
  );
}

function Legend({ changes }: { readonly changes: BillChanges }): React.JSX.Element {
  const counts = new Map<string, number>();
  for (const { change } of changes.rows.values()) counts.set(change, (counts.get(change) ?? 0) + 1);
  return (
    <Signs aria-label="Legend">
      {(['added', 'changed', 'moved'] as const).map((change) => (
        <span key={change}>
          <b style={{ color: SIGN[change].ink }}>{SIGN[change].mark}</b> {change} {counts.get(change) ?? 0}
        </span>
      ))}
      <span>
        <b style={{ color: SIGN.changed.ink }}>÷</b> divided {counts.get('divided') ?? 0}
      </span>
      <span>
        <b style={{ color: SIGN.removed.ink }}>{SIGN.removed.mark}</b> left out {changes.removed.length}
      </span>
    </Signs>
  );
}

function Links({ answer: { item } }: { readonly answer: BuildAnswer }): React.JSX.Element {
  const { number, version, before } = item;
  const file = (format: string): string =>
    addressOf('/api/bill/file', { item: `${number}@${version}`, format });
  return (
    <Soft>
      {before === null ? null : (
        <>
          <Link to={compareAddress(`${number}@${before}`, `${number}@${version}`)}>
            Compare with {before}
          </Link>{' '}
          ·{' '}
        </>
      )}
      <Link to={historyAddress(number)}>History</Link> · <a href={file('xlsx')}>XLSX</a> ·{' '}
      <a href={file('csv')}>CSV</a> · <a href={file('pdf')}>PDF</a> · <a href={file('xml')}>XML</a>
    </Soft>
  );
}

function LeftOut({
  changes: { removed },
  against,
}: {
  readonly changes: BillChanges;
  readonly against: Against;
}): React.JSX.Element | null {
  if (removed.length === 0) return null;
  return (
    <Below>
      <summary>
        {removed.length} {removed.length === 1 ? 'row' : 'rows'}{' '}
        {against === 'engineering' ? 'of engineering left out or dissolved' : 'removed since'}
      </summary>
      <ul>
        {removed.map(({ id, number, name, amount }) => (
          <li key={id}>
            <Mono>{number}</Mono> {name} <Mono>×{amount}</Mono>
          </li>
        ))}
      </ul>
    </Below>
  );
}

const Line = styled.div`
  display: flex;
  align-items: end;
  flex-wrap: wrap;
  gap: 6px 12px;
  h1 {
    margin: 0;
    font-size: 16px;
  }
`;
/** On one line, where there is room. */
const Custody = styled.div`
  > * {
    display: flex;
    flex-flow: row wrap;
    align-items: center;
    justify-content: flex-start;
    gap: 0 14px;
    margin: 0;
    padding: 0;
    border: 0;
  }
  p {
    margin: 0;
  }
`;
const Gap = styled.span`
  flex: 1;
`;
const Signs = styled.span`
  display: flex;
  gap: 10px;
  font-size: 12px;
  padding-bottom: 6px;
`;
const Below = styled.details`
  flex: none;
  summary {
    cursor: default;
  }
  ul {
    margin: 4px 0;
    max-height: 110px;
    overflow: auto;
  }
`;
