/** What the parts of a step's sentence are made of. */
import type { Diagram, DiagramStep } from '@stem-trace/core';
import type { ReactNode } from 'react';
import styled from 'styled-components';
import { Box } from '../../../ui/controls.js';
import { colour } from '../../../ui/theme.js';

export interface PartProps {
  readonly step: DiagramStep;
  readonly diagram: Diagram;
  readonly onChange: (step: DiagramStep) => void;
}

export function Word({
  label,
  value,
  onChange,
}: {
  readonly label: string;
  readonly value: string;
  readonly onChange: (value: string) => void;
}): React.JSX.Element {
  return (
    <Box
      aria-label={label}
      title={label}
      style={{ width: `${Math.max(10, value.length + 3)}ch` }}
      value={value}
      onChange={({ target }: React.ChangeEvent<HTMLInputElement>) => onChange(target.value)}
    />
  );
}

export function Part({
  says,
  children,
}: {
  readonly says: string;
  readonly children: ReactNode;
}): React.JSX.Element {
  return (
    <PartLine>
      <b>{says}</b>
      {children}
    </PartLine>
  );
}

const PartLine = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 10px;
  b {
    width: 74px;
    font-weight: 500;
    color: ${colour.inkSoft};
  }
  input {
    height: 26px;
  }
`;
