import type { ItemView, VersionRow } from '@stem-trace/contract';

export function versionRow(version: string, more: Partial<VersionRow> = {}): VersionRow {
  return {
    ...{ version, state: 'draft', comment: `why ${version}`, author: 'Ines Halvorsen', behind: 0 },
    ...{ createdAt: '2026-03-01T08:00:00.000Z', fileName: 'fm-100.stp' },
    ...more,
  };
}

/** An item as the server shows it to somebody who may change it. */
export function itemView(more: Partial<ItemView> = {}): ItemView {
  const versions = more.versions ?? [versionRow('A/1')];
  const newest = versions[0]?.version ?? 'A/1';
  const plain: ItemView = {
    ...{ number: 'FM-100', name: 'Tide station', kind: 'assembly', state: 'draft', version: newest },
    ...{ place: '/Projects', changedAt: '2026-03-01T08:00:00.000Z', changedBy: 'Ines Halvorsen' },
    ...{ shown: newest, comment: '', fileName: 'fm-100.stp', description: '', class: null },
    ...{
      format: 'step',
      properties: [],
      sums: [],
      derivatives: [],
      usedIn: 0,
      madeOf: 3,
      gaps: 0,
      beside: [],
    },
    ...{ behindLinks: [], watched: false, heldBy: null, rights: ['see', 'fetch', 'change'], versions },
    ...{ steps: [], signatures: [] },
  };
  return { ...plain, ...more };
}
