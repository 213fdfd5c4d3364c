import { lensParts, lensText } from '@stem-trace/contract';
import { queryOptions, useQuery } from '@tanstack/react-query';
import { useSearchParams } from 'react-router';
import styled from 'styled-components';
import { get } from '../api/client.js';
import { Choice, Select } from '../ui/controls.js';
import { useLens } from './addresses.js';

const LENSES = [
  { key: 'recorded', text: 'As recorded' },
  { key: 'newest', text: 'Newest' },
  { key: 'released', text: 'Released' },
] as const;

type LensKey = (typeof LENSES)[number]['key'];

const configurationsQuery = (item: string) =>
  queryOptions({
    queryKey: ['structure', 'configurations', item],
    queryFn: ({ signal }) => get('/api/configurations', { item }, signal),
    enabled: item !== '',
  });

/** Which versions links lead to, and, where an item has configurations, which of them is looked at. */
export function LensChoice(): React.JSX.Element {
  const [lens, setLens] = useLens();
  const parts = lensParts(lens);
  const [search] = useSearchParams();
  const { data } = useQuery(configurationsQuery(search.get('item') ?? search.get('from') ?? ''));
  const names = new Set(data?.configurations ?? []);
  // One that was chosen for another item can be seen, and left.
  if (parts.configuration !== undefined) names.add(parts.configuration);
  return (
    <>
      <span>Lens</span>
      <Choice<LensKey>
        label="Lens"
        options={LENSES}
        value={LENSES.find(({ key }) => key === parts.versions)?.key ?? 'recorded'}
        onChange={(versions) => setLens(lensText({ ...parts, versions }))}
      />
      {names.size === 0 ? null : (
        <Configuration
          aria-label="Configuration"
          value={parts.configuration ?? ''}
          onChange={({ target: { value } }) =>
            setLens(lensText({ versions: parts.versions, ...(value === '' ? {} : { configuration: value }) }))
          }
        >
          <option value="">All configurations</option>
          {[...names].map((name) => (
            <option key={name} value={name}>
              {name}
            </option>
          ))}
        </Configuration>
      )}
    </>
  );
}

/** The lens after this one, in the same configuration. */
export function nextLens(lens: string): string {
  const parts = lensParts(lens);
  const index = LENSES.findIndex(({ key }) => key === parts.versions);
  return lensText({ ...parts, versions: LENSES[(index + 1) % LENSES.length]?.key ?? 'recorded' });
}

const Configuration = styled(Select)`
  max-width: 190px;
`;
