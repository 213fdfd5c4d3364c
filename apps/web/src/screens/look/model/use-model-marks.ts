/** Mark-up of a model: what is drawn sticks to where it was drawn and turns with it. */
import type { MarkKind, MarkTone, MarkUpRow } from '@stem-trace/contract';
import type { Point } from '@stem-trace/core/look';
import { useState } from 'react';
import type { Showing } from '../../../ui/showing.js';
import type { Marked } from '../mark-up/mark-list.js';
import { useMarks } from '../mark-up/use-marks.js';
import type { LookStage } from './look-stage.js';
import { sayLength, type Measured } from './measured.js';

/** Name under which marks of a model are kept. */
const MODEL = 'model';

/** In the frame of the item, millimetres. */
export interface ModelDraft {
  readonly kind: MarkKind;
  readonly spots: readonly Point[];
}

export interface ModelMarks extends Marked {
  /** With what is drawn now. */
  readonly kind: MarkKind | undefined;
  readonly begin: (kind: MarkKind) => void;
  readonly tone: MarkTone;
  readonly setTone: (tone: MarkTone) => void;
  readonly draft: ModelDraft | undefined;
  /** What was drawn waits for its words. */
  readonly drawn: (draft: ModelDraft) => void;
  /** For whoever has no pointer. */
  readonly inTheMiddle: () => void;
  /** Those on the model, with their numbers in the list. */
  readonly here: readonly { readonly row: MarkUpRow; readonly number: number }[];
}

export interface ModelMarksOptions {
  readonly stage: LookStage | undefined;
  readonly picked: readonly Measured[];
  readonly unit: Showing['length'];
}

/** @param item `NUMBER@B/3` */
export function useModelMarks(item: string, { stage, picked, unit }: ModelMarksOptions): ModelMarks {
  const marks = useMarks(item);
  const [tone, setTone] = useState<MarkTone>('change');
  const [kind, choose] = useState<MarkKind>();
  const [draft, setDraft] = useState<ModelDraft>();
  const [chosen, choosing] = useState('');
  const point = picked.at(-1)?.point;
  const rows = marks.answer?.rows ?? [];
  const drawn = (next: ModelDraft): void => {
    choose(undefined);
    setDraft(next);
  };
  return {
    ...{ marks, kind, tone, setTone, draft, drawn, chosen, choosing, rows },
    here: rows.flatMap((row, at) => (row.sheet === MODEL ? { row, number: at + 1 } : [])),
    closed: marks.answer?.closed ?? '',
    begin: (next) => {
      setDraft(undefined);
      // What was clicked last is what one means.
      if (next === 'pin' && point) drawn({ kind: 'pin', spots: [point] });
      else choose(next === kind ? undefined : next);
    },
    inTheMiddle: () => {
      if (kind && stage) drawn({ kind, spots: middleOf(kind, stage) });
    },
    cancel: () => {
      setDraft(undefined);
      choose(undefined);
    },
    finish: async (words) => {
      if (!draft) return;
      const said = [draft.kind === 'measure' ? lengthOf(draft, unit) : '', words].filter(Boolean).join(' ');
      const { kind: drawnKind, spots } = draft;
      const id = await marks.add({
        ...{ kind: drawnKind, tone, sheet: MODEL, words: said },
        spots: spots.map((spot) => [...spot]),
      });
      if (id === undefined) return;
      setDraft(undefined);
      choosing(id);
    },
  };
}

export function lengthOf({ spots: [from, to] }: ModelDraft, unit: Showing['length']): string {
  return from && to ? sayLength(Math.hypot(...from.map((value, at) => (to[at] ?? 0) - value)), unit) : '';
}

/** How far from the middle of the picture it reaches, pixels. */
const REACH_PX = 60;

function middleOf(kind: MarkKind, stage: LookStage): readonly Point[] {
  const [x, y] = stage.middle();
  const first = stage.spotAt(x, y, undefined);
  if (kind === 'pin' || kind === 'text') return [first];
  return [first, spotFor(kind, stage, { x: x + REACH_PX, y: y - REACH_PX, first })];
}

/** Where something that began somewhere goes on: boxes lie across the way one looks, the rest on what is there. */
export function spotFor(
  kind: MarkKind,
  stage: LookStage,
  { x, y, first }: { readonly x: number; readonly y: number; readonly first: Point | undefined },
): Point {
  return first && (kind === 'box' || kind === 'cloud')
    ? stage.besideAt(x, y, first)
    : stage.spotAt(x, y, first);
}
