import { TEMPLATE, type BeginResult } from '@stem-trace/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useNavigate } from 'react-router';
import { addressOf, get, send } from '../api/client.js';
import { itemSchemesQuery } from '../api/properties.js';
import { AskDialog } from '../ui/ask-dialog.js';
import { Hint } from '../ui/controls.js';
import { DialogFrame } from '../ui/dialog-frame.js';
import { download } from '../ui/download.js';
import { traceAddress, useLens } from './addresses.js';
import { PlacePicker } from './place-picker.js';

const WORDS = `${TEMPLATE.toLowerCase()} = yes`;
const MOST = 200;

/** Begins an item with a template: it gets its number, is held, and its files come at once. */
export function BeginDialog({ onClose }: { readonly onClose: () => void }): React.JSX.Element {
  const templates = useQuery({
    queryKey: ['items', 'templates'],
    queryFn: ({ signal }) => get('/api/items', { words: WORDS, limit: MOST }, signal),
  });
  const schemes = useQuery(itemSchemesQuery);
  const begin = useBegin();
  const rows = templates.data?.rows ?? [];
  if (!templates.data || !schemes.data || rows.length === 0)
    return (
      <DialogFrame title="Begin with a template" widthPx={440} onClose={onClose}>
        <Hint role="status">
          {templates.isPending
            ? 'Looking for templates …'
            : `Nothing is a template yet. Check an item out, and set its property “${TEMPLATE}” to yes; from then on others can be begun with it.`}
        </Hint>
      </DialogFrame>
    );
  const numbers = [
    { key: '', text: 'as the template’s' },
    ...schemes.data.map(({ name, next }) => ({ key: name, text: `${name}, next is ${next}` })),
  ];
  return (
    <AskDialog
      title="Begin with a template"
      action="Begin"
      says={<Hint>It is copied under a new number and held by you; its files come at once.</Hint>}
      fields={[
        { key: 'name', label: 'Name of what is begun', value: '' },
        {
          key: 'item',
          label: 'Template',
          value: rows[0]?.number ?? '',
          options: rows.map(({ number, name, kind }) => ({
            key: number,
            text: `${number} ${name} · ${kind}`,
          })),
        },
        { key: 'scheme', label: 'Number', value: '', options: numbers },
        {
          key: 'place',
          label: 'Place',
          value: '',
          render: (place, onChange) => (
            <PlacePicker
              label="Place"
              value={place}
              placeholder="where the template lies"
              onChange={onChange}
              width="100%"
            />
          ),
        },
      ]}
      onAnswer={({ item = '', name = '', scheme = '', place = '' }) => begin({ item, name, scheme, place })}
      onClose={onClose}
    />
  );
}

/** Begins, brings the files, and shows what was begun. */
function useBegin(): (request: {
  readonly item: string;
  readonly name: string;
  readonly scheme: string;
  readonly place: string;
}) => Promise<BeginResult> {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const [lens] = useLens();
  return async (request) => {
    const begun = await send('POST', '/api/begin', request);
    await queries.invalidateQueries({ predicate: ({ queryKey }) => queryKey[0] !== 'session' });
    download(addressOf('/api/fetch', { item: begun.number, drawings: true }));
    await navigate(traceAddress(begun.number, lens));
    return begun;
  };
}
