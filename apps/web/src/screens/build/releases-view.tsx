import type { BillRelease, PlanningState } from '@stem-trace/contract';
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import styled from 'styled-components';
import { releasesQuery } from '../../api/build.js';
import { addressOf } from '../../api/client.js';
import { buildAddress, compareAddress, historyAddress } from '../../frame/addresses.js';
import { Hint, Mono, Soft, Trouble } from '../../ui/controls.js';
import { AttentionMark } from '../../ui/glyphs.js';
import { colour } from '../../ui/theme.js';
import { When } from '../../ui/when.js';

/** Releases of a bill: notes, files, who and when, and whether planning has it. */
export function ReleasesView({ bill }: { readonly bill: string }): React.JSX.Element {
  const { data, error } = useQuery({ ...releasesQuery(bill), refetchInterval: 3000 });
  if (error) return <Trouble>{error.message}</Trouble>;
  if (!data) return <Hint role="status">Reading the releases …</Hint>;
  if (data.length === 0)
    return (
      <Hint>
        Not released yet. Let go of the bill, send it for checking, and a checker releases it; files are made
        then, and planning is sent the bill.
      </Hint>
    );
  return <Releases {...{ bill }} of={data} shown={data} />;
}

/** Some of the releases of a bill, the newest first. */
export function Releases({
  bill,
  of,
  shown,
}: {
  readonly bill: string;
  readonly of: readonly BillRelease[];
  readonly shown: readonly BillRelease[];
}): React.JSX.Element {
  return (
    <Listed aria-label="Releases">
      {shown.map((release) => (
        <Release key={release.version} {...{ bill, release }} before={of[of.indexOf(release) + 1]?.version} />
      ))}
    </Listed>
  );
}

function Release({
  bill,
  release: { version, at, by, notes, isSuperseded, files, problem, planning },
  before,
}: {
  readonly bill: string;
  readonly release: BillRelease;
  readonly before: string | undefined;
}): React.JSX.Element {
  const reference = `${bill}@${version}`;
  return (
    <li data-superseded={isSuperseded || undefined}>
      <b>
        <Mono>{version}</Mono>
      </b>{' '}
      {isSuperseded ? <Soft>superseded</Soft> : 'released'} by {by}, <When at={at} />
      {notes === '' ? null : <p>{notes}</p>}
      <p>
        {files.map(({ id, name, size }) => (
          <a key={id} href={addressOf('/api/issued/file', { item: bill, file: id })}>
            {name} <Soft>{Math.max(1, Math.round(size / 1000))} kB</Soft>
          </a>
        ))}
        {files.length === 0 && problem === null ? <Soft>Files are being made …</Soft> : null}
        {problem === null ? null : <AttentionMark>No files yet: {problem}</AttentionMark>}
      </p>
      <p>
        <Planning planning={planning} /> ·{' '}
        {before === undefined ? null : (
          <>
            <Link to={compareAddress(`${bill}@${before}`, reference)}>Compare with {before}</Link> ·{' '}
          </>
        )}
        <Link to={compareAddress(reference, '')}>Compare with another or a file</Link> ·{' '}
        <Link to={buildAddress(reference)}>Open</Link> ·{' '}
        <Link to={historyAddress(bill)}>Go back to it in History</Link>
      </p>
    </li>
  );
}

function Planning({
  planning: { state, tries, sentAt, problem },
}: {
  readonly planning: PlanningState;
}): React.JSX.Element {
  if (state === 'off') return <Soft>No planning system is connected.</Soft>;
  if (state === 'sent' && sentAt !== null)
    return (
      <span>
        Planning has it, <When at={sentAt} />
      </span>
    );
  return (
    <AttentionMark>
      Waits for planning
      {tries > 0 ? `, tried ${tries} ${tries === 1 ? 'time' : 'times'}: ${problem ?? ''}` : ''}
    </AttentionMark>
  );
}

const Listed = styled.ul`
  flex: 1;
  overflow: auto;
  margin: 0;
  padding: 0 0 0 10px;
  list-style: none;
  li {
    position: relative;
    padding: 4px 0 12px 18px;
    border-left: 2px solid ${colour.line};
  }
  li::before {
    content: '';
    position: absolute;
    left: -7px;
    top: 8px;
    width: 12px;
    height: 12px;
    background: ${colour.petrol};
  }
  li[data-superseded] {
    font-size: 12px;
  }
  li[data-superseded]::before {
    left: -6px;
    width: 8px;
    height: 8px;
    background: ${colour.raised};
    border: 1px solid ${colour.petrol};
  }
  /* Room for a finger or an unsteady hand (WCAG 2.2, 2.5.8). */
  a {
    display: inline-block;
    line-height: 26px;
  }
  p {
    margin: 0;
    display: flex;
    flex-wrap: wrap;
    gap: 4px 12px;
  }
`;
