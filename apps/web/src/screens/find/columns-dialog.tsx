import { GripVertical } from 'lucide-react';
import {
  Button as AriaButton,
  GridList,
  GridListItem,
  useDragAndDrop,
  type Selection,
} from 'react-aria-components';
import styled from 'styled-components';
import { PicturesChoice } from '../../frame/pictures-choice.js';
import { Button, QuietButton, Soft } from '../../ui/controls.js';
import { DialogFrame } from '../../ui/dialog-frame.js';
import { Tick } from '../../ui/tick.js';
import { colour } from '../../ui/theme.js';
import { choosable, DEFAULT_COLUMNS, type ChosenColumn } from './find-columns.js';

export interface ColumnsDialogProps {
  readonly chosen: readonly ChosenColumn[];
  readonly properties: readonly string[];
  readonly onChoose: (columns: readonly ChosenColumn[]) => void;
  readonly onClose: () => void;
}

/** Which columns, in which order: chosen ones first, moved by dragging or, from the keyboard, with Enter on the handle. */
export function ColumnsDialog({
  chosen,
  properties,
  onChoose,
  onClose,
}: ColumnsDialogProps): React.JSX.Element {
  const all = choosable(properties);
  const titles = new Map(all.map(({ key, title }) => [key, title]));
  const shown = chosen.filter(({ key }) => titles.has(key));
  const rest = all.filter(({ key }) => !shown.some((column) => column.key === key));
  const { dragAndDropHooks } = useDragAndDrop({
    getItems: (keys) => [...keys].map((key) => ({ 'text/plain': titles.get(String(key)) ?? '' })),
    onReorder: ({ keys, target }) => {
      const moved = shown.filter(({ key }) => keys.has(key));
      const others = shown.filter(({ key }) => !keys.has(key));
      const at =
        others.findIndex(({ key }) => key === target.key) + (target.dropPosition === 'after' ? 1 : 0);
      onChoose([...others.slice(0, at), ...moved, ...others.slice(at)]);
    },
  });
  const keep = (selection: Selection): void => {
    if (selection === 'all' || selection.size === 0) return;
    onChoose(shown.filter(({ key }) => selection.has(key)));
  };
  return (
    <DialogFrame title="Columns" widthPx={380} onClose={onClose}>
      <Soft>Drag a column by its handle to move it; drag the edge of a heading to change its width.</Soft>
      <List
        aria-label="Columns shown, in order"
        items={shown.map(({ key }) => ({ id: key, title: titles.get(key) ?? key }))}
        selectionMode="multiple"
        selectedKeys={shown.map(({ key }) => key)}
        onSelectionChange={keep}
        dragAndDropHooks={dragAndDropHooks}
      >
        {(item: { id: string; title: string }) => (
          <Row id={item.id} textValue={item.title}>
            <AriaButton slot="drag" aria-label={`Move ${item.title}`}>
              <GripVertical size={14} aria-hidden />
            </AriaButton>
            <Tick slot="selection">{item.title}</Tick>
          </Row>
        )}
      </List>
      <Others aria-label="Further columns">
        {rest.map(({ key, title }) => (
          <Tick key={key} isSelected={false} onChange={() => onChoose([...shown, { key }])}>
            {title}
          </Tick>
        ))}
      </Others>
      <Pictures />
      <Line>
        <QuietButton onPress={() => onChoose(DEFAULT_COLUMNS)}>Default columns</QuietButton>
        <Button slot="close">Done</Button>
      </Line>
    </DialogFrame>
  );
}

const List = styled(GridList)`
  border: 1px solid ${colour.line};
  border-radius: 4px;
  overflow: auto;
  min-height: 60px;
` as typeof GridList;
const Row = styled(GridListItem)`
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 4px 8px;
  border-bottom: 1px solid ${colour.line};
  cursor: default;
  button {
    border: 0;
    background: none;
    color: ${colour.inkSoft};
    padding: 2px;
    display: inline-flex;
  }
  &[data-focus-visible] {
    outline: 2px solid ${colour.petrol};
    outline-offset: -2px;
  }
  &[data-dragging] {
    opacity: 0.5;
  }
`;
const Others = styled.div.attrs({ role: 'group' })`
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 4px 12px;
  overflow: auto;
  max-height: 220px;
`;
function Pictures(): React.JSX.Element {
  return (
    <Beside>
      <span aria-hidden>Pictures in rows</span>
      <PicturesChoice />
    </Beside>
  );
}

const Beside = styled.div`
  display: flex;
  align-items: center;
  gap: 12px;
`;
const Line = styled.div`
  display: flex;
  justify-content: space-between;
`;
