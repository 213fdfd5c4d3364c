let known: boolean | undefined;

/** Whether this browser draws in three dimensions at all; many do not on remote desktops. Asked once. */
export function canDrawSolids(): boolean {
  known ??= asked();
  return known;
}

function asked(): boolean {
  try {
    const context = document.createElement('canvas').getContext('webgl2');
    context?.getExtension('WEBGL_lose_context')?.loseContext();
    return context !== null;
  } catch {
    return false;
  }
}

export const NO_SOLIDS =
  'This browser draws nothing in three dimensions: WebGL is off or missing. Turn on hardware acceleration in its settings, or use another browser. Structure, drawings and documents are there all the same.';
