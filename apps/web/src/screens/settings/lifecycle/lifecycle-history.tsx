/** How a lifecycle was changed, and taking it out of the store as a file. */
import type { LifecycleRow } from '@stem-trace/contract';
import { useQuery } from '@tanstack/react-query';
import { Download } from 'lucide-react';
import { get } from '../../../api/client.js';
import { QuietButton, Soft } from '../../../ui/controls.js';
import { download } from '../../../ui/download.js';
import { When } from '../../../ui/when.js';

export function LifecycleHistory({ lifecycle }: { readonly lifecycle: LifecycleRow }): React.JSX.Element {
  const { id, version } = lifecycle;
  const versions = useQuery({
    queryKey: ['lifecycles', 'versions', id, version],
    queryFn: () => get(`/api/lifecycles/${id}/versions`),
  });
  return (
    <details>
      <summary>Versions</summary>
      <ol reversed start={versions.data?.length ?? 1} aria-label="Versions">
        {versions.data?.map((row) => (
          <li key={row.version}>
            {row.by ?? 'As it ships'}, <When at={row.at} />
            {row.comment === '' ? null : <Soft> — {row.comment}</Soft>}{' '}
            <QuietButton
              aria-label={`Version ${row.version} as a file`}
              onPress={() =>
                download(
                  new Blob([`${JSON.stringify(row.diagram, null, 2)}\n`], { type: 'application/json' }),
                  `${row.diagram.name} ${row.version}.json`,
                )
              }
            >
              <Download size={14} aria-hidden /> As a file
            </QuietButton>
          </li>
        ))}
      </ol>
    </details>
  );
}
