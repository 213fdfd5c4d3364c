/** With what and how somebody draws. */
import { MARK_TONES, type MarkKind } from '@stem-trace/contract';
import styled from 'styled-components';
import { Button, Choice, Soft } from '../../../ui/controls.js';
import { KINDS, TONES } from './tones.js';
import type { Marking } from './use-marking.js';

export function MarkBar({ kind, begin, tone, setTone, inTheMiddle, closed }: Marking): React.JSX.Element {
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
          {KINDS[each].says} ({KINDS[each].key})
        </Button>
      ))}
      <Choice
        label="What it is"
        options={MARK_TONES.map((key) => ({ key, text: TONES[key].says }))}
        value={tone}
        onChange={setTone}
      />
      {kind ? <Button onPress={inTheMiddle}>In the middle (Enter)</Button> : null}
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
