import { effectiveLens } from '@stem-trace/contract';
import { MOST_SERIAL, type EffectiveAt } from '@stem-trace/core';
import { useState } from 'react';
import styled from 'styled-components';
import { Box, Select, Soft } from '../ui/controls.js';
import { DayField } from '../ui/day-field.js';

export interface EffectiveChoiceProps {
  readonly at: EffectiveAt;
  /** The product whose serial numbers are meant until another is named; empty for none. */
  readonly product: string;
  readonly onChange: (versions: string) => void;
  readonly today: string;
}

/** What is looked at by the lens *Effective on*: a day, or one piece of a product. */
export function EffectiveChoice({ at, product, onChange, today }: EffectiveChoiceProps): React.JSX.Element {
  const look = (next: EffectiveAt): void => onChange(effectiveLens(next));
  return (
    <>
      <Select
        aria-label="Effective on"
        value={at.kind}
        onChange={({ target }) =>
          look(target.value === 'day' ? { kind: 'day', day: today } : { kind: 'serial', product, serial: 1 })
        }
      >
        <option value="day">day</option>
        {product === '' && at.kind === 'day' ? null : <option value="serial">serial no.</option>}
      </Select>
      {at.kind === 'day' ? (
        <DayField
          label="Effective on day"
          isBare
          mayBeLater
          value={at.day}
          onChange={(day) => day !== '' && look({ kind: 'day', day })}
        />
      ) : (
        <>
          <Typed
            key={`serial ${at.serial}`}
            label="Serial number"
            width={60}
            value={String(at.serial)}
            onKeep={(text) => {
              if (/^\d+$/.test(text) && Number(text) <= MOST_SERIAL) look({ ...at, serial: Number(text) });
            }}
          />
          <Soft>of</Soft>
          <Typed
            key={`product ${at.product}`}
            label="Product of the serial number"
            width={98}
            value={at.product}
            onKeep={(text) => text !== '' && look({ ...at, product: text })}
          />
        </>
      )}
    </>
  );
}

interface TypedProps {
  readonly label: string;
  readonly width: number;
  readonly value: string;
  readonly onKeep: (text: string) => void;
}

/** A text that counts once it is finished, with Enter or by going elsewhere. */
function Typed({ label, width, value, onKeep }: TypedProps): React.JSX.Element {
  const [text, setText] = useState(value);
  const keep = (): void => {
    if (text.trim() !== value) onKeep(text.trim());
  };
  return (
    <Narrow
      aria-label={label}
      style={{ width }}
      value={text}
      onChange={({ target }) => setText(target.value)}
      onBlur={keep}
      onKeyDown={({ key }) => key === 'Enter' && keep()}
    />
  );
}

const Narrow = styled(Box)`
  flex: none;
  font-variant-numeric: tabular-nums;
`;
