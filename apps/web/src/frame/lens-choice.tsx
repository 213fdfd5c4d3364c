import {
  baselineIn,
  baselineLens,
  effectiveIn,
  effectiveLens,
  lensParts,
  lensText,
  parseReference,
  type BaselineRow,
  type LensText,
} from '@stem-trace/contract';
import { isDay } from '@stem-trace/core';
import { queryOptions, useQuery } from '@tanstack/react-query';
import { useLocation, useSearchParams } from 'react-router';
import styled from 'styled-components';
import { get } from '../api/client.js';
import { baselinesQuery, sayBaseline } from '../api/issued.js';
import { Choice, Select } from '../ui/controls.js';
import { DayField } from '../ui/day-field.js';
import { useIsNarrow } from '../ui/use-narrow.js';
import { useLens } from './addresses.js';
import { EffectiveChoice } from './effective-choice.js';

/** How a lens is chosen; a day is picked further. */
export const LENSES = [
  { key: 'recorded', text: 'As recorded' },
  { key: 'newest', text: 'Newest' },
  { key: 'released', text: 'Released' },
  { key: 'day', text: 'On date' },
] as const;

/** What is built on a day, or in one piece of a product. */
const EFFECTIVE = { key: 'effective', text: 'Effective on' } as const;

/** Where something was frozen. */
const BASELINE = { key: 'baseline', text: 'Baseline' } as const;

type LensKey = (typeof LENSES)[number]['key'] | 'effective' | 'baseline';

/** Screens on which the lens changes what is seen; the configuration where one item is looked at. */
const WITH_LENS = ['/trace', '/compare', '/look', '/find'] as const;
const WITH_CONFIGURATION = ['/trace', '/compare', '/look'] as const;

export function usesLens(pathname: string): boolean {
  return WITH_LENS.some((path) => path === pathname);
}

const configurationsQuery = (item: string) =>
  queryOptions({
    queryKey: ['structure', 'configurations', item],
    queryFn: ({ signal }) => get('/api/configurations', { item }, signal),
    enabled: item !== '',
  });

/** Which versions links lead to; only where that changes what is seen. */
export function LensChoice(): React.JSX.Element | null {
  const { pathname } = useLocation();
  const [lens, setLens] = useLens();
  const baselines = useBaselines();
  const item = useItem();
  if (!usesLens(pathname)) return null;
  const isOfOne = WITH_CONFIGURATION.some((path) => path === pathname);
  const parts = lensParts(lens);
  const isFind = pathname === '/find';
  const shown = isFind ? plainKey(lens) : keyOf(lens);
  // Find knows of the newest and of what was released; what there was on a day, or in a baseline, it does not.
  const lenses = [
    ...LENSES.filter(({ key }) => !isFind || key !== 'day'),
    ...(isFind ? [] : [EFFECTIVE]),
    ...(shown === 'baseline' || baselines.length > 0 ? [BASELINE] : []),
  ];
  const at = effectiveIn(lens);
  const look = (versions: string): void => setLens(lensText({ ...parts, versions }));
  const choose = (key: LensKey): void => {
    const [newest] = baselines;
    if (key === 'effective') look(effectiveLens({ kind: 'day', day: today() }));
    else if (key === 'day') look(today());
    else if (key !== 'baseline') look(key);
    else if (newest) look(baselineLens(newest.id));
  };
  return (
    <>
      <Keys {...{ lenses, shown }} onChoose={choose} />
      {shown === 'day' ? (
        <DayField label="Day" isBare value={parts.versions} onChange={(day) => day !== '' && look(day)} />
      ) : null}
      {shown === 'effective' && at ? (
        <EffectiveChoice {...{ at, product: parseReference(item).number }} today={today()} onChange={look} />
      ) : null}
      {shown === 'baseline' ? <BaselineChoice rows={baselines} /> : null}
      {isOfOne ? <ConfigurationChoice /> : null}
    </>
  );
}

function keyOf(lens: LensText): LensKey {
  if (baselineIn(lens) !== undefined) return 'baseline';
  if (effectiveIn(lens)) return 'effective';
  return isDay(lensParts(lens).versions) ? 'day' : plainKey(lens);
}

function plainKey(lens: LensText): LensKey {
  return LENSES.find(({ key }) => key === lensParts(lens).versions)?.key ?? 'recorded';
}

interface KeysProps {
  readonly lenses: readonly { readonly key: LensKey; readonly text: string }[];
  readonly shown: LensKey;
  readonly onChoose: (key: LensKey) => void;
}

function Keys({ lenses, shown, onChoose }: KeysProps): React.JSX.Element {
  if (!useIsNarrow())
    return (
      <>
        <span>Lens</span>
        <Choice<LensKey> label="Lens" options={lenses} value={shown} onChange={onChoose} />
      </>
    );
  return (
    <Select
      aria-label="Lens"
      value={shown}
      onChange={(event) => onChoose(lenses.find(({ key }) => key === event.target.value)?.key ?? 'recorded')}
    >
      {lenses.map(({ key, text }) => (
        <option key={key} value={key}>
          {text}
        </option>
      ))}
    </Select>
  );
}

/** The item that is looked at; empty where no single one is. */
function useItem(): string {
  const { pathname } = useLocation();
  const [search] = useSearchParams();
  const isOfOne = WITH_CONFIGURATION.some((path) => path === pathname);
  return isOfOne ? (search.get('item') ?? search.get('from') ?? '') : '';
}

/** Baselines of the item that is looked at, and of whatever holds it; none where no single item is. */
function useBaselines(): readonly BaselineRow[] {
  return useQuery(baselinesQuery(useItem())).data ?? [];
}

function BaselineChoice({ rows }: { readonly rows: readonly BaselineRow[] }): React.JSX.Element {
  const [lens, setLens] = useLens();
  const parts = lensParts(lens);
  return (
    <Configuration
      aria-label="Baseline"
      value={parts.versions}
      onChange={({ target }) => setLens(lensText({ ...parts, versions: target.value }))}
    >
      {/* One of another item can be seen, and left. */}
      {rows.some((each) => baselineLens(each.id) === parts.versions) ? null : (
        <option value={parts.versions}>{parts.versions}</option>
      )}
      {rows.map((each) => (
        <option key={each.id} value={baselineLens(each.id)}>
          {sayBaseline(each)}
        </option>
      ))}
    </Configuration>
  );
}

export function today(): string {
  return new Date().toISOString().slice(0, 10);
}

/** Where an item has configurations, which of them is looked at. */
function ConfigurationChoice(): React.JSX.Element | null {
  const [lens, setLens] = useLens();
  const { versions, configuration } = lensParts(lens);
  const [search] = useSearchParams();
  const { data } = useQuery(configurationsQuery(search.get('item') ?? search.get('from') ?? ''));
  const names = new Set(data?.configurations ?? []);
  // One that was chosen for another item can be seen, and left.
  if (configuration !== undefined) names.add(configuration);
  if (names.size === 0) return null;
  return (
    <Configuration
      aria-label="Configuration"
      value={configuration ?? ''}
      onChange={({ target: { value } }) =>
        setLens(lensText({ versions, ...(value === '' ? {} : { configuration: value }) }))
      }
    >
      <option value="">All configurations</option>
      {[...names].map((name) => (
        <option key={name} value={name}>
          {name}
        </option>
      ))}
    </Configuration>
  );
}

/** The lens after this one, in the same configuration; a day is left for the first. */
export function nextLens(lens: string): string {
  const parts = lensParts(lens);
  const words = LENSES.filter(({ key }) => key !== 'day');
  const index = words.findIndex(({ key }) => key === parts.versions);
  return lensText({ ...parts, versions: words[(index + 1) % words.length]?.key ?? 'recorded' });
}

const Configuration = styled(Select)`
  max-width: 170px;
`;
