/** Issued files of an item: those that are made, to be taken away, and why others are not. */
import type { IssuedCount, IssuedFileRow } from '@stem-trace/contract';
import { useQuery } from '@tanstack/react-query';
import styled from 'styled-components';
import { issuedAddress, issuedQuery, useIssueAgain } from '../api/issued.js';
import { Mono, QuietButton, Soft, Trouble } from '../ui/controls.js';
import { AttentionMark } from '../ui/glyphs.js';

export interface IssuedFilesProps {
  /** `NUMBER` for all that there is, or `NUMBER@B/3`. */
  readonly item: string;
}

/** Nothing where none were ever asked for. */
export function IssuedFiles({ item }: IssuedFilesProps): React.JSX.Element | null {
  const { data } = useQuery(issuedQuery(item));
  const again = useIssueAgain(item);
  if (!data || data.length === 0) return null;
  const versions = [...new Set(data.map(({ version }) => version))];
  return (
    <Block aria-label="Issued files">
      <h3>Issued files</h3>
      {versions.map((version) => (
        <section key={version} aria-label={`Issued files of ${version}`}>
          <Soft>
            of <Mono>{version}</Mono>
          </Soft>
          <ul>
            {data
              .filter((each) => each.version === version)
              .map((file) => (
                <OneFile key={file.id} {...{ item, file }} onAgain={() => again.mutate(file.id)} />
              ))}
          </ul>
        </section>
      ))}
      {again.error ? <Trouble>{again.error.message}</Trouble> : null}
    </Block>
  );
}

function OneFile({
  item,
  file,
  onAgain,
}: {
  readonly item: string;
  readonly file: IssuedFileRow;
  readonly onAgain: () => void;
}): React.JSX.Element {
  const { kind, state, name, size, problem, remarks, mayReceive } = file;
  if (state === 'made')
    return (
      <li>
        {mayReceive ? (
          <a href={issuedAddress(item, file)} download={name}>
            {name}
          </a>
        ) : (
          <Soft>{name}: not yours to have</Soft>
        )}{' '}
        <Soft>
          {kind}, {Math.max(1, Math.round(size / 1000)).toLocaleString('en-GB')} kB
        </Soft>
        {remarks.map((remark) => (
          <AttentionMark key={remark}>{remark}</AttentionMark>
        ))}
      </li>
    );
  return (
    <li>
      {state === 'left out' ? (
        <Soft>
          {kind}: none. {problem}
        </Soft>
      ) : problem === null ? (
        <Soft>{kind}: being made …</Soft>
      ) : (
        <AttentionMark>
          {kind}: not yet. {problem}
        </AttentionMark>
      )}{' '}
      {problem === null ? null : <QuietButton onPress={onAgain}>Try again</QuietButton>}
    </li>
  );
}

/** `3 of 5 issued files`; nothing where none are made. */
export function sayIssued({ wanted, made, leftOut }: IssuedCount): string {
  if (wanted === 0) return '';
  const none = leftOut === 0 ? '' : `, ${leftOut} left out`;
  return `${made} of ${wanted} issued ${wanted === 1 ? 'file' : 'files'}${none}`;
}

/** Of several items together. */
export function allIssued(counts: readonly IssuedCount[]): IssuedCount {
  const sum = (of: (count: IssuedCount) => number): number =>
    counts.reduce((all, count) => all + of(count), 0);
  return {
    ...{ wanted: sum(({ wanted }) => wanted), made: sum(({ made }) => made) },
    leftOut: sum(({ leftOut }) => leftOut),
    problem: counts.find(({ problem }) => problem !== null)?.problem ?? null,
  };
}

const Block = styled.section`
  display: grid;
  gap: 4px;
  min-width: 0;
  h3 {
    margin: 0;
    font-size: 12px;
    font-weight: 600;
  }
  ul {
    margin: 0;
    padding: 0;
    list-style: none;
    display: grid;
    gap: 2px;
  }
  li {
    overflow-wrap: anywhere;
  }
  /* Room for a finger or an unsteady hand (WCAG 2.2, 2.5.8). */
  a {
    display: inline-block;
    line-height: 24px;
  }
`;
