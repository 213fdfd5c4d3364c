/** Points that were raised about an item: answered by who changes it, closed by who checks it. */
import type { CheckPointRow, SheetItem } from '@stem-trace/contract';
import { MessageSquarePlus } from 'lucide-react';
import { useState } from 'react';
import styled from 'styled-components';
import { useSheetDeed, type SheetDeed } from '../../api/sheets.js';
import { AskDialog } from '../../ui/ask-dialog.js';
import { Button, Mono, QuietButton, Soft, Trouble } from '../../ui/controls.js';
import { colour } from '../../ui/theme.js';
import { When } from '../../ui/when.js';

export interface PointsProps {
  readonly sheet: string;
  readonly item: SheetItem;
}

/** What is being written. */
type Writing = { readonly kind: 'raise' } | { readonly kind: 'answer'; readonly point: CheckPointRow };

export function Points({ sheet, item }: PointsProps): React.JSX.Element | null {
  const deed = useSheetDeed();
  const [writing, write] = useState<Writing>();
  const { mayRaise } = item;
  if (item.points.length === 0 && !mayRaise) return null;
  return (
    <Part aria-label="Points">
      {item.points.length > 0 ? (
        <List>
          {item.points.map((point) => (
            <Point
              key={point.id}
              point={point}
              onAnswer={() => write({ kind: 'answer', point })}
              onClose={() => deed.mutate({ kind: 'close', point: point.id })}
            />
          ))}
        </List>
      ) : null}
      {mayRaise ? (
        <Button onPress={() => write({ kind: 'raise' })}>
          <MessageSquarePlus size={14} aria-hidden /> Raise a point …
        </Button>
      ) : null}
      {deed.error ? <Trouble>{deed.error.message}</Trouble> : null}
      {writing ? (
        <WriteDialog
          writing={writing}
          number={item.number}
          onWords={(words) =>
            deed
              .mutateAsync(
                writing.kind === 'raise'
                  ? { kind: 'raise', sheet, item: item.number, words }
                  : ({ kind: 'answer', point: writing.point.id, words } satisfies SheetDeed),
              )
              .then(() => undefined)
          }
          onClose={() => write(undefined)}
        />
      ) : null}
    </Part>
  );
}

interface PointProps {
  readonly point: CheckPointRow;
  readonly onAnswer: () => void;
  readonly onClose: () => void;
}

function Point({ point, onAnswer, onClose }: PointProps): React.JSX.Element {
  const { words, by, at, version, answer, closed, isEarlier, mayAnswer, mayClose } = point;
  return (
    <li data-closed={closed !== null || undefined}>
      <div>
        {words}{' '}
        <Soft>
          {by}, <When at={at} />
          {isEarlier ? (
            <>
              , about <Mono>{version}</Mono>
            </>
          ) : null}
        </Soft>
      </div>
      {answer ? (
        <div>
          → {answer.words}{' '}
          <Soft>
            {answer.by}, <When at={answer.at} />
          </Soft>
        </div>
      ) : null}
      {closed ? (
        <Soft>
          Closed by {closed.by}, <When at={closed.at} />
        </Soft>
      ) : (
        <span>
          {mayAnswer ? (
            <QuietButton onPress={onAnswer}>{answer ? 'Answer anew …' : 'Answer …'}</QuietButton>
          ) : null}
          {mayClose ? <QuietButton onPress={onClose}>Close the point</QuietButton> : null}
        </span>
      )}
    </li>
  );
}

function WriteDialog({
  writing,
  number,
  onWords,
  onClose,
}: {
  readonly writing: Writing;
  readonly number: string;
  readonly onWords: (words: string) => Promise<void>;
  readonly onClose: () => void;
}): React.JSX.Element {
  const isAnswer = writing.kind === 'answer';
  return (
    <AskDialog
      title={isAnswer ? `Answer about ${number}` : `Raise a point about ${number}`}
      action={isAnswer ? 'Answer' : 'Raise it'}
      says={
        isAnswer ? writing.point.words : 'Whoever sent it is told, and answers on this sheet or the next.'
      }
      fields={[{ key: 'words', label: isAnswer ? 'Answer' : 'What is wrong, or not clear', value: '' }]}
      onAnswer={({ words = '' }) => onWords(words)}
      onClose={onClose}
    />
  );
}

const Part = styled.section`
  display: grid;
  gap: 6px;
  justify-items: start;
`;
const List = styled.ul`
  list-style: none;
  margin: 0;
  padding: 0;
  width: 100%;
  li {
    border-left: 3px solid ${colour.copper};
    padding: 3px 0 3px 10px;
    margin-bottom: 4px;
  }
  li[data-closed] {
    border-left-color: ${colour.line};
    color: ${colour.inkSoft};
  }
`;
