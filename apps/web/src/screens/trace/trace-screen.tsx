import { isChange } from '@stem-trace/core';
import { useQuery } from '@tanstack/react-query';
import { Bookmark } from 'lucide-react';
import { lazy, Suspense, useState } from 'react';
import { Navigate, useLocation, useNavigate, useSearchParams } from 'react-router';
import styled from 'styled-components';
import { itemQuery } from '../../api/queries.js';
import {
  changeAddress,
  currentSearch,
  TRACE_VIEWS,
  traceAddress,
  useLens,
  type TraceView,
} from '../../frame/addresses.js';
import { Begin } from '../../frame/begin-with.js';
import { useLooked } from '../../frame/desk.js';
import { ItemPicker } from '../../frame/item-picker.js';
import { useKeyHints, useKeys, type KeyHint } from '../../frame/keys.js';
import { SaveDialog } from '../../frame/save-dialog.js';
import { Button, Choice } from '../../ui/controls.js';
import { BillView } from './bill/bill-view.js';
import { ChainsView } from './chains-view.js';
import { ColumnsView } from './columns-view.js';
import { EffectView } from './effect-view.js';
import { FamilyView } from './family-view.js';
import { OutlineView } from './outline-view.js';
import { StemView } from './stem-view.js';

const MapView = lazy(() => import('./map-view.js').then((module) => ({ default: module.MapView })));

const VIEWS: readonly { readonly key: TraceView; readonly text: string }[] = [
  { key: 'columns', text: 'Columns' },
  { key: 'outline', text: 'Outline' },
  { key: 'bill', text: 'Bill' },
  { key: 'map', text: 'Map' },
  { key: 'chains', text: 'Chains' },
  { key: 'effect', text: 'Effect' },
  { key: 'stem', text: 'Stem' },
  { key: 'family', text: 'Family' },
];

const KEYS: readonly KeyHint[] = [
  { key: 'v', says: 'Next view' },
  { key: '← →', says: 'Along the stem; in an outline: close and open' },
  { key: 'Backspace', says: 'Back to the previous focus' },
  { key: 'f', says: 'On a plate of the map: fold and unfold' },
  { key: 'm', says: 'In an outline: the next part without mass, where a sum says ≥' },
  { key: 'Ctrl C', says: 'In an outline: copy it as a table' },
];

/** Structure around the focus, in one of several ways to look at it; focus and lens stay while the view changes. */
export function TraceScreen(): React.JSX.Element {
  const [search, setSearch] = useSearchParams();
  const { pathname, search: query } = useLocation();
  const [isKeeping, keep] = useState(false);
  const item = useQuery(itemQuery(search.get('item') ?? '')).data;
  useLooked(item);
  const navigate = useNavigate();
  const [lens] = useLens();
  const focus = search.get('item') ?? '';
  const view = viewOf(search);
  const show = (next: TraceView): void => {
    setSearch(shownAs(next), { replace: true });
  };
  useKeyHints(KEYS);
  useKeys([{ key: 'v', says: 'Next view of Trace', run: () => show(viewAfter(viewOf(currentSearch()))) }]);
  // A change has no structure: it says itself what it touches.
  if (item && isChange(item.kind)) return <Navigate to={changeAddress(item.number)} replace />;
  if (focus === '')
    return <Begin title="Trace" label="Trace an item" address={(item) => traceAddress(item)} />;
  return (
    <>
      <Line>
        <ItemPicker
          label="Item to trace"
          value={focus}
          onChoose={(reference) => void navigate(traceAddress(reference, lens, view))}
          width="200px"
        />
        <Choice label="View" options={VIEWS} value={view} onChange={show} />
        <Spacer />
        <Button aria-label="Keep this view" onPress={() => keep(true)}>
          <Bookmark size={15} aria-hidden />
        </Button>
      </Line>
      <Suspense>
        {view === 'columns' ? <ColumnsView /> : null}
        {view === 'outline' ? <OutlineView focus={focus} /> : null}
        {view === 'bill' ? <BillView focus={focus} /> : null}
        {view === 'map' ? <MapView focus={focus} /> : null}
        {view === 'chains' ? <ChainsView focus={focus} /> : null}
        {view === 'effect' ? <EffectView focus={focus} /> : null}
        {view === 'stem' ? <StemView focus={focus} /> : null}
        {view === 'family' ? <FamilyView focus={focus} /> : null}
      </Suspense>
      {isKeeping ? (
        <SaveDialog
          kind="view"
          address={pathname + query}
          says={`${VIEWS.find(({ key }) => key === view)?.text} of ${focus}`}
          onClose={() => keep(false)}
        />
      ) : null}
    </>
  );
}

/** The address of another view of the same focus under the same lens. */
function shownAs(view: TraceView): URLSearchParams {
  const now = currentSearch();
  const after = new URLSearchParams();
  for (const name of ['item', 'lens']) {
    const value = now.get(name);
    if (value !== null) after.set(name, value);
  }
  if (view !== 'columns') after.set('view', view);
  return after;
}

function viewOf(search: URLSearchParams): TraceView {
  return TRACE_VIEWS.find((key) => key === search.get('view')) ?? 'columns';
}

function viewAfter(view: TraceView): TraceView {
  return TRACE_VIEWS[(TRACE_VIEWS.indexOf(view) + 1) % TRACE_VIEWS.length] ?? 'columns';
}

const Line = styled.div`
  display: flex;
  align-items: end;
  flex-wrap: wrap;
  gap: 8px 14px;
`;
const Spacer = styled.span`
  flex: 1;
`;
