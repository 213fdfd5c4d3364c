/** What every flat picture has: tools above, panels beside it, the board, what is said below. */
import type { Extent, Spot } from '@stem-trace/core/sheet';
import type { ItemView, MarkKind, MarkUpRow } from '@stem-trace/contract';
import { useEffect, useState } from 'react';
import styled from 'styled-components';
import { useKeyHints, type KeyHint } from '../../../frame/keys.js';
import { Board, type BoardTool, type Surface } from '../../../pictures/board/board.js';
import type { View } from '../../../pictures/board/view.js';
import { colour } from '../../../ui/theme.js';
import { PrintPick } from './print-pick.js';
import { MarkBar } from '../mark-up/mark-bar.js';
import { MarkList } from '../mark-up/mark-list.js';
import { KINDS } from '../mark-up/tones.js';
import { extentOfMark, useMarking } from '../mark-up/use-marking.js';
import { useMarks } from '../mark-up/use-marks.js';

/** A flat file that is looked at closely. */
export interface FlatProps {
  readonly item: ItemView;
  /** Version that lies over it from the beginning. */
  readonly before?: string | undefined;
}

export interface FlatDeskProps {
  readonly item: ItemView;
  readonly surface: Surface;
  /** Which of the file's sheets or pages it is. */
  readonly place: string;
  readonly label: string;
  readonly over: (view: View) => React.ReactNode;
  readonly goTo: Extent | undefined;
  /** Shows another sheet or page. */
  readonly open?: (place: string) => void;
  readonly tool: BoardTool | undefined;
  readonly tools: React.ReactNode;
  readonly panels: React.ReactNode;
  readonly says: string;
  readonly keys: Readonly<Record<string, () => void>>;
  readonly sayLength: (units: number) => string;
  readonly catchSpot: (spot: Spot) => Spot;
}

const KEYS: readonly KeyHint[] = [
  { key: '+ −', says: 'Closer and farther' },
  { key: '0', says: 'Whole sheet' },
  { key: 'M', says: 'Measure between two spots of a drawing' },
  { key: '1 … 8', says: 'Draw on it: pin, arrow, box, cloud, pen, line, text, distance' },
  { key: 'N', says: 'Next difference, where another version is laid over it; with Shift back' },
];

export function FlatDesk(props: FlatDeskProps): React.JSX.Element {
  const { item, surface, place, label, over, tool, tools, panels, says, sayLength, catchSpot } = props;
  const marks = useMarks(`${item.number}@${item.shown}`);
  const marking = useMarking({ marks, sheet: place, sayLength, catchSpot });
  const [goTo, go] = useState<Extent>();
  useEffect(() => go(props.goTo), [props.goTo]);
  useKeyHints(KEYS);
  const show = (row: MarkUpRow): void => {
    props.open?.(row.sheet);
    go(extentOfMark(row));
  };
  const drawing = Object.fromEntries(
    (Object.keys(KINDS) as MarkKind[]).map((kind) => [KINDS[kind].key, () => marking.begin(kind)]),
  );
  const keys: FlatDeskProps['keys'] = {
    ...props.keys,
    ...(marking.closed === '' ? drawing : {}),
    ...(marking.kind ? { enter: marking.inTheMiddle, escape: marking.cancel } : {}),
  };
  const onKeyDown = (event: React.KeyboardEvent): void => {
    const lower = event.key.toLowerCase();
    const deed = (event.shiftKey ? keys[lower.toUpperCase()] : undefined) ?? keys[lower];
    if (event.key === 'Enter' && event.target instanceof HTMLButtonElement) return;
    if (!deed || event.ctrlKey || event.metaKey || event.altKey || isTyping(event.target)) return;
    event.preventDefault();
    event.stopPropagation();
    deed();
  };
  return (
    <Parts onKeyDown={onKeyDown}>
      <Tools role="toolbar" aria-label="The picture">
        {tools}
        <PrintPick item={item} sheet={place} hasMarks={marking.rows.length > 0} />
        <MarkBar {...marking} hasKeys />
      </Tools>
      <Panels>
        <Panel title="Drawn and written">
          <MarkList {...{ marking, show }} begins="Choose a pin or an arrow above." />
        </Panel>
        {panels}
      </Panels>
      <Middle>
        <Board
          isLarge
          {...{ surface, label, goTo }}
          tool={marking.tool ?? tool}
          over={(view) => (
            <>
              {over(view)}
              {marking.over(view)}
            </>
          )}
        />
        <Said role="status" aria-label="What is shown">
          {says}
        </Said>
      </Middle>
    </Parts>
  );
}

export function Panel({
  title,
  children,
}: {
  readonly title: string;
  readonly children: React.ReactNode;
}): React.JSX.Element {
  return (
    <section aria-label={title}>
      <h2>{title}</h2>
      {children}
    </section>
  );
}

function isTyping(target: EventTarget): boolean {
  if (target instanceof HTMLTextAreaElement || target instanceof HTMLSelectElement) return true;
  return target instanceof HTMLInputElement && target.type !== 'checkbox';
}

const Parts = styled.div`
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template: auto minmax(0, 1fr) / minmax(180px, 240px) minmax(0, 1fr);
  gap: 8px 10px;
`;
const Tools = styled.div`
  grid-column: 1 / -1;
  display: flex;
  flex-wrap: wrap;
  align-items: flex-end;
  gap: 6px 8px;
`;
const Panels = styled.div`
  overflow: auto;
  display: flex;
  flex-direction: column;
  gap: 12px;
  section {
    display: flex;
    flex-direction: column;
    gap: 4px;
    padding-bottom: 10px;
    border-bottom: 1px solid ${colour.line};
  }
  label {
    overflow-wrap: anywhere;
  }
`;
const Middle = styled.div`
  display: flex;
  flex-direction: column;
  gap: 6px;
  min-height: 0;
  min-width: 0;
`;
/** Room for two lines, so that the picture stays where it is whatever is said. */
const Said = styled.p`
  margin: 0;
  min-height: 2.9em;
`;
