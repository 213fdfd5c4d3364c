import type { ReactNode } from 'react';
import { Checkbox, type CheckboxProps } from 'react-aria-components';
import styled from 'styled-components';
import { colour } from './theme.js';

export interface TickProps extends Omit<CheckboxProps, 'children'> {
  readonly children?: ReactNode;
}

/** A small box that is ticked or not; its name is what stands beside it, or `aria-label`. */
export function Tick({ children, ...props }: TickProps): React.JSX.Element {
  return (
    <Frame {...props}>
      <TickBox aria-hidden />
      {children}
    </Frame>
  );
}

/** The box alone, for a checkbox with a text beside it. */
export const TickBox = styled.i`
  display: block;
  flex: none;
  width: 16px;
  height: 16px;
  border: 1px solid ${colour.lineStrong};
  border-radius: 3px;
  background: ${colour.raised};
  [data-selected] > & {
    background: ${colour.petrol};
    box-shadow: inset 0 0 0 3px ${colour.raised};
  }
  [data-disabled] > & {
    opacity: 0.5;
  }
  [data-focus-visible] > & {
    outline: 2px solid ${colour.petrol};
    outline-offset: 1px;
  }
`;

const Frame = styled(Checkbox)`
  display: inline-flex;
  align-items: center;
  gap: 8px;
  min-width: 0;
`;
