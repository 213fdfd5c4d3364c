import { useNavigate } from 'react-router';
import styled from 'styled-components';
import { Mono, QuietButton, Soft } from '../ui/controls.js';
import { useDesk, type TrayItem } from './desk.js';
import { ItemPicker } from './item-picker.js';

export interface BeginProps {
  readonly title: string;
  readonly label: string;
  readonly address: (item: string) => string;
}

/** A screen about one item, before one is chosen. */
export function Begin({ title, label, address }: BeginProps): React.JSX.Element {
  const navigate = useNavigate();
  const open = (item: string): void => void navigate(address(item));
  return (
    <>
      <h1>{title}</h1>
      <ItemPicker label={label} value="" onChoose={open} takesFocus />
      <BeginWith onChoose={open} />
    </>
  );
}

/** Where nothing is chosen yet: what lies in the tray, and what was looked at last. */
export function BeginWith({
  onChoose,
}: {
  readonly onChoose: (number: string) => void;
}): React.JSX.Element | null {
  const { tray, looked } = useDesk();
  return (
    <>
      <Items title="In the tray" items={tray} onChoose={onChoose} />
      <Items title="Looked at last" items={looked.slice(0, 10)} onChoose={onChoose} />
    </>
  );
}

interface ItemsProps {
  readonly title: string;
  readonly items: readonly TrayItem[];
  readonly onChoose: (number: string) => void;
}

function Items({ title, items, onChoose }: ItemsProps): React.JSX.Element | null {
  if (items.length === 0) return null;
  return (
    <section aria-label={title}>
      <h2>{title}</h2>
      <List>
        {items.map(({ number, name }) => (
          <li key={number}>
            <QuietButton onPress={() => onChoose(number)}>
              <Mono>{number}</Mono> <Soft>{name}</Soft>
            </QuietButton>
          </li>
        ))}
      </List>
    </section>
  );
}

const List = styled.ul`
  list-style: none;
  margin: 4px 0 0;
  padding: 0;
  button {
    max-width: 100%;
    overflow: hidden;
  }
`;
