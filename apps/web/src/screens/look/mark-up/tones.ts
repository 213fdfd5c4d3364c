import type { MarkKind, MarkTone } from '@stem-trace/contract';

export interface Tone {
  readonly says: string;
  readonly colour: string;
  /** Of the sign with the mark's number, around 0, 0; tells tones apart without colour. */
  readonly sign: string;
}

export const TONES: Readonly<Record<MarkTone, Tone>> = {
  change: { says: 'to change', colour: '#96470f', sign: 'M0 -11L11 0L0 11L-11 0Z' },
  question: { says: 'question', colour: '#67399c', sign: 'M-10 -9H10V5H-1L-6 11V5H-10Z' },
  note: { says: 'note', colour: '#0b4f5c', sign: 'M-9 0A9 9 0 1 0 9 0A9 9 0 1 0 -9 0Z' },
};

export const KINDS: Readonly<Record<MarkKind, { readonly says: string; readonly key: string }>> = {
  pin: { says: 'Pin', key: '1' },
  arrow: { says: 'Arrow', key: '2' },
  box: { says: 'Box', key: '3' },
  cloud: { says: 'Cloud', key: '4' },
  pen: { says: 'Pen', key: '5' },
  line: { says: 'Line', key: '6' },
  text: { says: 'Text', key: '7' },
  measure: { says: 'Distance', key: '8' },
};
