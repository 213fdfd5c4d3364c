export function ensurePackages(): Promise<void>;
export function ensurePostgres(): Promise<string>;
export function ensureChromium(): Promise<string>;
export function isRoot(): boolean;
