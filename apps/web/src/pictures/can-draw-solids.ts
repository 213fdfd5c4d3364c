/** What this browser draws in three dimensions with. */
interface Drawing {
  readonly isThere: boolean;
  readonly isByProcessor: boolean;
}

let known: Drawing | undefined;

/** Whether this browser draws in three dimensions at all; many do not on remote desktops. Asked once. */
export function canDrawSolids(): boolean {
  known ??= asked();
  return known.isThere;
}

/** Whether it does so without a graphics card, which takes very much longer. */
export function drawsByProcessor(): boolean {
  known ??= asked();
  return known.isByProcessor;
}

/** As drawing by the processor calls itself in the browsers that tell. */
const PROCESSOR = /swiftshader|llvmpipe|softpipe|software|basic render/i;

function asked(): Drawing {
  try {
    const context = document.createElement('canvas').getContext('webgl2');
    const tells = context?.getExtension('WEBGL_debug_renderer_info');
    const name = String(context?.getParameter(tells?.UNMASKED_RENDERER_WEBGL ?? context.RENDERER) ?? '');
    context?.getExtension('WEBGL_lose_context')?.loseContext();
    return { isThere: context !== null, isByProcessor: PROCESSOR.test(name) };
  } catch {
    return { isThere: false, isByProcessor: false };
  }
}

export const NO_SOLIDS =
  'This browser draws nothing in three dimensions: WebGL is off or missing. Turn on hardware acceleration in its settings, or use another browser.';
