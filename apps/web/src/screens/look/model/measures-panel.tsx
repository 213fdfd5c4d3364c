/** What was measured and kept, to be read, copied and taken away; and the smallest distance of two uses. */
import { useQuery } from '@tanstack/react-query';
import styled from 'styled-components';
import { get } from '../../../api/client.js';
import { Button, QuietButton, Soft, Trouble } from '../../../ui/controls.js';
import { useShowing } from '../../../ui/showing.js';
import { sayLength, sayMeasured, sayTolerance } from './measured.js';
import type { Looking } from './use-looking.js';

export function MeasuresPanel(looking: Looking): React.JSX.Element {
  const { state, change, picked } = looking;
  return (
    <Panel aria-label="Measured">
      <Soft>
        Click a face, edge or point; hold Shift and click another to measure between them. What is kept goes
        with a scene.
      </Soft>
      <div>
        <Button onPress={() => keepMeasured(looking)} isDisabled={picked.length === 0}>
          Keep what is measured (K)
        </Button>
      </div>
      <Apart {...looking} />
      <ol>
        {state.measures.map(({ words }, at) => (
          <li key={at}>
            {words}{' '}
            <QuietButton
              aria-label={`Take away: ${words}`}
              onPress={() => change({ measures: state.measures.filter((_, other) => other !== at) })}
            >
              Take away
            </QuietButton>
          </li>
        ))}
      </ol>
    </Panel>
  );
}

/** Keeps what is measured now; then something else is. */
export function keepMeasured({ picked, setPicked, state, change, unit }: Looking): void {
  const words = sayMeasured(picked, unit);
  if (words === '') return;
  change({ measures: [...state.measures, { words, spots: picked.map(({ point }) => point) }] });
  setPicked([]);
}

/** Surface to surface, of two that are selected; as the server finds it. */
function Apart({ item, lens, scene, state, change }: Looking): React.JSX.Element | null {
  const { length } = useShowing();
  const [of, to] = [...state.selected];
  const isPair = of !== undefined && to !== undefined && state.selected.size === 2;
  const found = useQuery({
    queryKey: ['items', 'apart', item, lens, of, to],
    queryFn: ({ signal }) =>
      get(
        '/api/near',
        { item, lens, nodes: scene.nodes.length, of: String(of), to: String(to), within: 1e6 },
        signal,
      ),
    enabled: isPair,
  });
  if (!isPair) return null;
  if (found.error) return <Trouble>{found.error.message}</Trouble>;
  const row = found.data?.rows[0];
  if (!row)
    return (
      <Soft role="status">{found.data ? 'There is no geometry in one of them yet.' : 'Measuring …'}</Soft>
    );
  const [one, other] = [of, to].map((node) => scene.nodes[node]?.number ?? '');
  const between =
    row.kind === 'near'
      ? `${sayLength(row.distanceMm, length)} (${sayTolerance(row.toleranceMm, length)}) at their nearest`
      : row.kind === 'touches'
        ? `touch within ${sayLength(row.toleranceMm, length)}`
        : `reach at least ${sayLength(row.depthMm, length)} into each other`;
  const words = `${one} — ${other}: ${between}`;
  const spots = row.between.flatMap(([x, y, z]) =>
    x === undefined || y === undefined || z === undefined ? [] : [[x, y, z] as const],
  );
  return (
    <div role="status">
      {words}{' '}
      <QuietButton onPress={() => change({ measures: [...state.measures, { words, spots }] })}>
        Keep it
      </QuietButton>
    </div>
  );
}

const Panel = styled.section`
  display: flex;
  flex-direction: column;
  gap: 6px;
  ol {
    margin: 0;
    padding-left: 20px;
  }
`;
