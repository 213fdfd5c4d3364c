export interface Cluster {
  readonly url: string;
  readonly pid: number;
  readonly ended: Promise<void>;
  stop(): Promise<void>;
}

export function startCluster(options: {
  bin: string;
  folder: string;
  settings?: Readonly<Record<string, string | number>>;
  port?: number;
}): Promise<Cluster>;
export function ensureDatabase(url: string, options?: { drop?: boolean; template?: string }): Promise<void>;
export function freePort(): Promise<number>;
