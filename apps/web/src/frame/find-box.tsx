import { useQuery } from '@tanstack/react-query';
import { Search } from 'lucide-react';
import { useEffect, useState, type RefObject } from 'react';
import { ComboBox, Input, ListBox, ListBoxItem, Popover, type Key } from 'react-aria-components';
import { useLocation, useNavigate, useSearchParams } from 'react-router';
import styled from 'styled-components';
import { findPageQuery } from '../api/queries.js';
import { colour, font } from '../ui/theme.js';
import { findAddress, traceAddress } from './addresses.js';

const COMMANDS = [
  { id: 'command:/find', title: 'Find all items', address: '/find' },
  { id: 'command:/compare', title: 'Compare two versions', address: '/compare' },
  { id: 'command:/derive', title: 'Derive a variant', address: '/derive' },
  { id: 'command:/intake', title: 'Bring in files', address: '/intake' },
] as const;

const SUGGESTED = 6;

/** The one input for finding items and for commands. Enter finds; a suggestion is opened in Trace. */
export function FindBox({ box }: { readonly box: RefObject<HTMLInputElement | null> }): React.JSX.Element {
  const [search] = useSearchParams();
  const { pathname } = useLocation();
  const current = pathname === '/find' ? (search.get('words') ?? '') : '';
  const [words, setWords] = useState(current);
  useEffect(() => setWords(current), [current]);
  const navigate = useNavigate();
  const found = useQuery({
    ...findPageQuery({ words: words.trim(), sort: 'number', order: 'up' }, 0, SUGGESTED),
    enabled: words.trim().length > 1,
  });
  const commands = COMMANDS.filter(
    ({ title }) => words.trim() !== '' && title.toLowerCase().includes(words.trim().toLowerCase()),
  );
  const items = [
    ...(words.trim().length > 1 ? (found.data?.rows ?? []) : []).map((row) => ({
      id: `item:${row.number}`,
      mono: row.number,
      text: row.name,
    })),
    ...commands.map(({ id, title }) => ({ id, mono: '', text: title })),
  ];
  const choose = (key: Key | null): void => {
    const text = String(key ?? '');
    const command = COMMANDS.find(({ id }) => id === text);
    const address = command?.address ?? (text.startsWith('item:') ? traceAddress(text.slice(5)) : undefined);
    if (address === undefined) return;
    setWords('');
    box.current?.blur();
    void navigate(address);
  };
  return (
    <Combo
      aria-label="Find items or commands"
      items={items}
      inputValue={words}
      onInputChange={setWords}
      selectedKey={null}
      onSelectionChange={choose}
      allowsCustomValue
      allowsEmptyCollection={false}
      menuTrigger="input"
    >
      <Search size={15} aria-hidden />
      <Input
        ref={box}
        placeholder="Find a number, name or property  ( / )"
        onKeyDown={(event) => {
          if (event.key !== 'Enter' || event.currentTarget.getAttribute('aria-activedescendant')) return;
          event.preventDefault();
          event.currentTarget.blur();
          void navigate(findAddress(words.trim()));
        }}
      />
      <Drop>
        <ListBox>
          {(item: (typeof items)[number]) => (
            <Option id={item.id} textValue={`${item.mono} ${item.text}`}>
              {item.mono ? <b>{item.mono}</b> : null}
              <span>{item.text}</span>
            </Option>
          )}
        </ListBox>
      </Drop>
    </Combo>
  );
}

const Combo = styled(ComboBox)`
  display: flex;
  align-items: center;
  gap: 8px;
  flex: 0 1 460px;
  height: 32px;
  padding: 0 10px;
  border-radius: 4px;
  background: ${colour.raised};
  border: 1px solid ${colour.lineStrong};
  color: ${colour.inkSoft};
  &:focus-within {
    outline: 2px solid ${colour.petrol};
    outline-offset: 1px;
  }
  input {
    flex: 1;
    border: 0;
    background: none;
    font: inherit;
    color: ${colour.ink};
    outline: none;
    min-width: 0;
  }
  input::placeholder {
    color: ${colour.inkSoft};
  }
`;
const Drop = styled(Popover)`
  width: 460px;
  background: ${colour.raised};
  border: 1px solid ${colour.lineStrong};
  border-radius: 4px;
  box-shadow: 0 6px 20px #0003;
  padding: 4px;
`;
const Option = styled(ListBoxItem)`
  display: flex;
  gap: 10px;
  padding: 5px 8px;
  border-radius: 3px;
  color: ${colour.ink};
  cursor: default;
  b {
    font-family: ${font.mono};
    font-weight: 500;
  }
  &[data-focused] {
    background: ${colour.petrolSoft};
    outline: none;
  }
`;
