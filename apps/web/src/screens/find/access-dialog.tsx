import { useQuery, useQueryClient } from '@tanstack/react-query';
import type { PersonRow, PlaceAccessView } from '@stem-trace/contract';
import { RIGHTS, type Grant, type Grantee, type Right } from '@stem-trace/core';
import { X } from 'lucide-react';
import { useState } from 'react';
import { Checkbox } from 'react-aria-components';
import styled from 'styled-components';
import { get, send } from '../../api/client.js';
import { Button, Pick, PrimaryButton, QuietButton, Soft, Trouble } from '../../ui/controls.js';
import { DialogFrame } from '../../ui/dialog-frame.js';
import { colour } from '../../ui/theme.js';
import { Tick, TickBox } from '../../ui/tick.js';

export interface AccessDialogProps {
  readonly place: string;
  readonly onClose: () => void;
}

/** Who may do what in a place and below; changed by those who administer it. */
export function AccessDialog({ place, onClose }: AccessDialogProps): React.JSX.Element {
  const access = useQuery({
    queryKey: ['access', place],
    queryFn: ({ signal }) => get('/api/places/access', { place }, signal),
    staleTime: 0,
  });
  const people = useQuery({
    queryKey: ['people'],
    queryFn: ({ signal }) => get('/api/people', {}, signal),
  });
  return (
    <DialogFrame
      title={`Access to ${place === '/' ? 'the whole store' : place}`}
      widthPx={680}
      onClose={onClose}
    >
      {access.error ? <Trouble>{access.error.message}</Trouble> : null}
      {access.data && people.data ? (
        <Access access={access.data} people={people.data} onClose={onClose} />
      ) : (
        <Soft>Looking it up …</Soft>
      )}
    </DialogFrame>
  );
}

const ROLES = ['engineer', 'checker', 'planner', 'viewer'] as const;

interface AccessProps {
  readonly access: PlaceAccessView;
  readonly people: readonly PersonRow[];
  readonly onClose: () => void;
}

function Access({ access, people, onClose }: AccessProps): React.JSX.Element {
  const queries = useQueryClient();
  const [inherits, setInherits] = useState(access.inherits);
  const [grants, setGrants] = useState(access.grants);
  const [trouble, setTrouble] = useState('');
  const mayChange = access.mine.includes('administer');
  const add = (key: string): void => {
    const to = granteeOf(key);
    if (to) setGrants([...grants, { to, rights: ['see', 'fetch'] }]);
  };
  const save = async (): Promise<void> => {
    try {
      await send('PUT', '/api/places/access', { place: access.place, inherits, grants });
      await queries.invalidateQueries();
      onClose();
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <>
      <GrantTable
        access={access}
        people={people}
        grants={grants}
        isInheriting={inherits}
        {...(mayChange ? { onChange: setGrants } : {})}
      />
      <Soft>
        Administrators may do everything everywhere. What holds here holds for every place below, too.
      </Soft>
      {mayChange ? (
        <Line>
          <Pick
            label="Grant to"
            options={[{ key: '', text: 'choose …' }, ...granteesLeft(people, grants)]}
            value=""
            onChange={add}
          />
          {access.place === '/' ? null : (
            <Cut isSelected={!inherits} onChange={(isCut) => setInherits(!isCut)}>
              <TickBox aria-hidden />
              Only what is granted here counts, nothing from above
            </Cut>
          )}
        </Line>
      ) : (
        <Soft>You may {access.mine.join(', ')} here.</Soft>
      )}
      {mayChange ? <Papers place={access.place} /> : null}
      {trouble === '' ? null : <Trouble>{trouble}</Trouble>}
      <Line>
        <Button slot="close">Close</Button>
        {mayChange ? <PrimaryButton onPress={() => void save()}>Save</PrimaryButton> : null}
      </Line>
    </>
  );
}

interface GrantTableProps {
  readonly access: PlaceAccessView;
  readonly people: readonly PersonRow[];
  readonly grants: readonly Grant[];
  readonly isInheriting: boolean;
  /** Absent where they may only be looked at. */
  readonly onChange?: (grants: Grant[]) => void;
}

/** Who may do what here, and what comes from above. */
/** Drawings and documents elsewhere about what lies here: whoever shuts the place leaves those open. */
function Papers({ place }: { readonly place: string }): React.JSX.Element | null {
  const queries = useQueryClient();
  const papers = useQuery({
    queryKey: ['items', 'papers outside', place],
    queryFn: ({ signal }) => get('/api/places/papers', { place }, signal),
    enabled: place !== '/',
  });
  const rows = papers.data ?? [];
  if (rows.length === 0) return null;
  const move = async (): Promise<void> => {
    await send('POST', '/api/items/move', { items: rows.map(({ number }) => number), place, along: false });
    await queries.invalidateQueries();
  };
  return (
    <Trouble as="div">
      {rows.length === 1 ? 'A drawing or document' : `${rows.length} drawings and documents`} about what lies
      here {rows.length === 1 ? 'lies' : 'lie'} elsewhere, and stay as open as they are there:{' '}
      {rows
        .slice(0, 5)
        .map(({ number, place: at }) => `${number} in ${at}`)
        .join(', ')}
      {rows.length > 5 ? ` and ${rows.length - 5} more` : ''}.{' '}
      <Button onPress={() => void move()}>Move them here too</Button>
    </Trouble>
  );
}

function GrantTable({ access, people, grants, isInheriting, onChange }: GrantTableProps): React.JSX.Element {
  const above = isInheriting ? access.fromAbove : [];
  return (
    <Scroll>
      <table>
        <thead>
          <tr>
            <th>Who</th>
            {RIGHTS.map((right) => (
              <th key={right}>{right}</th>
            ))}
            <th />
          </tr>
        </thead>
        <tbody>
          {grants.map((grant) => (
            <GrantLine
              key={keyOf(grant.to)}
              grant={grant}
              name={nameOf(grant.to, people)}
              {...(onChange
                ? { onRights: (rights: readonly Right[]) => onChange(replaced(grants, grant, rights)) }
                : {})}
            />
          ))}
          {above.flatMap(({ place, grants: given }) =>
            given.map((grant) => (
              <tr key={`${place} ${keyOf(grant.to)}`} data-above>
                <td>
                  {nameOf(grant.to, people)} <Soft>from {place}</Soft>
                </td>
                {RIGHTS.map((right) => (
                  <td key={right}>
                    {grant.rights.includes(right) ? <span aria-label={`may ${right}`}>✓</span> : null}
                  </td>
                ))}
                <td />
              </tr>
            )),
          )}
        </tbody>
      </table>
    </Scroll>
  );
}

interface GrantLineProps {
  readonly grant: Grant;
  readonly name: string;
  /** None takes the grant away. */
  readonly onRights?: (rights: readonly Right[]) => void;
}

function GrantLine({ grant, name, onRights }: GrantLineProps): React.JSX.Element {
  return (
    <tr>
      <td>{name}</td>
      {RIGHTS.map((right) => (
        <td key={right}>
          <Tick
            aria-label={`${name} may ${right}`}
            isDisabled={!onRights || isPartOfAnother(right, grant.rights)}
            isSelected={grant.rights.includes(right)}
            onChange={(isGranted) => onRights?.(withRight(grant.rights, right, isGranted))}
          />
        </td>
      ))}
      <td>
        {onRights ? (
          <QuietButton aria-label={`Remove the grant of ${name}`} onPress={() => onRights([])}>
            <X size={14} aria-hidden />
          </QuietButton>
        ) : null}
      </td>
    </tr>
  );
}

/** Of the key of an option; none where nothing was chosen. */
function granteeOf(key: string): Grantee | undefined {
  const [kind = '', who = ''] = key.split(' ');
  if (who === '') return undefined;
  return kind === 'role' ? { kind: 'role', role: who } : { kind: 'person', login: who };
}

/** Whom nothing is granted yet. */
function granteesLeft(
  people: readonly PersonRow[],
  grants: readonly Grant[],
): readonly { readonly key: string; readonly text: string }[] {
  return [
    ...ROLES.map((role) => ({ key: `role ${role}`, text: `every ${role}` })),
    ...people.map(({ login, name, role }) => ({ key: `person ${login}`, text: `${name}, ${role}` })),
  ].filter(({ key }) => !grants.some(({ to }) => keyOf(to) === key));
}

function nameOf(to: Grantee, people: readonly PersonRow[]): string {
  return to.kind === 'role'
    ? `every ${to.role}`
    : (people.find(({ login }) => login === to.login)?.name ?? to.login);
}

function keyOf(to: Grantee): string {
  return to.kind === 'role' ? `role ${to.role}` : `person ${to.login}`;
}

function isPartOfAnother(right: Right, rights: readonly Right[]): boolean {
  return (right === 'see' && rights.length > 1) || (right === 'receive' && rights.includes('fetch'));
}

/** To see is part of every other right, and to receive of that to fetch. */
function withRight(rights: readonly Right[], right: Right, isGranted: boolean): Right[] {
  const wanted = new Set(rights.filter((each) => each !== right));
  if (isGranted) wanted.add(right).add('see');
  if (wanted.has('fetch')) wanted.add('receive');
  return RIGHTS.filter((each) => wanted.has(each));
}

function replaced(grants: readonly Grant[], grant: Grant, rights: readonly Right[]): Grant[] {
  return grants.flatMap((other) =>
    other === grant ? (rights.length === 0 ? [] : [{ ...grant, rights }]) : [other],
  );
}

const Scroll = styled.div`
  overflow: auto;
  table {
    width: 100%;
    border-collapse: collapse;
  }
  th {
    text-align: center;
    font-weight: 500;
    color: ${colour.inkSoft};
    font-size: 12px;
    padding: 4px 6px;
    border-bottom: 1px solid ${colour.lineStrong};
  }
  td {
    text-align: center;
    padding: 5px 6px;
    border-bottom: 1px solid ${colour.line};
  }
  th:first-child,
  td:first-child {
    text-align: left;
  }
  tr[data-above] td {
    color: ${colour.inkSoft};
  }
`;
const Line = styled.div`
  display: flex;
  align-items: end;
  gap: 14px;
  flex-wrap: wrap;
`;
const Cut = styled(Checkbox)`
  display: inline-flex;
  align-items: center;
  gap: 8px;
  min-height: 30px;
`;
