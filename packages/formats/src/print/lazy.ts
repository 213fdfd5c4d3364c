/** Printing brings large libraries, which are loaded when something is to be printed first. */
type Print = typeof import('./print.js');
type Overlaid = typeof import('./overlaid.js');
type Blend = typeof import('./blend-pages.js');

/** As `print.ts` says. */
export async function printDrawing(
  ...given: Parameters<Print['printDrawing']>
): ReturnType<Print['printDrawing']> {
  return (await import('./print.js')).printDrawing(...given);
}

/** As `print.ts` says. */
export async function printPages(...given: Parameters<Print['printPages']>): ReturnType<Print['printPages']> {
  return (await import('./print.js')).printPages(...given);
}

/** As `print.ts` says. */
export async function printImage(...given: Parameters<Print['printImage']>): ReturnType<Print['printImage']> {
  return (await import('./print.js')).printImage(...given);
}

/** As `print.ts` says. */
export async function printSheets(
  ...given: Parameters<Print['printSheets']>
): ReturnType<Print['printSheets']> {
  return (await import('./print.js')).printSheets(...given);
}

/** As `overlaid.ts` says. */
export async function printOverlaid(
  ...given: Parameters<Overlaid['printOverlaid']>
): ReturnType<Overlaid['printOverlaid']> {
  return (await import('./overlaid.js')).printOverlaid(...given);
}

/** As `blend-pages.ts` says. */
export async function blendPages(...given: Parameters<Blend['blendPages']>): ReturnType<Blend['blendPages']> {
  return (await import('./blend-pages.js')).blendPages(...given);
}
