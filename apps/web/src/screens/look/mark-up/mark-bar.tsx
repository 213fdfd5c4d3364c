/** With what and how somebody draws. */
import { MARK_TONES, type MarkKind, type MarkTone } from '@stem-trace/contract';
import styled from 'styled-components';
import { Button, Choice, Soft } from '../../../ui/controls.js';
import { KINDS, TONES } from './tones.js';
import type { Marking } from './use-marking.js';

export interface MarkBarProps extends Pick<Marking, 'kind' | 'tone' | 'inTheMiddle' | 'closed'> {
  readonly begin: (kind: MarkKind) => void;
  readonly setTone: (tone: MarkTone) => void;
  /** Whether each kind has the key of its number. */
  readonly hasKeys?: boolean;
}

export function MarkBar(props: MarkBarProps): React.JSX.Element {
  const { kind, begin, tone, setTone, inTheMiddle, closed, hasKeys = false } = props;

  if (closed !== '') return <Soft>{closed}</Soft>;
  return (
    <Line role="group" aria-label="Draw on it">
      {(Object.keys(KINDS) as MarkKind[]).map((each) => (
        <Button
          key={each}
          onPress={() => begin(each)}
          aria-pressed={kind === each}
          data-on={kind === each || undefined}
        >
          {KINDS[each].says}
          {hasKeys ? ` (${KINDS[each].key})` : ''}
        </Button>
      ))}
      <Choice
        label="What it is"
        options={MARK_TONES.map((key) => ({ key, text: TONES[key].says }))}
        value={tone}
        onChange={setTone}
      />
      {kind ? <Button onPress={inTheMiddle}>In the middle{hasKeys ? ' (Enter)' : ''}</Button> : null}
    </Line>
  );
}

const Line = styled.div`
  display: inline-flex;
  flex-wrap: wrap;
  gap: 4px 6px;
  align-items: center;
  [data-on] {
    box-shadow: inset 0 -3px 0 currentcolor;
  }
`;
