/** What the parts of a change's form look like. */
import { X } from 'lucide-react';
import type { ReactNode } from 'react';
import styled from 'styled-components';
import { QuietButton } from '../../../ui/controls.js';
import { colour } from '../../../ui/theme.js';

export function Part({
  title,
  children,
}: {
  readonly title: string;
  readonly children: ReactNode;
}): React.JSX.Element {
  return (
    <Section aria-label={title}>
      <h2>{title}</h2>
      {children}
    </Section>
  );
}

export function TakeOut({
  label,
  onPress,
}: {
  readonly label: string;
  readonly onPress: () => void;
}): React.JSX.Element {
  return (
    <Small aria-label={label} onPress={onPress}>
      <X size={14} aria-hidden />
    </Small>
  );
}

const Small = styled(QuietButton)`
  min-height: 24px;
  padding: 0 4px;
`;
const Section = styled.section`
  display: grid;
  gap: 6px;
  justify-items: start;
  padding: 8px 10px;
  background: ${colour.raised};
  border: 1px solid ${colour.line};
  border-radius: 4px;
  min-width: 0;
  h2 {
    margin: 0;
    font-size: 13px;
  }
  > * {
    max-width: 100%;
  }
`;
/** A few rows with cells of one line each. */
export const Rows = styled.ul`
  list-style: none;
  margin: 0;
  padding: 0;
  width: 100%;
  display: grid;
  gap: 4px;
  li {
    display: flex;
    align-items: center;
    gap: 6px;
    min-width: 0;
  }
  li > :first-child {
    min-width: 0;
  }
`;
export const Spread = styled.span`
  flex: 1;
  min-width: 0;
`;
