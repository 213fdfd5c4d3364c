// @vitest-environment happy-dom
import { cleanup, screen, within } from '@testing-library/react';
import { afterEach, expect, it, vi } from 'vitest';
import { netAnswer, netNode } from '../../testing/nets.js';
import { show } from '../../testing/show.js';
import { ChainsView } from './chains-view.js';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const address = '/trace?item=BOLT&view=chains';
/** Two products; the first holds the bolt directly and through a mast, the second may not be seen. */
const NODES = ['BOLT', 'MAST', 'STATION', 'BUOY'].map((number) => netNode(number));
const LINKS = [
  [1, 0, 4, 0],
  [2, 1, 2, 1],
  [2, 0, 3, 0],
  [3, 0, 1, 0],
] as const;

it('multiplies quantities along each chain and adds them up for a product', async () => {
  show(<ChainsView focus="BOLT" />, { address, answers: { '/api/net': netAnswer(NODES, LINKS) } });
  const products = await screen.findByRole('grid', { name: 'Products' });
  expect(within(products).getByRole('row', { name: /STATION.* 2 11/ })).toBeDefined();
  await screen.findByText(/over 1 chain$/);
  within(products)
    .getByRole('row', { name: /STATION/ })
    .click();
  await screen.findByText(/over 2 chains/);
  const chains = screen.getByRole('grid', { name: 'Chains' });
  expect(within(chains).getByRole('row', { name: /STATION › BOLT ×3 1 3/ })).toBeDefined();
  expect(
    within(chains).getByRole('row', { name: /STATION › MAST ×2 behind by 1 › BOLT ×4 2 8/ }),
  ).toBeDefined();
  expect(within(chains).queryByRole('columnheader', { name: 'Configurations' })).toBeNull();
});

it('says in which configurations a chain is, and where in none', async () => {
  const configurations = [
    [0, ['storm']],
    [1, ['winter']],
    [2, ['storm', 'winter']],
  ] as const;
  show(<ChainsView focus="BOLT" />, {
    address,
    answers: { '/api/net': netAnswer(NODES, LINKS, { configurations }) },
  });
  const products = await screen.findByRole('grid', { name: 'Products' });
  within(products)
    .getByRole('row', { name: /STATION/ })
    .click();
  expect(await screen.findByText('only storm, winter')).toBeDefined();
  expect(screen.getByText('in no configuration')).toBeDefined();
});

it('filters products, and says that none fits', async () => {
  const { user } = show(<ChainsView focus="BOLT" />, {
    address,
    answers: { '/api/net': netAnswer(NODES, LINKS) },
  });
  await user.type(await screen.findByLabelText('Filter products'), 'buoy');
  await screen.findByText('1 product');
  expect(
    within(screen.getByRole('grid', { name: 'Products' })).getByRole('row', { name: /BUOY/ }),
  ).toBeDefined();
  await user.type(screen.getByLabelText('Filter products'), 'x');
  expect(await screen.findByText('No product fits the filter.')).toBeDefined();
});

it('leaves out products that may not be seen, and says how many items that are', async () => {
  const nodes = NODES.map((node) =>
    node.number === 'BUOY' ? { ...node, number: '', isHidden: true, version: null } : node,
  );
  show(<ChainsView focus="BOLT" />, {
    address,
    answers: { '/api/net': netAnswer(nodes, LINKS, { hidden: 1 }) },
  });
  expect(await screen.findByText('1 product, 1 items not visible to you')).toBeDefined();
});

it('says that nothing uses it', async () => {
  show(<ChainsView focus="BOLT" />, {
    address,
    answers: { '/api/net': netAnswer([netNode('BOLT')], []) },
  });
  expect(await screen.findByText(/Nothing uses BOLT under this lens: it is a product/)).toBeDefined();
});
