import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import styled from 'styled-components';
import { issuedFromQuery } from '../api/issued.js';
import { AttentionMark } from '../ui/glyphs.js';
import { Mono } from '../ui/controls.js';
import { colour } from '../ui/theme.js';
import { When } from '../ui/when.js';
import { traceAddress } from './addresses.js';

/** What a file was issued of, and whether that is what is released now; nothing for a file that was not issued here. */
export function IssuedFrom({
  file,
  onGo,
}: {
  readonly file: File;
  readonly onGo: () => void;
}): React.JSX.Element | null {
  const rows = useQuery(issuedFromQuery(file)).data ?? [];
  if (rows.length === 0) return null;
  return (
    <Found role="status">
      {rows.map(({ number, name, version, kind, madeAt, released }) => (
        <li key={`${number} ${version} ${kind}`}>
          This file was issued of{' '}
          <Link to={traceAddress(`${number}@${version}`)} onClick={onGo}>
            <Mono>
              {number} {version}
            </Mono>
          </Link>{' '}
          {name}, <When at={madeAt} />.{' '}
          {released === version ? (
            'It is what is released.'
          ) : (
            <AttentionMark>
              {released === null ? 'Nothing of it is released any more.' : `Released now is ${released}.`}
            </AttentionMark>
          )}
        </li>
      ))}
    </Found>
  );
}

const Found = styled.ul`
  margin: 0;
  padding: 8px 10px;
  list-style: none;
  display: grid;
  gap: 4px;
  border: 1px solid ${colour.line};
  border-left: 3px solid ${colour.petrol};
  border-radius: 4px;
`;
