/** Items that a change has to do with, by what they have to do with it. */
import type { ChangeLineInput, ChangeLineView } from '@stem-trace/contract';
import type { ChangeRelation } from '@stem-trace/core';
import { useQuery } from '@tanstack/react-query';
import { ListTree } from 'lucide-react';
import { useState } from 'react';
import { Link } from 'react-router';
import { lineOf } from '../../../api/changes.js';
import { itemQuery } from '../../../api/queries.js';
import { changeAddress, traceAddress } from '../../../frame/addresses.js';
import { ItemPicker } from '../../../frame/item-picker.js';
import { Box, Mono, QuietButton, Soft } from '../../../ui/controls.js';
import { StateGlyph } from '../../../ui/glyphs.js';
import { HolderTag } from '../../../ui/holder-tag.js';
import { MiddleCut } from '../../../ui/middle-cut.js';
import type { PartProps } from './change-form.js';
import { EffectDialog } from './effect-dialog.js';
import { Part, Rows, Spread, TakeOut } from './parts.js';

const GROUPS: Readonly<Record<'request' | 'order', readonly (readonly [ChangeRelation, string])[]>> = {
  request: [
    ['shows in', 'Shows in'],
    ['affects', 'Affects'],
    ['refers to', 'Refers to'],
    ['joins', 'Joined with'],
  ],
  order: [
    ['answers', 'Answers'],
    ['shows in', 'Shows in'],
    ['affects', 'Affects'],
    ['refers to', 'Refers to'],
  ],
};

export function LineGroups(props: PartProps): React.JSX.Element {
  const { view, contents, isLocked } = props;
  return (
    <>
      {GROUPS[view.kind].map(([relation, title]) => {
        const lines = contents.lines.filter((line) => line.relation === relation);
        const isEmpty = lines.length === 0 && (isLocked || relation === 'joins');
        return isEmpty ? null : <Group key={relation} {...props} {...{ relation, title, lines }} />;
      })}
      {view.hidden > 0 ? <Soft>It names {view.hidden} more that you may not see.</Soft> : null}
    </>
  );
}

interface GroupProps extends PartProps {
  readonly relation: ChangeRelation;
  readonly title: string;
  readonly lines: readonly ChangeLineInput[];
}

function Group({ view, contents, isLocked, set, relation, title, lines }: GroupProps): React.JSX.Element {
  const [isAsking, ask] = useState(false);
  const known = new Map(view.lines.map((line) => [line.number, line]));
  const others = contents.lines.filter((line) => line.relation !== relation);
  const keep = (next: readonly ChangeLineInput[]): void => set({ lines: [...others, ...next] });
  const add = (items: readonly string[]): void => {
    const fresh = items.filter((item) => !lines.some((line) => line.item === item));
    keep([...lines, ...fresh.map((item) => lineOf(relation, item))]);
  };
  return (
    <Part title={title}>
      <Rows aria-label={title}>
        {lines.map((line, at) => (
          <Line
            key={line.item}
            line={line}
            known={known.get(line.item)}
            isLocked={isLocked}
            onChange={(next) => keep(lines.map((each, other) => (other === at ? next : each)))}
            onTakeOut={() => keep(lines.filter((each) => each !== line))}
          />
        ))}
      </Rows>
      {isLocked || relation === 'joins' ? null : (
        <ItemPicker
          key={lines.length}
          label={`Add to: ${title}`}
          value=""
          onChoose={(item) => add([item.split('@')[0] ?? item])}
          width="240px"
        />
      )}
      {relation === 'affects' && !isLocked && contents.lines.length > 0 ? (
        <QuietButton onPress={() => ask(true)}>
          <ListTree size={14} aria-hidden /> From the effect …
        </QuietButton>
      ) : null}
      {isAsking ? (
        <EffectDialog
          items={contents.lines.flatMap(({ relation: of, item }) =>
            of === 'affects' || of === 'shows in' ? item : [],
          )}
          onChosen={add}
          onClose={() => ask(false)}
        />
      ) : null}
    </Part>
  );
}

interface LineProps {
  readonly line: ChangeLineInput;
  /** What was known of it when the change was read; undefined for what was just added. */
  readonly known: ChangeLineView | undefined;
  readonly isLocked: boolean;
  readonly onChange: (line: ChangeLineInput) => void;
  readonly onTakeOut: () => void;
}

function Line({ line, known, isLocked, onChange, onTakeOut }: LineProps): React.JSX.Element {
  const fresh = useQuery({ ...itemQuery(line.item), enabled: known === undefined }).data;
  const item = known ?? fresh;
  const { relation, item: number } = line;
  const address =
    relation === 'answers' || relation === 'joins' ? changeAddress(number) : traceAddress(number);
  return (
    <li>
      {item ? <StateGlyph state={item.state} /> : null}
      <Link to={address}>
        <Mono>{number}</Mono>
      </Link>
      <Spread>
        <MiddleCut text={item?.name ?? ''} />
      </Spread>
      {item?.heldBy ? <HolderTag holder={item.heldBy} /> : null}
      {relation === 'affects' ? <Stock {...{ line, isLocked, onChange }} /> : null}
      {isLocked ? (
        <Soft>{line.note}</Soft>
      ) : (
        <Box
          aria-label={`Note on ${number}`}
          placeholder="note"
          value={line.note}
          onChange={({ target }) => onChange({ ...line, note: target.value })}
          style={{ width: 120 }}
        />
      )}
      {isLocked ? null : <TakeOut label={`Take ${number} out`} onPress={onTakeOut} />}
    </li>
  );
}

function Stock({
  line,
  isLocked,
  onChange,
}: Pick<LineProps, 'line' | 'isLocked' | 'onChange'>): React.JSX.Element {
  const { item, inStock, inWork } = line;
  if (isLocked)
    return (
      <Soft>
        {inStock === '' ? '' : `${inStock} in stock `}
        {inWork === '' ? '' : `${inWork} in work`}
      </Soft>
    );
  return (
    <>
      <Box
        aria-label={`In stock of ${item}`}
        placeholder="in stock"
        value={inStock}
        onChange={({ target }) => onChange({ ...line, inStock: target.value })}
        style={{ width: 66 }}
      />
      <Box
        aria-label={`In work of ${item}`}
        placeholder="in work"
        value={inWork}
        onChange={({ target }) => onChange({ ...line, inWork: target.value })}
        style={{ width: 66 }}
      />
    </>
  );
}
