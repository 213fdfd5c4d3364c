import { useQuery } from '@tanstack/react-query';
import type { ComparedSide } from '@stem-trace/contract';
import { ArrowLeftRight, Download } from 'lucide-react';
import { Menu, MenuItem, MenuTrigger } from 'react-aria-components';
import styled from 'styled-components';
import { propertiesQuery } from '../../api/properties.js';
import { addressOf } from '../../api/client.js';
import { compareQuery, threeQuery } from '../../api/queries.js';
import { BeginWith } from '../../frame/begin-with.js';
import { ItemPicker } from '../../frame/item-picker.js';
import { Button, Hint, MenuDrop, Soft, Trouble } from '../../ui/controls.js';
import { ColumnsPick } from '../../ui/columns-pick.js';
import { When } from '../../ui/when.js';
import { Tick } from '../../ui/tick.js';
import { Differences } from './differences.js';
import { SidePicker } from './side-picker.js';
import { ThreeSides } from './three-sides.js';
import { AUTO, useComparison, type Comparison } from './use-comparison.js';

/** Two BOMs side by side, with the direction said in words; or both beside what they come from. */
export function CompareScreen(): React.JSX.Element {
  const comparison = useComparison();
  const { query, change, origin } = comparison;
  const isThree = origin !== undefined;
  const isWhole = query.from !== '' && query.to !== '';
  const answer = useQuery({ ...compareQuery(query), enabled: isWhole && !isThree });
  const three = useQuery(
    threeQuery(
      {
        base: origin ?? '',
        one: query.from,
        other: query.to,
        lens: query.lens,
        columns: query.columns ?? '',
      },
      isThree,
    ),
  );
  const error = isThree ? three.error : answer.error;
  const said =
    isThree && three.data ? [three.data.one, three.data.other] : [answer.data?.from, answer.data?.to];
  return (
    <>
      <Sides>
        <SideOf comparison={comparison} side="from" said={isWhole ? said[0] : undefined} />
        <Button aria-label="Swap sides" onPress={comparison.swap}>
          <ArrowLeftRight size={15} aria-hidden />
        </Button>
        <SideOf comparison={comparison} side="to" said={isWhole ? said[1] : undefined} />
      </Sides>
      {isWhole ? (
        <Sides>
          <Origin comparison={comparison} said={three.data?.base} />
          <Gap />
          <Columns comparison={comparison} />
          <Export comparison={comparison} isDisabled={isThree} />
        </Sides>
      ) : null}
      {error ? <Trouble>{error.message}</Trouble> : null}
      {isWhole ? null : (
        <>
          <Hint>
            Choose two versions: of one item, or of two; or a list that somebody sent. Or put two items into
            the tray (Space) and compare them from there.
          </Hint>
          <BeginWith onChoose={(item) => change(query.from === '' ? { from: item } : { to: item })} />
        </>
      )}
      {isWhole && !isThree && answer.data ? (
        <Differences answer={answer.data} comparison={comparison} />
      ) : null}
      {isWhole && isThree && three.data ? <ThreeSides answer={three.data} /> : null}
    </>
  );
}

function SideOf({
  comparison: { query, change },
  side,
  said,
}: {
  readonly comparison: Comparison;
  readonly side: 'from' | 'to';
  readonly said: ComparedSide | undefined;
}): React.JSX.Element {
  return (
    <SidePicker
      label={side === 'from' ? 'From' : 'To'}
      value={query[side]}
      lens={side === 'from' ? query.fromLens : query.toLens}
      onChange={(value) => change({ [side]: value, hand: '' })}
      onLens={(lens) => change({ [`${side}Lens`]: lens })}
    >
      <Said side={said} />
    </SidePicker>
  );
}

/** Whether what both come from stands beside them, and which that is. */
function Origin({
  comparison: { origin, change },
  said,
}: {
  readonly comparison: Comparison;
  readonly said: ComparedSide | undefined;
}): React.JSX.Element {
  return (
    <>
      <Tick isSelected={origin !== undefined} onChange={(on) => change({ base: on ? AUTO : '' })}>
        With the common origin
      </Tick>
      {origin === undefined ? null : (
        <>
          <ItemPicker
            label="Common origin"
            value={origin}
            onChoose={(reference) => change({ base: reference })}
            width="190px"
          />
          <Soft>
            {said ? `${said.number} ${said.version}${origin === '' ? ', found by lineage' : ''}` : ''}
          </Soft>
        </>
      )}
    </>
  );
}

const FORMATS = [
  { key: 'pdf', text: 'Redline for print (PDF)' },
  { key: 'xlsx', text: 'Redline (XLSX)' },
  { key: 'csv', text: 'Table (CSV)' },
] as const;

function Export({
  comparison: { query },
  isDisabled,
}: {
  readonly comparison: Comparison;
  readonly isDisabled: boolean;
}): React.JSX.Element {
  return (
    <MenuTrigger>
      <Button aria-label="Export" isDisabled={isDisabled}>
        <Download size={15} aria-hidden />
      </Button>
      <MenuDrop>
        <Menu aria-label="Export as">
          {FORMATS.map(({ key, text }) => (
            <MenuItem key={key} href={addressOf('/api/compare/file', { ...query, format: key })} download="">
              {text}
            </MenuItem>
          ))}
        </Menu>
      </MenuDrop>
    </MenuTrigger>
  );
}

/** When a side came in, and who brought it. */
function Said({ side }: { readonly side: ComparedSide | undefined }): React.JSX.Element | null {
  if (!side) return null;
  return (
    <Soft>
      {[side.version, side.author].filter(Boolean).join(' · ')} · <When at={side.at} />
    </Soft>
  );
}

/** Properties that are compared too. */
function Columns({ comparison }: { readonly comparison: Comparison }): React.JSX.Element {
  const known = useQuery(propertiesQuery).data?.definitions ?? [];
  return (
    <ColumnsPick
      of={known.map(({ name }) => ({ key: name, title: name }))}
      shown={new Set(comparison.columns)}
      onShow={(columns) => comparison.change({ columns: [...columns].join(';') })}
    />
  );
}

const Sides = styled.div`
  display: flex;
  align-items: end;
  gap: 12px;
  flex-wrap: wrap;
`;
const Gap = styled.span`
  flex: 1;
`;
