import type { DerivePreview } from '@stem-trace/contract';
import { quoted, type Decision } from '@stem-trace/core';
import { useRef, useState } from 'react';
import styled from 'styled-components';
import { get } from '../../api/client.js';
import { Box, Button, Soft } from '../../ui/controls.js';
import { atLevel } from './draft.js';

/** Found items are asked for so many at a time. */
const PAGE = 1000;

export interface DecideManyProps {
  readonly preview: DerivePreview;
  /** Numbers of the lines that are selected. */
  readonly picked: ReadonlySet<string>;
  readonly onDecide: (numbers: ReadonlySet<string>, decision: Decision) => void;
  readonly say: (says: string) => void;
}

/** One decision for many lines: for those that are selected, or for all that a search in the words of Find finds in the plan. */
export function DecideMany({ preview, picked, onDecide, say }: DecideManyProps): React.JSX.Element {
  const [words, type] = useState('');
  const [isBusy, setBusy] = useState(false);
  const isSearch = words.trim() !== '';
  // What is decided while the search is under way must not be lost when its answer comes.
  const latest = useRef(onDecide);
  latest.current = onDecide;
  const decide = async (decision: Decision): Promise<void> => {
    if (!isSearch) {
      onDecide(picked, decision);
      return;
    }
    const level = atLevel(words, preview.tree);
    if (level) {
      if (level.size === 0) say(`The plan has nothing at ${words.trim()}.`);
      else onDecide(level, decision);
      return;
    }
    setBusy(true);
    try {
      const inPlan = new Set(preview.lines.map(({ number }) => number));
      const found = (await numbersOf(words, preview.origin.number)).filter((number) => inPlan.has(number));
      if (found.length === 0) say(`Nothing in the plan fits “${words.trim()}”.`);
      else latest.current(new Set(found), decision);
    } catch (error) {
      say(error instanceof Error ? error.message : String(error));
    } finally {
      setBusy(false);
    }
  };
  const isIdle = isBusy || (!isSearch && picked.size === 0);
  return (
    <Line>
      <Words
        aria-label="Lines that fit"
        placeholder="Lines that fit: class = fastener, level > 2"
        value={words}
        spellCheck={false}
        onChange={(event) => type(event.target.value)}
      />
      <Button isDisabled={isIdle} onPress={() => void decide('share')}>
        Share {isSearch ? 'them' : 'the selected'}
      </Button>
      <Button isDisabled={isIdle} onPress={() => void decide('copy')}>
        Copy {isSearch ? 'them' : 'the selected'}
      </Button>
      <Button isDisabled={isIdle} onPress={() => void decide('omit')}>
        Leave {isSearch ? 'them' : 'the selected'} out
      </Button>
      <Soft>{isSearch || picked.size === 0 ? '' : `${picked.size} selected`}</Soft>
    </Line>
  );
}

/** All that a search finds below an item, whatever it would find elsewhere. */
async function numbersOf(words: string, origin: string): Promise<string[]> {
  const numbers: string[] = [];
  for (;;) {
    const { rows, total } = await get('/api/items', {
      words: `(${words.trim()}) used in ${quoted(origin)}`,
      limit: PAGE,
      offset: numbers.length,
    });
    numbers.push(...rows.map(({ number }) => number));
    if (rows.length === 0 || numbers.length >= total) return numbers;
  }
}

const Line = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
`;
const Words = styled(Box)`
  width: 300px;
`;
