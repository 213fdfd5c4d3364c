import { parseReference, type EffectAnswer, type EffectPart, type EffectRow } from '@stem-trace/contract';
import { refuseChange, type StateBook } from '@stem-trace/core';
import { useQuery } from '@tanstack/react-query';
import { Bell, Download, LogOut, Package, Wrench } from 'lucide-react';
import { useEffect, useState } from 'react';
import { ToggleButton as AriaToggle } from 'react-aria-components';
import { useNavigate, useSearchParams } from 'react-router';
import styled from 'styled-components';
import { useDeeds, type Deeds } from '../../api/custody.js';
import { effectQuery } from '../../api/net.js';
import { traceAddress, useChangeSearch, useLens } from '../../frame/addresses.js';
import { CheckOutDialog, type CheckOutLine } from '../../frame/check-out-dialog.js';
import { useDesk } from '../../frame/desk.js';
import { usePerson } from '../../frame/person.js';
import { useStates } from '../../ui/states.js';
import { Button, Choice, Hint, Mono, Soft, Trouble } from '../../ui/controls.js';
import { AttentionMark, StateGlyph } from '../../ui/glyphs.js';
import { Grid, useGridCursor, type GridColumn } from '../../ui/grid.js';
import { HolderTag } from '../../ui/holder-tag.js';
import { MiddleCut } from '../../ui/middle-cut.js';
import { downloadCsv } from '../../ui/download.js';
import { colour } from '../../ui/theme.js';
import { Tick } from '../../ui/tick.js';
import { useTable } from '../../ui/use-table.js';
import { NewOrderDialog } from '../change/new-order-dialog.js';
import { BesidesNote } from './besides-note.js';
import { sayCount } from './say-numbers.js';

const PARTS: readonly { readonly key: EffectPart; readonly one: string; readonly many: string }[] = [
  { key: 'product', one: 'product', many: 'products' },
  { key: 'assembly', one: 'assembly', many: 'assemblies' },
  { key: 'drawing', one: 'drawing', many: 'drawings' },
  { key: 'document', one: 'document', many: 'documents' },
  { key: 'copy', one: 'copy of it', many: 'copies of it' },
  { key: 'derived', one: 'of the same stem', many: 'of the same stem' },
  { key: 'unused without it', one: 'unused without it', many: 'unused without it' },
];

const FAR = [
  { key: '1', text: '1 level' },
  { key: '2', text: '2' },
  { key: '3', text: '3' },
  { key: '0', text: 'all levels' },
] as const;

/** What a change of the focus, or of everything in the tray with it, would touch; a table to work down. */
export function EffectView({ focus }: { readonly focus: string }): React.JSX.Element {
  const [search] = useSearchParams();
  const [lens] = useLens();
  const desk = useDesk();
  const [withTray, takeTray] = useState(false);
  const far = FAR.find(({ key }) => key === search.get('far'))?.key ?? '0';
  const without = new Set((search.get('without') ?? '').split(',').filter(Boolean));
  const others = withTray ? desk.tray.map(({ number }) => number) : [];
  const items = [focus, ...others.filter((number) => number !== focus.split('@')[0])];
  const answer = useQuery(effectQuery({ items, lens, levels: Number(far) }));
  const change = useChangeSearch();
  const set = (name: string, value: string): void => change({ [name]: value });
  if (answer.error) return <Trouble>{answer.error.message}</Trouble>;
  const all = answer.data?.rows ?? [];
  const rows = all.filter(({ part }) => !without.has(part));
  return (
    <>
      <Line>
        <Choice
          label="How far up"
          options={FAR}
          value={far}
          onChange={(key) => set('far', key === '0' ? '' : key)}
        />
        {PARTS.map(({ key, one, many }) => {
          const count = all.filter(({ part }) => part === key).length;
          return count === 0 ? null : (
            <Switch
              key={key}
              isSelected={!without.has(key)}
              onChange={(on) => {
                if (on) without.delete(key);
                else without.add(key);
                set('without', [...without].join(','));
              }}
            >
              {count.toLocaleString('en-GB')} {count === 1 ? one : many}
            </Switch>
          );
        })}
        {desk.tray.length > 0 ? (
          <Tick isSelected={withTray} onChange={takeTray}>
            with the {desk.tray.length} picked
          </Tick>
        ) : null}
        {answer.data ? <NotListed {...answer.data} /> : null}
      </Line>
      <BesidesNote item={parseReference(focus).number} isWide />
      {!answer.data ? <Hint role="status">Working out what it touches …</Hint> : null}
      {answer.data && all.length === 0 ? (
        <Hint>A change of {focus} touches no other file that the store knows of.</Hint>
      ) : (
        <EffectTable rows={rows} name={focus} />
      )}
    </>
  );
}

/** What is touched and not listed. */
function NotListed({ hidden, cut }: EffectAnswer): React.JSX.Element {
  return (
    <>
      {hidden > 0 ? <Soft>{hidden} not visible to you</Soft> : null}
      {cut > 0 ? (
        <AttentionMark>and {cut.toLocaleString('en-GB')} more that are not listed</AttentionMark>
      ) : null}
    </>
  );
}

function EffectTable({
  rows,
  name,
}: {
  readonly rows: readonly EffectRow[];
  readonly name: string;
}): React.JSX.Element {
  const desk = useDesk();
  const deeds = useDeeds();
  const [lens] = useLens();
  const navigate = useNavigate();
  const [search] = useSearchParams();
  const table = useTable('effect', rows, COLUMNS);
  const cursor = useGridCursor(table.rows, ({ number }) => number, { within: search.toString() });
  const under = cursor.row?.number ?? '';
  const { pointAt } = desk;
  useEffect(() => pointAt(under), [pointAt, under]);
  return (
    <>
      <ForAll rows={rows} name={name} deeds={deeds} />
      {deeds.refusals.length > 0 ? <Trouble>{deeds.refusals.slice(0, 5).join('; ')}</Trouble> : null}
      <Grid
        label="What is touched"
        {...table.grid}
        cursor={cursor}
        onOpen={(row) => void navigate(traceAddress(row.number, lens))}
        onPick={(row) => desk.toggleInTray({ number: row.number, name: row.name })}
        isPicked={(row) => desk.isInTray(row.number)}
        takesFocus
      />
    </>
  );
}

interface ForAllProps {
  readonly rows: readonly EffectRow[];
  readonly name: string;
  readonly deeds: Deeds;
}

/** What may be done with all that is touched. */
function ForAll({ rows, name, deeds }: ForAllProps): React.JSX.Element {
  const desk = useDesk();
  const isViewer = usePerson().role === 'viewer';
  const book = useStates();
  const lines = rows.map((row) => lineOf(row, book));
  const free = lines.flatMap(({ number, refusal }) => (refusal === undefined ? [number] : []));
  const isEmpty = rows.length === 0;
  const [isAsking, ask] = useState(false);
  const [isOrdering, order] = useState(false);
  return (
    <Line>
      {isAsking ? (
        <CheckOutDialog
          items={free}
          lines={lines}
          onChosen={(items, reason, change) =>
            deeds.carryOut({ kind: 'check out', items, reason: reason || `Change of ${name}`, change })
          }
          onClose={() => ask(false)}
        />
      ) : null}
      <Button isDisabled={free.length === 0 || deeds.isBusy || isViewer} onPress={() => ask(true)}>
        <LogOut size={15} aria-hidden /> Check out the {free.length} that are free …
      </Button>
      <Button
        isDisabled={isEmpty || isViewer}
        onPress={() =>
          rows.forEach(({ number }) => deeds.carryOut({ kind: 'watch', item: number, watch: true }))
        }
      >
        <Bell size={15} aria-hidden /> Watch all
      </Button>
      <Button
        isDisabled={isEmpty}
        onPress={() =>
          rows.forEach((row) => {
            if (!desk.isInTray(row.number)) desk.toggleInTray({ number: row.number, name: row.name });
          })
        }
      >
        <Package size={15} aria-hidden /> All into the tray
      </Button>
      <Button isDisabled={isViewer} onPress={() => order(true)}>
        <Wrench size={15} aria-hidden /> Make a change order …
      </Button>
      {isOrdering ? (
        <NewOrderDialog
          requests={[]}
          affects={[parseReference(name).number, ...rows.map(({ number }) => number)]}
          onClose={() => order(false)}
        />
      ) : null}
      <Button isDisabled={isEmpty} onPress={() => download(rows, name)}>
        <Download size={15} aria-hidden /> CSV
      </Button>
    </Line>
  );
}

function lineOf({ number, name, state, heldBy, mayChange }: EffectRow, book: StateBook): CheckOutLine {
  const refusal = heldBy
    ? `held by ${heldBy.name}`
    : (refuseChange(book, state) ?? (mayChange ? undefined : 'you may not change it'));
  return { number, name, level: 0, state, heldBy, behind: 0, refusal };
}

const COLUMNS: readonly GridColumn<EffectRow>[] = [
  {
    key: 'part',
    title: 'What',
    width: '124px',
    sortBy: ({ part, level }) => `${part} ${level}`,
    cell: ({ part, level }) => (
      <>
        {PARTS.find(({ key }) => key === part)?.one}
        {level > 0 && part !== 'drawing' && part !== 'document' ? <Soft>{level} up</Soft> : null}
      </>
    ),
  },
  {
    key: 'number',
    title: 'Number',
    width: 'minmax(130px, 0.7fr)',
    sortBy: ({ number }) => number,
    cell: ({ number, state }) => (
      <>
        <StateGlyph state={state} />
        <Mono>
          <MiddleCut text={number} />
        </Mono>
      </>
    ),
  },
  {
    key: 'name',
    title: 'Name',
    width: 'minmax(150px, 1fr)',
    sortBy: ({ name }) => name,
    cell: ({ name }) => <MiddleCut text={name} />,
  },
  {
    key: 'version',
    title: 'Version',
    width: '70px',
    sortBy: ({ version }) => version,
    cell: ({ version }) => <Mono>{version}</Mono>,
  },
  { key: 'state', title: 'State', width: '90px', sortBy: ({ state }) => state, cell: ({ state }) => state },
  {
    key: 'held',
    title: 'Held',
    width: '56px',
    sortBy: ({ heldBy }) => heldBy?.name ?? null,
    cell: ({ heldBy }) => <HolderTag holder={heldBy} />,
  },
  {
    key: 'quantity',
    title: 'Total',
    width: '60px',
    sortBy: ({ quantity }) => quantity,
    align: 'right',
    cell: ({ quantity }) => <Mono>{quantity === null ? '' : sayCount(quantity)}</Mono>,
  },
  {
    key: 'through',
    title: 'Through',
    width: 'minmax(100px, 0.5fr)',
    sortBy: ({ through }) => through.join(', '),
    cell: ({ through, origin }) => (
      <Soft>
        <MiddleCut text={[through.join(', '), sayOrigin(origin)].join(' ').trim()} />
      </Soft>
    ),
  },
];

/** What a copy was last made of: what came later may be wanted there too. */
function sayOrigin(origin: EffectRow['origin']): string {
  if (!origin) return '';
  return origin.newer === 0 ? origin.version : `${origin.version}, ${origin.newer} newer`;
}

function download(rows: readonly EffectRow[], name: string): void {
  const head = [
    'What',
    'Levels up',
    'Number',
    'Name',
    'Version',
    'State',
    'Held by',
    'Total',
    'Through',
    'Copied from',
  ];
  const body = rows.map((row) => [
    row.part,
    row.level,
    row.number,
    row.name,
    row.version,
    row.state,
    row.heldBy?.name ?? '',
    row.quantity ?? '',
    row.through.join(', '),
    sayOrigin(row.origin),
  ]);
  downloadCsv(`effect of ${name}`, [head, ...body]);
}

const Line = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
`;
const Switch = styled(AriaToggle)`
  padding: 3px 10px;
  border: 1px solid ${colour.lineStrong};
  border-radius: 13px;
  background: ${colour.raised};
  color: ${colour.inkSoft};
  font: inherit;
  text-decoration: line-through;
  cursor: default;
  &[data-selected] {
    background: ${colour.petrolSoft};
    border-color: ${colour.petrol};
    color: ${colour.ink};
    text-decoration: none;
  }
`;
