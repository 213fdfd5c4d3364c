import { createRequire } from 'node:module';
import { setOC } from 'replicad';
import initialise from 'replicad-opencascadejs';

/** Loads the geometry kernel; takes about a second. */
export async function loadKernel(): Promise<void> {
  const wasm = createRequire(import.meta.url).resolve('replicad-opencascadejs/wasm');
  setOC(
    await (initialise as unknown as (options: object) => ReturnType<typeof initialise>)({
      locateFile: () => wasm,
    }),
  );
}
