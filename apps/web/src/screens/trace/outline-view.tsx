import type { LensText, NetNodeRow } from '@stem-trace/contract';
import { rollUp, type Net, type OrderLinks, type OutlineRow, type RollUp } from '@stem-trace/core';
import { useQuery } from '@tanstack/react-query';
import { ChevronDown, ChevronRight, ClipboardCopy } from 'lucide-react';
import { useEffect, useMemo, useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import styled from 'styled-components';
import { netQuery } from '../../api/net.js';
import { traceAddress, useLens } from '../../frame/addresses.js';
import { useDesk, type Desk } from '../../frame/desk.js';
import { Thumb } from '../../pictures/thumb.js';
import { Box, Button, Choice, Hint, Mono, Soft, Trouble } from '../../ui/controls.js';
import { AttentionMark, StateGlyph } from '../../ui/glyphs.js';
import { Grid, useGridCursor, type GridColumn, type GridCursor } from '../../ui/grid.js';
import { HolderTag } from '../../ui/holder-tag.js';
import { useStates } from '../../ui/states.js';
import { MiddleCut } from '../../ui/middle-cut.js';
import { sayOnlyIn } from '../../ui/only-in.js';
import { colour } from '../../ui/theme.js';
import { ColumnsPick, useShownColumns } from '../../ui/columns-pick.js';
import { sortedBy, useHeadings, type Headings } from '../../ui/use-table.js';
import { sayCount, saySum, sayUnknown } from './say-numbers.js';
import { useOutline, type Outline } from './use-outline.js';
import { gapLines, sayGap } from './gap.js';

/** The structure as an indented table, with what each branch adds up to. */
export function OutlineView({ focus }: { readonly focus: string }): React.JSX.Element {
  const [lens] = useLens();
  const answer = useQuery(netQuery({ item: focus, lens, side: 'made' }));
  if (answer.error) return <Trouble>{answer.error.message}</Trouble>;
  if (!answer.data) return <Hint role="status">Reading the structure …</Hint>;
  return (
    <OutlineTable key={`${focus} ${lens}`} net={answer.data.net} hidden={answer.data.hidden} lens={lens} />
  );
}

interface OutlineTableProps {
  readonly net: Net<NetNodeRow>;
  readonly hidden: number;
  readonly lens: LensText;
}

const LEVELS = [1, 2, 3, 4, 99] as const;

function useRollUp(net: Net<NetNodeRow>): readonly RollUp[] {
  const book = useStates();
  return useMemo(() => rollUp(net, book), [net, book]);
}

function OutlineTable({ net, hidden, lens }: OutlineTableProps): React.JSX.Element {
  const rolled = useRollUp(net);
  const [shown, show] = useShownColumns('outline', FIRST);
  const { headings, order } = useOutlineOrder(net, rolled);
  const outline = useOutline(net, order);
  const cursor = useOutlineCursor(net, outline);
  const [said, say] = useState('');
  const desk = useDesk();
  const navigate = useNavigate();
  const { rows } = outline;
  const columns = useMemo(
    () => [structureColumn(net, outline), ...headings.grid.columns.filter(({ key }) => shown.has(key))],
    [net, headings.grid.columns, shown, outline],
  );
  const copy = async (): Promise<void> => {
    await navigator.clipboard.writeText(asText(net, rolled, rows, shown));
    say(`${rows.length.toLocaleString('en-GB')} rows copied; paste them into a spreadsheet.`);
  };
  return (
    <>
      <Line>
        <LevelsAndSeek outline={outline} onNext={() => cursor.moveTo(nextFitting(outline, cursor.from))} />
        <Soft aria-live="polite">
          {said || sayShown(outline, rolled[0]?.lines ?? 0)}
          {hidden > 0 ? `, ${hidden} not visible to you` : ''}
        </Soft>
        <Spacer />
        <Button onPress={() => void copy()}>
          <ClipboardCopy size={15} aria-hidden /> Copy as a table
        </Button>
        <ColumnsPick of={CHOOSABLE} shown={shown} onShow={show} />
      </Line>
      <Grid
        label="Structure"
        {...headings.grid}
        columns={columns}
        cursor={cursor}
        levelOf={(row) => row.level}
        isExpanded={(row) => (row.hasMore ? row.isOpen : undefined)}
        ground={(row) => (outline.fits(row.node) ? colour.changedSoft : undefined)}
        onOpen={(row) => openNode(net.nodes[row.node], (address) => void navigate(address), lens)}
        onPick={(row) => pickNode(desk, net.nodes[row.node])}
        isPicked={(row) => desk.isInTray(net.nodes[row.node]?.number ?? '')}
        onKey={(event, row) => {
          if (!row) return false;
          if (event.key === 'm') {
            say(toNextUnknown(net, outline, cursor));
            return true;
          }
          if (event.key !== 'c' || !(event.ctrlKey || event.metaKey))
            return openOrClose(event.key, row, outline, cursor);
          void copy();
          return true;
        }}
        takesFocus
        reuses
      />
    </>
  );
}

/** The columns of values, by whose headings what stands beside each other is ordered. */
function useOutlineOrder(
  net: Net<NetNodeRow>,
  rolled: readonly RollUp[],
): { headings: Headings<OutlineRow>; order: OrderLinks | undefined } {
  const values = useMemo(() => valueColumns(net, rolled), [net, rolled]);
  const headings = useHeadings('outline', values);
  const { sort } = headings;
  const order = useMemo(() => orderOf(net, values, sort), [net, values, sort]);
  return { headings, order };
}

/** What stands beside each other, by a column; as it is built where none was chosen. */
function orderOf(
  net: Net<NetNodeRow>,
  columns: readonly GridColumn<OutlineRow>[],
  sort: Headings<OutlineRow>['sort'],
): OrderLinks | undefined {
  if (!sort) return undefined;
  return (links) => {
    const rows = links.map((link, at): OutlineRow => ({
      ...{ path: String(at), node: link.to, level: 1, link, total: link.quantity },
      ...{ hasMore: net.below(link.to).length > 0, isOpen: false },
    }));
    return sortedBy(rows, columns, sort).map(({ path }) => Number(path));
  };
}

function pickNode({ toggleInTray }: Pick<Desk, 'toggleInTray'>, node: NetNodeRow | undefined): void {
  if (node && node.version !== null) toggleInTray({ number: node.number, name: node.name });
}

/** On to the next part that the sums lack; where none is in sight, everything is opened. @returns what to say */
function toNextUnknown(net: Net<NetNodeRow>, outline: Outline, cursor: GridCursor<OutlineRow>): string {
  const { rows } = outline;
  const next = [...rows.keys()].find((at) => at > cursor.from && lacksMass(net, rows[at]));
  if (next !== undefined) {
    cursor.moveTo(next);
    return '';
  }
  if (outline.level !== 99) {
    outline.showLevel(99);
    return 'All levels are open now: m goes to the next part without mass.';
  }
  return 'No further part without mass below the cursor.';
}

/** Whether it is nothing but a part, and nobody knows its mass. */
function lacksMass(net: Net<NetNodeRow>, row: OutlineRow | undefined): boolean {
  const node = row && net.nodes[row.node];
  return node !== undefined && row?.hasMore === false && node.version !== null && node.massKg === undefined;
}

/** Where the cursor is; the first place where it says what was looked for comes into sight. */
function useOutlineCursor(net: Net<NetNodeRow>, outline: Outline): GridCursor<OutlineRow> {
  const cursor = useGridCursor(outline.rows, ({ path }) => path, {
    within: `${outline.level} ${outline.seek}`,
  });
  const { pointAt } = useDesk();
  const under = cursor.row && net.nodes[cursor.row.node];
  useEffect(() => pointAtNode(pointAt, under), [pointAt, under]);
  const { seek } = outline;
  const latest = useRef({ outline, cursor });
  latest.current = { outline, cursor };
  useEffect(() => {
    if (seek !== '') latest.current.cursor.moveTo(nextFitting(latest.current.outline, -1));
  }, [seek]);
  return cursor;
}

/** How much is open, and what is looked for; Enter once more goes on to the next place. */
function LevelsAndSeek({
  outline,
  onNext,
}: {
  readonly outline: Outline;
  readonly onNext: () => void;
}): React.JSX.Element {
  return (
    <>
      <Choice
        label="Levels open"
        options={LEVELS.map((level) => ({
          key: String(level),
          text: level === 99 ? 'all levels' : String(level),
        }))}
        value={outline.seek === '' ? String(outline.level) : ''}
        onChange={(key) => outline.showLevel(Number(key))}
      />
      <Seek
        aria-label="Expand matches"
        placeholder="Expand matches …"
        defaultValue={outline.seek}
        onKeyDown={(event) => {
          if (event.key !== 'Enter') return;
          const wanted = event.currentTarget.value.trim();
          if (wanted === outline.seek) onNext();
          else outline.lookFor(wanted);
        }}
      />
    </>
  );
}

function sayShown({ seek, rows, matches }: Outline, total: number): string {
  if (seek !== '') return `${matches.toLocaleString('en-GB')} with “${seek}”`;
  return `${rows.length.toLocaleString('en-GB')} of ${(total + 1).toLocaleString('en-GB')} rows`;
}

/** Right opens and then goes in, left closes and then goes out. @returns whether the key was one of them */
function openOrClose(
  key: string,
  row: OutlineRow,
  outline: Outline,
  { index, moveTo }: GridCursor<OutlineRow>,
): boolean {
  if (key !== 'ArrowRight' && key !== 'ArrowLeft') return false;
  const isOpening = key === 'ArrowRight';
  if (row.hasMore && row.isOpen !== isOpening && row.path !== '') outline.toggle(row);
  else if (isOpening && row.isOpen) moveTo(index + 1);
  else if (!isOpening) moveTo(Math.max(0, parentOf(outline.rows, index)));
  return true;
}

/** Index of the next row where it says what was looked for, from the top again after the last. */
function nextFitting({ rows, fits }: Outline, after: number): number {
  const isFitting = ({ node }: OutlineRow): boolean => fits(node);
  const next = rows.findIndex((row, index) => index > after && isFitting(row));
  return Math.max(0, next >= 0 ? next : rows.findIndex(isFitting));
}

/** Row that the one at an index lies below. */
function parentOf(rows: readonly OutlineRow[], index: number): number {
  const level = rows[index]?.level ?? 1;
  for (let at = index - 1; at >= 0; at--) if ((rows[at]?.level ?? 0) < level) return at;
  return 0;
}

type PointAt = ReturnType<typeof useDesk>['pointAt'];

/** What the margin tells of a node. */
export function pointAtNode(pointAt: PointAt, node: NetNodeRow | undefined): void {
  if (!node) pointAt('');
  else if (node.isHidden)
    pointAt('', {
      title: 'Not visible to you',
      lines: ['Something is here that you may not see. Ask somebody who administers its place.'],
    });
  else if (node.isGap) pointAt('', { title: node.number, lines: gapLines(node) });
  else pointAt(`${node.number}@${node.version}`);
}

function openNode(node: NetNodeRow | undefined, go: (address: string) => void, lens: LensText): void {
  if (node && !node.isGap && !node.isHidden)
    go(traceAddress(`${node.number}@${node.version}`, lens, 'outline'));
}

// Made once for all rows.
const IS_OPEN = <ChevronDown size={14} />;
const IS_CLOSED = <ChevronRight size={14} />;

function structureColumn(net: Net<NetNodeRow>, outline: Outline): GridColumn<OutlineRow> {
  return {
    key: 'structure',
    title: 'Structure',
    width: 'minmax(230px, 1fr)',
    hasPicture: true,
    cell: (row) => {
      const node = net.nodes[row.node];
      if (!node) return null;
      return (
        <Indented style={{ paddingLeft: (row.level - 1) * 18 }}>
          <Twist
            aria-hidden
            onClick={(event) => {
              event.stopPropagation();
              outline.toggle(row);
            }}
          >
            {row.hasMore ? (row.isOpen ? IS_OPEN : IS_CLOSED) : null}
          </Twist>
          {node.version === null ? null : <Thumb item={`${node.number}@${node.version}`} />}
          <StateGlyph state={node.state} />
          {node.isHidden ? <Soft>not visible to you</Soft> : <Mono>{node.number}</Mono>}
          {node.isHidden ? null : <MiddleCut text={node.name} />}
          {node.isGap ? <AttentionMark>{sayGap(node)}</AttentionMark> : null}
        </Indented>
      );
    },
  };
}

function valueColumns(
  net: Net<NetNodeRow>,
  rolled: readonly RollUp[],
): readonly (GridColumn<OutlineRow> & { text(row: OutlineRow): string })[] {
  const nodeOf = (row: OutlineRow): NetNodeRow | undefined => net.nodes[row.node];
  const sumOf = (row: OutlineRow): RollUp | undefined => rolled[row.node];
  const plain = (
    key: string,
    title: string,
    width: string,
    text: (row: OutlineRow) => string,
  ): GridColumn<OutlineRow> & { text(row: OutlineRow): string } => ({
    key,
    title,
    width,
    align: 'right',
    text,
    sortBy: (row) => numberOr(text(row)),
    cell: (row) => <Mono>{text(row)}</Mono>,
  });
  return [
    plain('quantity', '×', '56px', (row) => (row.link ? sayCount(row.link.quantity) : '')),
    plain('total', 'Total', '66px', (row) => sayCount(row.total)),
    plain('version', 'Version', '70px', (row) => nodeOf(row)?.version ?? ''),
    {
      ...plain('mass', 'Mass, kg', '92px', (row) => saySum(sumOf(row)?.massKg ?? NOTHING)),
      cell: (row) => (
        <Mono title={sayUnknown(sumOf(row)?.massKg ?? NOTHING)}>{saySum(sumOf(row)?.massKg ?? NOTHING)}</Mono>
      ),
    },
    plain('unknown', 'Mass unknown', '130px', (row) => sayUnknown(sumOf(row)?.massKg ?? NOTHING)),
    plain('cost', 'Cost', '80px', (row) => saySum(sumOf(row)?.cost ?? NOTHING)),
    {
      ...plain('worst', 'Worst below', '98px', (row) => sumOf(row)?.worst ?? ''),
      align: 'center',
      cell: (row) => {
        const worst = sumOf(row)?.worst ?? null;
        return worst === null ? null : <StateGlyph state={worst} />;
      },
    },
    {
      ...plain('behind', 'Behind', '70px', (row) => (row.link?.behind ? String(row.link.behind) : '')),
      cell: (row) =>
        row.link && row.link.behind > 0 ? <AttentionMark>{row.link.behind}</AttentionMark> : null,
    },
    plain('configurations', 'Configurations', '130px', (row) => sayOnlyIn(row.link?.configurations)),
    plain('behindBelow', 'Behind below', '98px', (row) => String(sumOf(row)?.behind || '')),
    plain('gaps', 'Gaps below', '94px', (row) => String(sumOf(row)?.gaps || '')),
    {
      ...plain('held', 'Held', '56px', (row) => nodeOf(row)?.heldBy?.name ?? ''),
      align: 'center',
      cell: (row) => <HolderTag holder={nodeOf(row)?.heldBy ?? null} />,
    },
  ];
}

const FIRST = ['quantity', 'total', 'version', 'mass', 'worst', 'behind', 'behindBelow', 'held'] as const;
/** What is shown, as what it is ordered by. */
function numberOr(text: string): string | number {
  const number = Number(text.replace(/^≥ ?/, '').replaceAll(',', ''));
  return text === '' || Number.isNaN(number) ? text : number;
}

const NOTHING = { value: 0, unknown: 0, of: 0 };

/** All rows as a spreadsheet takes them, levels as a column of their own. */
function asText(
  net: Net<NetNodeRow>,
  rolled: readonly RollUp[],
  rows: readonly OutlineRow[],
  shown: ReadonlySet<string>,
): string {
  const columns = valueColumns(net, rolled).filter(({ key }) => shown.has(key));
  const clean = (text: string): string => text.replace(/[\t\n\r]+/g, ' ');
  const lines = rows.map((row) => {
    const node = net.nodes[row.node];
    return [
      String(row.level - 1),
      node?.number ?? '',
      node?.name ?? '',
      ...columns.map(({ text }) => text(row)),
    ];
  });
  return [['Level', 'Number', 'Name', ...columns.map(({ title }) => title)], ...lines]
    .map((line) => line.map(clean).join('\t'))
    .join('\n');
}

const EMPTY = { nodes: [] } as unknown as Net<NetNodeRow>;
const CHOOSABLE = valueColumns(EMPTY, []).map(({ key, title }) => ({
  key,
  title: title === '×' ? 'Quantity' : title,
}));

const Line = styled.div`
  display: flex;
  align-items: center;
  flex-wrap: wrap;
  gap: 8px 12px;
`;
const Spacer = styled.span`
  flex: 1;
`;
const Seek = styled(Box)`
  width: 200px;
`;
const Indented = styled.span`
  display: flex;
  align-items: center;
  gap: 6px;
`;
const Twist = styled.i`
  flex: none;
  width: 14px;
  display: inline-flex;
  color: ${colour.inkSoft};
`;
