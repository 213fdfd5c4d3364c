import { useQuery } from '@tanstack/react-query';
import type { BesideRow, ItemView, LensText } from '@stem-trace/contract';
import { lazy, Suspense, useEffect } from 'react';
import { Link, useSearchParams } from 'react-router';
import styled from 'styled-components';
import { itemQuery } from '../../api/queries.js';
import { lookAddress, useLens } from '../../frame/addresses.js';
import { Begin } from '../../frame/begin-with.js';
import { useDesk, useLooked } from '../../frame/desk.js';
import { canDrawSolids, NO_SOLIDS } from '../../pictures/can-draw-solids.js';
import { Mono, Soft, Trouble } from '../../ui/controls.js';
import { LookFile } from './look-file.js';
import { sceneQuery } from './scene-queries.js';
import { StateGlyph } from '../../ui/glyphs.js';

const LookCompare = lazy(() => import('./compare/look-compare.js'));

/** One item's file as large as there is room: a drawing, a page, a model, a text. */
export function LookScreen(): React.JSX.Element {
  const [search] = useSearchParams();
  const [lens] = useLens();
  const reference = search.get('item') ?? '';
  const against = search.get('against') ?? '';
  const item = useQuery(itemQuery(reference));
  useSceneEarly(item.data, lens);
  const { pointAt } = useDesk();
  useEffect(() => {
    pointAt(reference);
    return () => pointAt('');
  }, [pointAt, reference]);
  useLooked(item.data);
  if (reference === '') return <Begin title="Look closely" label="Look at an item" address={lookAddress} />;
  if (item.error) return <Trouble>{item.error.message}</Trouble>;
  if (!item.data) return <Soft>Looking it up …</Soft>;
  return (
    <>
      <Title item={item.data} />
      {item.data.format === 'step' && against !== '' && !canDrawSolids() ? (
        <Trouble>{NO_SOLIDS} Until then, two models are compared by their lists alone, in Compare.</Trouble>
      ) : item.data.format === 'step' && against !== '' ? (
        <Suspense fallback={<Soft>Loading the picture …</Soft>}>
          <LookCompare
            key={`${item.data.number}@${item.data.shown} ${against} ${lens}`}
            item={`${item.data.number}@${item.data.shown}`}
            {...{ against, lens }}
          />
        </Suspense>
      ) : (
        <LookFile item={item.data} lens={lens} />
      )}
    </>
  );
}

/** What is in the picture is asked for while the code that draws it comes. */
function useSceneEarly(item: ItemView | undefined, lens: LensText): void {
  useQuery({
    ...sceneQuery(`${item?.number}@${item?.shown}`, lens),
    enabled: item?.format === 'step',
  });
}

function Title({ item }: { readonly item: ItemView }): React.JSX.Element {
  return (
    <Line>
      <h1>
        <Mono>{item.number}</Mono> {item.name}
      </h1>
      <Soft>
        {item.kind} <Mono>{item.shown}</Mono>
      </Soft>
      {item.beside.length > 0 ? (
        <nav aria-label="Drawings and documents">
          <Soft>Drawings and documents:</Soft>
          {item.beside.map((row) => (
            <BesideLink key={`${row.number} ${row.relation}`} row={row} />
          ))}
        </nav>
      ) : null}
    </Line>
  );
}

function BesideLink({ row }: { readonly row: BesideRow }): React.JSX.Element {
  return (
    <Link to={lookAddress(row.number)} title={row.name}>
      <StateGlyph state={row.state} /> <Mono>{row.number}</Mono>
    </Link>
  );
}

const Line = styled.header`
  display: flex;
  gap: 6px 14px;
  align-items: baseline;
  flex-wrap: wrap;
  nav {
    display: flex;
    gap: 4px 12px;
    flex-wrap: wrap;
  }
`;
