import type { ReaderPool } from './jobs/reader-pool.js';
import type { TessellatePool } from './jobs/tessellate-pool.js';
import type { ServerSettings } from './server-settings.js';

/** What a server is started with. */
export abstract class AppOptions {
  abstract readonly databaseUrl: string;
  /** Folder of the blobs. */
  abstract readonly blobFolder: string;
  /** Folder of the demo data, whose people are then offered at sign-in. */
  abstract readonly demoFolder?: string;
  /** Whether shapes and sums are worked out without being asked for. */
  abstract readonly worksInBackground?: boolean;
  abstract readonly settings?: ServerSettings;
  /** Of somebody who has them for several servers, and ends them. */
  abstract readonly pools?: { readonly readers: ReaderPool; readonly tessellators: TessellatePool };
  /** See `InlineThread`. */
  abstract readonly worksInline?: boolean;
}
