import { completeQuery } from '@stem-trace/core';
import { useQuery } from '@tanstack/react-query';
import { Search, Shapes } from 'lucide-react';
import { useEffect, useState, type RefObject } from 'react';
import {
  Button,
  ComboBox,
  DropZone as AriaDropZone,
  FileTrigger,
  Input,
  ListBox,
  ListBoxItem,
  type Key,
} from 'react-aria-components';
import { useLocation, useNavigate, useSearchParams } from 'react-router';
import styled from 'styled-components';
import { findPageQuery, findWordsQuery } from '../api/find.js';
import { Drop } from '../ui/controls.js';
import { colour, font } from '../ui/theme.js';
import { findAddress, TO_RESULTS, traceAddress } from './addresses.js';
import { setFindBox } from './find-focus.js';
import { useOfferedCommands } from './screen-commands.js';
import { LikeDialog } from './like-dialog.js';

/** Has no place of its own: a dialog opens. */
const BEGIN = { id: 'command:begin', title: 'Begin with a template', address: '' };

const COMMANDS = [
  { id: 'command:/find', title: 'Find all items', address: '/find' },
  { id: 'command:/compare', title: 'Compare two versions', address: '/compare' },
  { id: 'command:/derive', title: 'Derive a variant', address: '/derive' },
  { id: 'command:/intake', title: 'Bring in files', address: '/intake' },
  BEGIN,
];

const SUGGESTED = 6;

interface Offer {
  readonly id: string;
  readonly mono: string;
  readonly text: string;
  /** What the box holds after it is chosen; absent for what is opened instead. */
  readonly completed?: string;
  /** Of the screen that is shown. */
  readonly run?: () => void;
}

export interface FindBoxProps {
  readonly box: RefObject<HTMLInputElement | null>;
  /** Somebody wants to begin an item with a template. */
  readonly onBegin: () => void;
}

/** The one input for finding items and for commands. Enter finds; an item that is offered is opened in Trace. */
export function FindBox({ box, onBegin }: FindBoxProps): React.JSX.Element {
  const { words, offers, type, follow, choose, find } = useFinding(box, onBegin);
  const [dropped, setDropped] = useState<File>();
  useEffect(() => setFindBox(() => box.current?.focus()), [box]);
  return (
    <DropZone
      aria-label="Paste or drop a STEP file to find designs of its shape"
      onDrop={(event) => {
        const [item] = event.items;
        if (item?.kind === 'file') void item.getFile().then(setDropped);
      }}
      getDropOperation={() => 'copy'}
    >
      {dropped ? <LikeDialog of={dropped} onClose={() => setDropped(undefined)} /> : null}
      <Combo
        aria-label="Find items or commands"
        items={offers}
        inputValue={words}
        onInputChange={type}
        selectedKey={null}
        onSelectionChange={choose}
        allowsCustomValue
        allowsEmptyCollection={false}
        menuTrigger="input"
      >
        <Search size={15} aria-hidden />
        <Input
          ref={box}
          placeholder="Find: words, state = released, used in FM-100 …  ( / )"
          spellCheck={false}
          onSelect={follow}
          onKeyDown={(event) => {
            if (event.key !== 'Enter' || event.currentTarget.getAttribute('aria-activedescendant')) return;
            event.preventDefault();
            event.currentTarget.blur();
            find();
          }}
        />
        <Completions>
          <ListBox>
            {(item: Offer) => (
              <Option id={item.id} textValue={`${item.mono} ${item.text}`}>
                {item.mono ? <b>{item.mono}</b> : null}
                <span>{item.text}</span>
              </Option>
            )}
          </ListBox>
        </Completions>
      </Combo>
      <FileTrigger acceptedFileTypes={['.stp', '.step', '.p21']} onSelect={(files) => setDropped(files?.[0])}>
        <ShapeButton aria-label="Find by the shape of a file">
          <Shapes size={15} aria-hidden />
        </ShapeButton>
      </FileTrigger>
    </DropZone>
  );
}

interface Finding {
  readonly words: string;
  readonly offers: readonly Offer[];
  readonly type: (text: string) => void;
  /** Takes note of where the caret is. */
  readonly follow: () => void;
  readonly choose: (key: Key | null) => void;
  readonly find: () => void;
}

/** What is in the box, and what becomes of it. */
function useFinding(box: RefObject<HTMLInputElement | null>, onBegin: () => void): Finding {
  const [search] = useSearchParams();
  const { pathname } = useLocation();
  const current = pathname === '/find' ? (search.get('words') ?? '') : '';
  const [words, setWords] = useState(current);
  const [caret, setCaret] = useState(0);
  useEffect(() => setWords(current), [current]);
  const navigate = useNavigate();
  const offers = useOffers(words, caret);
  const follow = (): void => setCaret(box.current?.selectionStart ?? 0);
  const choose = (key: Key | null): void => {
    const offer = offers.find(({ id }) => id === key);
    if (!offer) return;
    if (offer.completed !== undefined) {
      setWords(offer.completed);
      setCaret(offer.completed.length);
      return;
    }
    const command = COMMANDS.find(({ id }) => id === offer.id);
    setWords('');
    box.current?.blur();
    if (offer.run) return offer.run();
    if (command === BEGIN) onBegin();
    else void navigate(command?.address ?? traceAddress(offer.mono));
  };
  return {
    words,
    offers,
    follow,
    choose,
    type: (text) => {
      setWords(text);
      follow();
    },
    find: () => void navigate(findAddress(words.trim()), { state: TO_RESULTS }),
  };
}

/** What the language offers at the caret, then items and commands that the words may mean. */
function useOffers(words: string, caret: number): readonly Offer[] {
  const known = useQuery({ ...findWordsQuery, enabled: words !== '' }).data;
  const isPlain = /^[^=<>≠≤≥"()]*$/.test(words);
  const wanted = isPlain && words.trim().length > 1;
  const found = useQuery({
    ...findPageQuery({ words: words.trim(), sort: 'best', order: 'up' }, 0, SUGGESTED),
    enabled: wanted,
  });
  const completions = known && words !== '' ? completeQuery(words, caret, known) : [];
  const isMeant = ({ title }: { readonly title: string }): boolean =>
    words.trim() !== '' && title.toLowerCase().includes(words.trim().toLowerCase());
  const commands = COMMANDS.filter(isMeant);
  const ofScreen = useOfferedCommands().filter(isMeant);
  const items = wanted ? (found.data?.rows ?? []) : [];
  const opened = items.map((row) => ({ id: `item:${row.number}`, mono: row.number, text: row.name }));
  const put = completions.map(({ from, to, text, says }) => ({
    id: `put:${text}`,
    mono: text,
    text: says,
    completed: `${words.slice(0, from)}${text} ${words.slice(to).trimStart()}`,
  }));
  // A first word is most often a number; later ones are most often part of a filter.
  const isFirst = !/\S\s/.test(words);
  return [
    ...(isFirst ? [...opened, ...put.slice(0, SUGGESTED)] : [...put, ...opened]),
    ...ofScreen.map(({ title, run }) => ({ id: `screen:${title}`, mono: '', text: title, run })),
    ...commands.map(({ id, title }) => ({ id, mono: '', text: title })),
  ];
}

/** A design file dropped on the box is looked up by its shape. */
const DropZone = styled(AriaDropZone)`
  flex: 0 1 490px;
  min-width: 140px;
  display: flex;
  align-items: center;
  gap: 4px;
  border-radius: 4px;
  &[data-drop-target] {
    outline: 2px dashed ${colour.petrol};
    outline-offset: 2px;
  }
`;
const Combo = styled(ComboBox)`
  flex: 1;
  min-width: 0;
  display: flex;
  align-items: center;
  gap: 8px;
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
const ShapeButton = styled(Button)`
  border: 0;
  background: none;
  padding: 2px;
  color: ${colour.inkSoft};
  display: inline-flex;
  cursor: default;
  &[data-hovered] {
    color: ${colour.petrol};
  }
  &[data-focus-visible] {
    outline: 2px solid ${colour.petrol};
    border-radius: 3px;
  }
`;
const Completions = styled(Drop)`
  width: 460px;
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
