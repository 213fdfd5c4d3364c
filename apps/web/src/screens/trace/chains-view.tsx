import type { NetNodeRow } from '@stem-trace/contract';
import { chainCounts, chainsBetween, productsOf, type Chain, type Net } from '@stem-trace/core';
import { useQuery } from '@tanstack/react-query';
import { Fragment, useEffect, useMemo } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import styled from 'styled-components';
import { netQuery } from '../../api/net.js';
import { traceAddress, useChangeSearch, useLens } from '../../frame/addresses.js';
import { useDesk } from '../../frame/desk.js';
import { Box, Hint, Mono, Soft, Trouble } from '../../ui/controls.js';
import { AttentionMark, StateGlyph } from '../../ui/glyphs.js';
import { Grid, useGridCursor, type GridColumn } from '../../ui/grid.js';
import { MiddleCut } from '../../ui/middle-cut.js';
import { OnlyIn } from '../../ui/only-in.js';
import { colour } from '../../ui/theme.js';
import { useTable } from '../../ui/use-table.js';
import { pointAtNode } from './outline-view.js';
import { sayCount } from './say-numbers.js';

/** Chains that are listed of one product; all are counted. */
const LISTED = 1000;

/** Every way from a product down to the focus, with quantities multiplied. */
export function ChainsView({ focus }: { readonly focus: string }): React.JSX.Element {
  const [lens] = useLens();
  const answer = useQuery(netQuery({ item: focus, lens, side: 'used' }));
  if (answer.error) return <Trouble>{answer.error.message}</Trouble>;
  if (!answer.data) return <Hint role="status">Following the chains …</Hint>;
  const { net, hidden } = answer.data;
  if (net.above(0).length === 0)
    return (
      <Hint>
        Nothing uses {focus} under this lens{hidden > 0 ? ' that is visible to you' : ''}: it is a product
        itself, or not in use.
      </Hint>
    );
  return <Chains key={`${focus} ${lens}`} net={net} hidden={hidden} />;
}

interface ProductLine {
  readonly node: number;
  readonly item: NetNodeRow;
  readonly count: number;
  readonly quantity: number;
}

function Chains({
  net,
  hidden,
}: {
  readonly net: Net<NetNodeRow>;
  readonly hidden: number;
}): React.JSX.Element {
  const [search] = useSearchParams();
  const change = useChangeSearch();
  const [lens] = useLens();
  const navigate = useNavigate();
  const { pointAt } = useDesk();
  const counts = useMemo(() => chainCounts(net, 0), [net]);
  const all = useMemo(() => productLines(net, counts), [net, counts]);
  const filter = search.get('seek') ?? '';
  const products = all.filter(({ item }) =>
    `${item.number} ${item.name}`.toLowerCase().includes(filter.toLowerCase()),
  );
  const table = useTable('products', products, PRODUCT_COLUMNS);
  const cursor = useGridCursor(table.rows, ({ item }) => item.number, { within: filter });
  const chosen = cursor.row;
  useEffect(() => pointAtNode(pointAt, chosen?.item), [pointAt, chosen]);
  const chains = useMemo(
    () => (chosen ? chainsBetween(net, chosen.node, 0, LISTED, counts) : undefined),
    [net, chosen, counts],
  );
  return (
    <Halves>
      <Side>
        <Box
          aria-label="Filter products"
          placeholder="Filter"
          value={filter}
          onChange={(event) => change({ seek: event.target.value })}
        />
        <Soft>
          {products.length.toLocaleString('en-GB')} {products.length === 1 ? 'product' : 'products'}
          {hidden > 0 ? `, ${hidden} items not visible to you` : ''}
        </Soft>
        <Grid
          label="Products"
          {...table.grid}
          cursor={cursor}
          onOpen={({ item }) => void navigate(traceAddress(`${item.number}@${item.version}`, lens))}
          takesFocus
        />
      </Side>
      <Main>
        {chosen && chains ? (
          <ChainList net={net} chosen={chosen} listed={chains} />
        ) : (
          <Hint>No product fits the filter.</Hint>
        )}
      </Main>
    </Halves>
  );
}

function productLines(net: Net<NetNodeRow>, counts: ReturnType<typeof chainCounts>): ProductLine[] {
  return productsOf(net, 0)
    .flatMap((node): ProductLine[] => {
      const item = net.nodes[node];
      if (!item || item.isHidden) return [];
      return [{ node, item, count: counts.counts[node] ?? 0, quantity: counts.quantities[node] ?? 0 }];
    })
    .sort((a, b) => (a.item.number < b.item.number ? -1 : 1));
}

/** A chain is told apart by the links that it takes. */
function keyOfChain({ links }: Chain): string {
  return links.map(({ from, to }) => `${from}-${to}`).join(' ');
}

/** Every way from one product. */
function ChainList({
  net,
  chosen,
  listed: { quantity, count, chains },
}: {
  readonly net: Net<NetNodeRow>;
  readonly chosen: ProductLine;
  readonly listed: ReturnType<typeof chainsBetween>;
}): React.JSX.Element {
  const columns = useMemo(() => chainColumns(net, chosen, chains), [net, chosen, chains]);
  const table = useTable('chains', chains, columns);
  const cursor = useGridCursor(table.rows, keyOfChain, { about: chosen.item.number });
  return (
    <>
      <p aria-live="polite">
        <Mono>{chosen.item.number}</Mono> holds <b>{sayCount(quantity)}</b> over{' '}
        {count.toLocaleString('en-GB')} {count === 1 ? 'chain' : 'chains'}
        {count > chains.length ? `; the first ${LISTED.toLocaleString('en-GB')} are listed` : ''}
      </p>
      <Grid label="Chains" {...table.grid} cursor={cursor} />
    </>
  );
}

const PRODUCT_COLUMNS: readonly GridColumn<ProductLine>[] = [
  {
    key: 'product',
    title: 'Product',
    width: 'minmax(150px, 1fr)',
    sortBy: ({ item }) => item.number,
    cell: ({ item }) => (
      <>
        <StateGlyph state={item.state} />
        <Whole>{item.number}</Whole>
        <MiddleCut text={item.name} />
      </>
    ),
  },
  {
    key: 'count',
    title: 'Chains',
    width: '64px',
    align: 'right',
    sortBy: ({ count }) => count,
    cell: ({ count }) => <Mono>{sayCount(count)}</Mono>,
  },
  {
    key: 'quantity',
    title: 'Total',
    width: '64px',
    align: 'right',
    sortBy: ({ quantity }) => quantity,
    cell: ({ quantity }) => <Mono>{sayCount(quantity)}</Mono>,
  },
];

const CONFIGURATIONS: GridColumn<Chain> = {
  key: 'configurations',
  title: 'Configurations',
  width: '150px',
  cell: ({ configurations }) => <OnlyIn configurations={configurations} />,
};

function chainColumns(
  net: Net<NetNodeRow>,
  product: ProductLine,
  chains: readonly Chain[],
): readonly GridColumn<Chain>[] {
  const hasConfigurations = chains.some(({ configurations }) => configurations !== undefined);
  return [
    {
      key: 'chain',
      title: 'Chain',
      width: 'minmax(280px, 1fr)',
      cell: ({ links }) => (
        <Way>
          <Mono>{product.item.number}</Mono>
          {links.map((link, at) => {
            const node = net.nodes[link.to];
            return (
              <Fragment key={at}>
                <Soft> › </Soft>
                <Mono title={node?.name}>{node?.isHidden ? 'not visible' : node?.number}</Mono>
                <Quantity>×{sayCount(link.quantity)}</Quantity>
                {link.behind > 0 ? <AttentionMark>behind by {link.behind}</AttentionMark> : null}
              </Fragment>
            );
          })}
        </Way>
      ),
    },
    ...(hasConfigurations ? [CONFIGURATIONS] : []),
    {
      key: 'levels',
      title: 'Levels',
      width: '64px',
      align: 'right',
      sortBy: ({ links }) => links.length,
      cell: ({ links }) => <Mono>{links.length}</Mono>,
    },
    {
      key: 'quantity',
      title: 'Total',
      width: '70px',
      align: 'right',
      sortBy: ({ quantity }) => quantity,
      cell: ({ quantity }) => <Mono>{sayCount(quantity)}</Mono>,
    },
  ];
}

const Whole = styled(Mono)`
  flex: none;
`;
const Halves = styled.div`
  flex: 1;
  min-height: 0;
  display: flex;
  gap: 12px;
`;
const Side = styled.section`
  flex: 0 0 330px;
  min-height: 0;
  display: flex;
  flex-direction: column;
  gap: 8px;
`;
const Main = styled.section`
  flex: 1;
  min-width: 0;
  min-height: 0;
  display: flex;
  flex-direction: column;
  gap: 8px;
`;
const Way = styled.span`
  display: flex;
  gap: 5px;
  overflow-x: auto;
`;
const Quantity = styled(Mono)`
  color: ${colour.petrol};
`;
