import type { State } from '@stem-trace/contract';
import type { DifferenceSign, StateGlyphName } from '@stem-trace/core';
import styled from 'styled-components';
import { useStates } from './states.js';
import { colour } from './theme.js';

/** State glyphs, one set on a 16 px grid; the state is also said in words to those who do not see it. */
export function StateGlyph({ state }: { readonly state: State | null }): React.JSX.Element {
  const glyph = useStates().get(state ?? '')?.glyph;
  return (
    <Svg viewBox="0 0 16 16" role="img" aria-label={state ?? 'not in the store'}>
      <title>{state ?? 'not in the store'}</title>
      {glyph === undefined ? <path d="M3 8h2M7 8h2M11 8h2" /> : GLYPHS[glyph]}
    </Svg>
  );
}

/** A glyph by itself, where one is chosen. */
export function Glyph({ of }: { readonly of: StateGlyphName }): React.JSX.Element {
  return (
    <Svg viewBox="0 0 16 16" aria-hidden>
      {GLYPHS[of]}
    </Svg>
  );
}

const GLYPHS: Readonly<Record<StateGlyphName, React.JSX.Element>> = {
  'dashed ring': <circle cx="8" cy="8" r="5.2" strokeDasharray="2.7 2.7" />,
  'rising ring': (
    <>
      <circle cx="8" cy="8" r="5.2" />
      <path d="M8 10.8V6.2M8 6.2 6.4 7.8M8 6.2l1.6 1.6" />
    </>
  ),
  'cut square': <path d="M3 3h6.5L13 6.5V13H3Z" fill="currentColor" />,
  'cut square in outline': <path d="M3 3h6.5L13 6.5V13H3Z" />,
  'crossed ring': (
    <>
      <circle cx="8" cy="8" r="5.2" />
      <path d="m4.4 4.4 7.2 7.2M11.6 4.4l-7.2 7.2" />
    </>
  ),
  'half ring': (
    <>
      <circle cx="8" cy="8" r="5.2" />
      <path d="M8 2.8a5.2 5.2 0 0 1 0 10.4Z" fill="currentColor" />
    </>
  ),
  'ringed dot': (
    <>
      <circle cx="8" cy="8" r="5.2" />
      <circle cx="8" cy="8" r="1.4" fill="currentColor" />
    </>
  ),
  'split square': (
    <>
      <path d="M3 3h10v10H3Z" />
      <path d="M3 13 13 3v10Z" fill="currentColor" />
    </>
  ),
  diamond: <path d="M8 2.4 13.6 8 8 13.6 2.4 8Z" />,
};

const Svg = styled.svg`
  width: 16px;
  height: 16px;
  flex: none;
  vertical-align: -3px;
  fill: none;
  stroke: currentColor;
  stroke-width: 1.5;
  stroke-linecap: round;
  color: ${colour.petrol};
`;

/** Signs of differences: told by sign, colour and word together. */
export const SIGN: Readonly<
  Record<
    DifferenceSign,
    { readonly mark: string; readonly word: string; readonly ink: string; readonly ground: string }
  >
> = {
  added: { mark: '+', word: 'added', ink: colour.added, ground: colour.addedSoft },
  removed: { mark: '−', word: 'removed', ink: colour.copper, ground: colour.copperSoft },
  changed: { mark: '≠', word: 'changed', ink: colour.changed, ground: colour.changedSoft },
  replaced: { mark: '⇄', word: 'replaced', ink: colour.changed, ground: colour.changedSoft },
  moved: { mark: '↕', word: 'moved', ink: colour.changed, ground: colour.changedSoft },
  same: { mark: '=', word: 'the same', ink: colour.inkSoft, ground: 'transparent' },
};

/** Behind the newest, or missing: words on copper. */
export const AttentionMark = styled.span`
  color: ${colour.copper};
  background: ${colour.copperSoft};
  border-radius: 3px;
  padding: 0 5px;
  font-size: 11.5px;
  font-weight: 500;
  white-space: nowrap;
`;
