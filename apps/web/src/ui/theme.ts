/**
 * All colours, sizes and typefaces. Colours are CSS variables with the same meaning in both themes, so that
 * components name a meaning and never a colour.
 */
import { createGlobalStyle } from 'styled-components';

export const colour = {
  paper: 'var(--paper)',
  surface: 'var(--surface)',
  raised: 'var(--raised)',
  line: 'var(--line)',
  lineStrong: 'var(--line-strong)',
  ink: 'var(--ink)',
  inkSoft: 'var(--ink-soft)',
  /** The one accent: what is chosen, what can be done. */
  petrol: 'var(--petrol)',
  petrolSoft: 'var(--petrol-soft)',
  onPetrol: 'var(--on-petrol)',
  /** What wants attention. */
  copper: 'var(--copper)',
  copperSoft: 'var(--copper-soft)',
  added: 'var(--added)',
  addedSoft: 'var(--added-soft)',
  changed: 'var(--changed)',
  changedSoft: 'var(--changed-soft)',
} as const;

export const size = {
  rail: '64px',
  topLine: '48px',
  margin: '340px',
  tray: '44px',
  row: 32,
  denseRow: 26,
  /** Windows narrower than this have no room for the margin beside the sheet. */
  narrow: '1000px',
} as const;

export const font = {
  text: "'IBM Plex Sans', system-ui, sans-serif",
  /** Numbers, versions and quantities. */
  mono: "'IBM Plex Mono', ui-monospace, monospace",
} as const;

const LIGHT = `
  --paper: #e9edee; --surface: #f4f6f7; --raised: #ffffff; --line: #d2d9dc; --line-strong: #a4b0b6;
  --ink: #14191c; --ink-soft: #4a575e;
  --petrol: #0b4f5c; --petrol-soft: #d5e6e9; --on-petrol: #ffffff;
  --copper: #96470f; --copper-soft: #f7e7da;
  --added: #1b59b3; --added-soft: #e1eafa;
  --changed: #67399c; --changed-soft: #efe7f8;`;
const DARK = `
  --paper: #0f1517; --surface: #151d20; --raised: #1c262a; --line: #2b383d; --line-strong: #53656d;
  --ink: #e8eef0; --ink-soft: #a5b4bb;
  --petrol: #6cc0cd; --petrol-soft: #17363c; --on-petrol: #06181c;
  --copper: #e79d66; --copper-soft: #3a2516;
  --added: #85b2f5; --added-soft: #172a47;
  --changed: #c3a1ec; --changed-soft: #2d2040;`;

export const GlobalStyle = createGlobalStyle`
  :root {
    color-scheme: light;
    ${LIGHT}
  }
  @media (prefers-color-scheme: dark) {
    :root:not([data-theme='light']) {
      color-scheme: dark;
      ${DARK}
    }
  }
  :root[data-theme='dark'] {
    color-scheme: dark;
    ${DARK}
  }
  * { box-sizing: border-box; }
  html, body, #root { height: 100%; margin: 0; }
  body { background: var(--paper); color: var(--ink); font: 13px/1.45 ${font.text}; -webkit-font-smoothing: antialiased; }
  h1, h2, h3, p { margin: 0; }
  h1 { font-size: 16px; font-weight: 600; }
  h2 { font-size: 13px; font-weight: 600; }
  a { color: var(--petrol); }
  :focus-visible { outline: 2px solid var(--petrol); outline-offset: 1px; }
  @media (prefers-reduced-motion: reduce) { * { transition: none !important; animation: none !important; scroll-behavior: auto !important; } }
`;
