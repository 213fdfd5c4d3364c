/** What an item was changed in since its last release: versions with what was said of them, and the difference in words. */
import type { CompareAnswer, SheetItem } from '@stem-trace/contract';
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import styled from 'styled-components';
import { get } from '../../api/client.js';
import { compareAddress, lookAtBothAddress } from '../../frame/addresses.js';
import { Mono, Soft, Trouble } from '../../ui/controls.js';
import { SIGN } from '../../ui/glyphs.js';
import { When } from '../../ui/when.js';

export function Changes({ item }: { readonly item: SheetItem }): React.JSX.Element {
  const { number, version, released, versions, kind } = item;
  const to = `${number}@${version}`;
  const from = released === null ? undefined : `${number}@${released}`;
  return (
    <Part aria-label="What changed">
      <h3>
        {released === null ? (
          'It was never released'
        ) : (
          <>
            Since <Mono>{released}</Mono>, which was released
          </>
        )}
      </h3>
      <Versions aria-label="Versions">
        {versions.map((each) => (
          <li key={each.version}>
            <Mono>{each.version}</Mono> {each.comment === '' ? <Soft>no comment</Soft> : each.comment}{' '}
            <Soft>
              {each.by}, <When at={each.at} />
            </Soft>
          </li>
        ))}
      </Versions>
      {from === undefined ? null : (
        <>
          <Difference from={from} to={to} />
          <Links>
            <Link to={compareAddress(from, to)}>Compare, row by row</Link>
            {kind === 'part' || kind === 'assembly' ? (
              <Link to={lookAtBothAddress(from, to)}>Both models side by side</Link>
            ) : null}
          </Links>
        </>
      )}
    </Part>
  );
}

/** More rows are compared in Compare. */
const SHOWN = 12;

function Difference({ from, to }: { readonly from: string; readonly to: string }): React.JSX.Element {
  const answer = useQuery({
    queryKey: ['compare', 'sheet', from, to],
    queryFn: ({ signal }) => get('/api/compare', { from, to }, signal),
  });
  if (answer.error) return <Trouble>{answer.error.message}</Trouble>;
  if (!answer.data) return <Soft>Comparing …</Soft>;
  return <Said answer={answer.data} />;
}

function Said({ answer }: { readonly answer: CompareAnswer }): React.JSX.Element {
  const rows = answer.rows.filter(({ sign }) => sign !== 'same');
  return (
    <>
      <p>{answer.sentence}</p>
      <Rows>
        {answer.whole.map(({ what, before, after }) => (
          <li key={what}>
            {what}: {before === '' ? <Soft>nothing</Soft> : before} →{' '}
            {after === '' ? <Soft>nothing</Soft> : after}
          </li>
        ))}
        {rows.slice(0, SHOWN).map((row, at) => (
          <li key={`${row.number} ${at}`}>
            <b style={{ color: SIGN[row.sign].ink }} title={SIGN[row.sign].word}>
              {SIGN[row.sign].mark}
            </b>{' '}
            <Mono>{row.number}</Mono> {SIGN[row.sign].word}
          </li>
        ))}
      </Rows>
      {rows.length > SHOWN ? <Soft>and {rows.length - SHOWN} more rows</Soft> : null}
    </>
  );
}

const Part = styled.section`
  display: grid;
  gap: 4px;
  h3 {
    margin: 0;
    font-size: 13px;
  }
  p {
    margin: 0;
  }
`;
const Versions = styled.ul`
  list-style: none;
  margin: 0;
  padding: 0;
`;
const Rows = styled(Versions)`
  columns: 260px;
  li {
    break-inside: avoid;
  }
`;
const Links = styled.div`
  display: flex;
  gap: 14px;
`;
