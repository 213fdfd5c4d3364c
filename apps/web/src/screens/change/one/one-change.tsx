/** One change request or order: what it says, what it changes, and what it touches. */
import type { ChangeView } from '@stem-trace/contract';
import { useQuery } from '@tanstack/react-query';
import { lazy, Suspense, useEffect } from 'react';
import { Link, useSearchParams } from 'react-router';
import styled from 'styled-components';
import { changeQuery } from '../../../api/changes.js';
import { changeAddress, checkAddress, useChangeSearch } from '../../../frame/addresses.js';
import { useDesk } from '../../../frame/desk.js';
import { Choice, Hint, Mono, Soft, Trouble } from '../../../ui/controls.js';
import { StateGlyph } from '../../../ui/glyphs.js';
import { When } from '../../../ui/when.js';
import { ChangeActs } from './change-acts.js';
import { ChangeForm } from './change-form.js';
import { Redline } from './redline.js';

const ChangeMap = lazy(() => import('./change-map.js').then((module) => ({ default: module.ChangeMap })));

const VIEWS = [
  { key: 'says', text: 'What it says' },
  { key: 'redline', text: 'Redline' },
  { key: 'map', text: 'What it touches' },
] as const;

export function OneChange({ change }: { readonly change: string }): React.JSX.Element {
  const { data, error } = useQuery(changeQuery(change));
  const { pointAt } = useDesk();
  const number = data?.number ?? '';
  useEffect(() => {
    if (number !== '') pointAt(number);
  }, [pointAt, number]);
  if (!data)
    return error ? <Trouble>{error.message}</Trouble> : <Hint role="status">Reading the change …</Hint>;
  return (
    <>
      <Title view={data} />
      {error ? <Trouble>{error.message}</Trouble> : null}
      <Shown view={data} />
    </>
  );
}

function Shown({ view }: { readonly view: ChangeView }): React.JSX.Element {
  const [search] = useSearchParams();
  const change = useChangeSearch();
  const shown = VIEWS.find(({ key }) => key === search.get('view'))?.key ?? 'says';
  const views = view.kind === 'order' ? VIEWS : VIEWS.filter(({ key }) => key !== 'redline');
  return (
    <>
      <Bar>
        <Choice
          label="View"
          options={views}
          value={shown}
          onChange={(key) => change({ view: key === 'says' ? '' : key })}
        />
        <ChangeActs view={view} />
      </Bar>
      {shown === 'says' ? <ChangeForm key={view.version} view={view} /> : null}
      {shown === 'redline' && view.kind === 'order' ? <Redline change={view.number} /> : null}
      {shown === 'map' ? (
        <Suspense>
          <ChangeMap change={view.number} />
        </Suspense>
      ) : null}
    </>
  );
}

function Title({ view }: { readonly view: ChangeView }): React.JSX.Element {
  const { kind, number, name, version, state, raisedBy, raisedAt, others, sheet } = view;
  return (
    <Head>
      <h1>
        <StateGlyph state={state} /> Change {kind} <Mono>{number}</Mono> {name}
      </h1>
      <Soft>
        {state}, <Mono>{version}</Mono>, raised by {raisedBy}, <When at={raisedAt} />
        {others.map((other) => (
          <span key={other.number}>
            {other.kind === 'order' ? '; answered by ' : '; joined with it: '}
            <Link to={changeAddress(other.number)}>{other.number}</Link> ({other.state})
          </span>
        ))}
        {sheet === null ? null : (
          <>
            ; <Link to={checkAddress(sheet)}>its check sheet</Link>
          </>
        )}
        . <Link to="/change">All changes</Link>
      </Soft>
    </Head>
  );
}

const Head = styled.header`
  h1 {
    margin: 0;
    font-size: 17px;
  }
`;
const Bar = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
`;
