import { queryOptions, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { get, send } from '../../api/client.js';
import { Hint, Pick, Trouble } from '../../ui/controls.js';

const zoneQuery = queryOptions({
  queryKey: ['settings', 'zone'],
  queryFn: ({ signal }) => get('/api/settings/zone', {}, signal),
});

/** UTC, and every zone that the browser knows. */
const ZONES: readonly string[] = [
  'UTC',
  ...Intl.supportedValuesOf('timeZone').filter((zone) => zone !== 'UTC'),
];

/** Where the site is, as far as days go. */
export function SiteSection(): React.JSX.Element {
  const queries = useQueryClient();
  const { data, error } = useQuery(zoneQuery);
  const set = useMutation({
    mutationFn: (zone: string) => send('PUT', '/api/settings/zone', { zone }),
    onSuccess: (answer) => {
      queries.setQueryData(zoneQuery.queryKey, answer);
      return queries.invalidateQueries();
    },
  });
  const trouble = error ?? set.error;
  const zone = data?.zone ?? 'UTC';
  return (
    <>
      <Hint>
        Days begin and end here by this zone: what is due, what is in effect, what Find and the lens On date
        mean by a day, and the daily mail at six. Moments are kept in UTC; signatures say the zone of whoever
        signed.
      </Hint>
      {trouble ? <Trouble>{trouble.message}</Trouble> : null}
      <Pick
        label="Time zone of the site"
        options={(ZONES.includes(zone) ? ZONES : [zone, ...ZONES]).map((key) => ({ key, text: key }))}
        value={zone}
        onChange={(next) => set.mutate(next)}
      />
    </>
  );
}
