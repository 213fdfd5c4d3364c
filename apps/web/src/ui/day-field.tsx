import { getLocalTimeZone, parseDate, today } from '@internationalized/date';
import { CalendarDays, ChevronLeft, ChevronRight } from 'lucide-react';
import {
  Button,
  Calendar,
  CalendarCell,
  CalendarGrid,
  DateInput,
  DatePicker,
  DateSegment,
  Dialog,
  Group,
  Heading,
  Label,
} from 'react-aria-components';
import styled from 'styled-components';
import { Drop } from './controls.js';
import { colour, font } from './theme.js';

export interface DayFieldProps {
  readonly label: string;
  /** `2026-03-31`; empty for none. */
  readonly value: string;
  readonly onChange: (day: string) => void;
  /** Whether the label is for screen readers alone. */
  readonly isBare?: boolean;
  /** Whether a day after today makes sense. */
  readonly mayBeLater?: boolean;
}

/** A day, typed part by part or picked from a calendar. */
export function DayField({
  label,
  value,
  onChange,
  isBare = false,
  mayBeLater = false,
}: DayFieldProps): React.JSX.Element {
  return (
    <Picker
      aria-label={isBare ? label : undefined}
      value={dayOf(value)}
      {...(mayBeLater ? {} : { maxValue: today(getLocalTimeZone()) })}
      onChange={(day) => onChange(day?.toString() ?? '')}
      shouldForceLeadingZeros
    >
      {isBare ? null : <Label>{label}</Label>}
      <Field>
        <DateInput>{(segment) => <DateSegment segment={segment} />}</DateInput>
        <Button aria-label={`${label}: calendar`}>
          <CalendarDays size={15} aria-hidden />
        </Button>
      </Field>
      <Drop>
        <Dialog>
          <Month>
            <header>
              <Button slot="previous">
                <ChevronLeft size={16} />
              </Button>
              <Heading />
              <Button slot="next">
                <ChevronRight size={16} />
              </Button>
            </header>
            <CalendarGrid>{(day) => <CalendarCell date={day} />}</CalendarGrid>
          </Month>
        </Dialog>
      </Drop>
    </Picker>
  );
}

function dayOf(text: string): ReturnType<typeof parseDate> | null {
  try {
    return text === '' ? null : parseDate(text);
  } catch {
    return null;
  }
}

const Picker = styled(DatePicker)`
  display: flex;
  flex-direction: column;
  gap: 3px;
  label {
    color: ${colour.inkSoft};
    font-size: 12px;
  }
`;
const Field = styled(Group)`
  display: flex;
  align-items: center;
  height: 30px;
  padding-left: 8px;
  border: 1px solid ${colour.lineStrong};
  border-radius: 4px;
  background: ${colour.raised};
  color: ${colour.ink};
  font-family: ${font.mono};
  [data-type] {
    padding: 0 1px;
    border-radius: 2px;
    outline: none;
  }
  [data-type][data-focused] {
    background: ${colour.petrol};
    color: ${colour.onPetrol};
  }
  [data-type][data-placeholder] {
    color: ${colour.inkSoft};
  }
  button {
    height: 28px;
    padding: 0 7px;
    border: 0;
    background: none;
    color: ${colour.inkSoft};
  }
  .react-aria-DateInput {
    display: flex;
  }
`;
const Month = styled(Calendar)`
  padding: 6px;
  header {
    display: flex;
    align-items: center;
    justify-content: space-between;
    margin-bottom: 4px;
  }
  button {
    border: 0;
    background: none;
    color: ${colour.petrol};
    padding: 4px;
  }
  h2 {
    margin: 0;
  }
  td {
    padding: 0;
  }
  td > div {
    min-width: 30px;
    padding: 5px;
    text-align: center;
    border-radius: 3px;
    cursor: default;
  }
  td > div[data-hovered] {
    background: ${colour.petrolSoft};
  }
  td > div[data-selected] {
    background: ${colour.petrol};
    color: ${colour.onPetrol};
  }
  td > div[data-outside-month],
  td > div[data-disabled] {
    color: ${colour.inkSoft};
    opacity: 0.6;
  }
`;
