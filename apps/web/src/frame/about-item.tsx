import type { ItemView } from '@stem-trace/contract';
import { isChange, quoted, sayValue, type PropertyValue, type Relation } from '@stem-trace/core';
import { ArrowLeftRight, Blocks, Box, Download, Expand, GitFork, Replace, Route, Shapes } from 'lucide-react';
import { useState } from 'react';
import { Link, useLocation } from 'react-router';
import styled from 'styled-components';
import { useDeeds } from '../api/custody.js';
import { hasPicture, Picture } from '../pictures/picture.js';
import { Mono, QuietButton, Soft } from '../ui/controls.js';
import { AttentionMark, StateGlyph } from '../ui/glyphs.js';
import { sayMass, useShowing, type Showing } from '../ui/showing.js';
import { colour, font } from '../ui/theme.js';
import { When } from '../ui/when.js';
import {
  buildAddress,
  changeAddress,
  compareAddress,
  deriveAddress,
  findAddress,
  historyAddress,
  lookAddress,
  lookAtBothAddress,
  lookWithinAddress,
  traceAddress,
  useLens,
} from './addresses.js';
import { ChangesOfItem } from './changes-of-item.js';
import { IssuedFiles } from './issued-files.js';
import { CustodyActions } from './custody-actions.js';
import { FetchDialog } from './fetch-dialog.js';
import { LikeDialog } from './like-dialog.js';
import { usePerson } from './person.js';
import { Signatures } from './signatures.js';

/** What an item is, and where it can go next. */
export function AboutItem({ item }: { readonly item: ItemView }): React.JSX.Element {
  const [lens] = useLens();
  const { pathname } = useLocation();
  const isLookedAt = pathname === '/look' || pathname.startsWith('/check/');
  const { state = item.state } = item.versions.find(({ version }) => version === item.shown) ?? {};
  return (
    <>
      {isLookedAt ? null : <Picture item={item} lens={lens} />}
      <header>
        <Number>{item.number}</Number>
        <Name>{item.name}</Name>
        <Facts>
          <StateGlyph state={state} /> {state} · <Mono>{item.shown}</Mono> · {item.kind}
        </Facts>
        {item.shown !== item.version ? <AttentionMark>newest is {item.version}</AttentionMark> : null}
      </header>
      <Ways item={item} canLook={hasPicture(item) && !isLookedAt} />
      <CustodyActions item={item} />
      <Signatures rows={item.signatures} />
      <ChangesOfItem item={item} />
      <IssuedFiles item={item.number} />
      <Section>
        {item.description ? <p>{item.description}</p> : null}
        <FactList item={item} />
      </Section>
      <Beside item={item} />
      <Lineage item={item} />
      <Versions item={item} />
    </>
  );
}

/** Where one can go from here. */
function Ways({ item, canLook }: { readonly item: ItemView; readonly canLook: boolean }): React.JSX.Element {
  const [lens] = useLens();
  const [isLikeShown, showLike] = useState(false);
  const [isFetching, fetchIt] = useState(false);
  const reference = item.shown === item.version ? item.number : `${item.number}@${item.shown}`;
  if (isChange(item.kind))
    return (
      <Actions>
        <Onwards item={item} reference={reference} />
      </Actions>
    );
  const previous = item.versions[item.versions.findIndex(({ version }) => version === item.shown) + 1];
  return (
    <Actions>
      <Link to={traceAddress(reference, lens)}>
        <Route size={15} aria-hidden /> Trace
      </Link>
      {canLook ? (
        <Link to={lookAddress(reference)}>
          <Expand size={15} aria-hidden /> Look closely
        </Link>
      ) : null}
      <LookWithin number={item.number} />
      {previous ? (
        <Link to={compareAddress(`${item.number}@${previous.version}`, `${item.number}@${item.shown}`)}>
          <ArrowLeftRight size={15} aria-hidden /> Compare with {previous.version}
        </Link>
      ) : null}
      <Onwards item={item} reference={reference} />
      {isModel(item) ? (
        <LikeButton type="button" onClick={() => showLike(true)}>
          <Shapes size={15} aria-hidden /> Designs like this
        </LikeButton>
      ) : null}
      <LikeButton type="button" onClick={() => fetchIt(true)}>
        <Download size={15} aria-hidden /> Fetch files …
      </LikeButton>
      {isFetching ? (
        <FetchDialog
          item={reference}
          lens={lens}
          withDrawings={item.derivedFrom !== undefined}
          onClose={() => fetchIt(false)}
        />
      ) : null}
      {isLikeShown ? (
        <LikeDialog
          of={item.number}
          hasShape={item.kind === 'part' && item.format === 'step'}
          onClose={() => showLike(false)}
        />
      ) : null}
    </Actions>
  );
}

/** Where what is made of it, or written in it, is worked on. */
function Onwards({
  item,
  reference,
}: {
  readonly item: ItemView;
  readonly reference: string;
}): React.JSX.Element {
  switch (item.kind) {
    case 'bill':
      return (
        <Link to={buildAddress(reference)}>
          <Blocks size={15} aria-hidden /> Open in Build
        </Link>
      );
    case 'request':
    case 'order':
      return (
        <Link to={changeAddress(reference)}>
          <Replace size={15} aria-hidden /> Open in Change
        </Link>
      );
    default:
      return (
        <Link to={deriveAddress(reference)}>
          <GitFork size={15} aria-hidden /> Derive a variant
        </Link>
      );
  }
}

/** From what is traced, planned or compared into its picture, with the item in it. */
function LookWithin({ number }: { readonly number: string }): React.JSX.Element | null {
  const { pathname, search } = useLocation();
  const [lens] = useLens();
  const asked = new URLSearchParams(search);
  const [from, to] = [asked.get('from') ?? '', asked.get('to') ?? ''];
  if (pathname === '/compare' && from !== '' && to !== '')
    return (
      <Link to={lookAtBothAddress(from, to)}>
        <Box size={15} aria-hidden /> Look at both
      </Link>
    );
  const whole = asked.get('item') ?? '';
  const isWithin = pathname === '/trace' || pathname === '/derive';
  if (!isWithin || whole === '' || whole.split('@')[0] === number) return null;
  return (
    <Link to={lookWithinAddress(whole, number, lens)}>
      <Box size={15} aria-hidden /> Look at it in {whole}
    </Link>
  );
}

function isModel({ kind }: ItemView): boolean {
  return kind === 'part' || kind === 'assembly';
}

function FactList({ item }: { readonly item: ItemView }): React.JSX.Element {
  const { mass } = useShowing();
  return (
    <List>
      {item.class === null ? null : <Pair name="class" value={item.class} />}
      {item.properties.map((property) => (
        <Pair key={property.name} name={property.name} value={sayProperty(property, mass)} />
      ))}
      {item.sums.map(({ name, shown }) => (
        <Pair key={`sum of ${name}`} name={`${name} of its parts`} value={shown} />
      ))}
      {isModel(item) ? (
        <Pair name="used in" value={`${item.usedIn} assembl${item.usedIn === 1 ? 'y' : 'ies'}`} />
      ) : null}
      {isModel(item) && item.usedIn > 0 ? (
        <>
          <dt>products</dt>
          <dd>
            <Link to={findAddress(`made of ${quoted(item.number)} unused`)}>Top-level products</Link>
          </dd>
        </>
      ) : null}
      {item.kind === 'assembly' ? (
        <Pair name="made of" value={`${item.madeOf} item${item.madeOf === 1 ? '' : 's'}`} />
      ) : null}
      {item.gaps > 0 ? <Pair name="gaps" value={String(item.gaps)} attention /> : null}
      <Pair name="place" value={item.place} />
      <Pair name="file" value={item.carrier ? `in the file of ${item.carrier}` : item.fileName} />
    </List>
  );
}

function Versions({ item }: { readonly item: ItemView }): React.JSX.Element {
  const [lens] = useLens();
  return (
    <Section>
      <h2>
        <Link to={historyAddress(item.number)}>History</Link>
      </h2>
      {item.versions.map((version) => (
        <Version key={version.version} data-shown={version.version === item.shown || undefined}>
          <div>
            <StateGlyph state={version.state} />
            <Link to={traceAddress(`${item.number}@${version.version}`, lens)}>
              <Mono>{version.version}</Mono>
            </Link>
            <Soft>
              {version.author}, <When at={version.createdAt} />
            </Soft>
            {version.behind > 0 ? (
              <AttentionMark title="Links whose recorded version is not the newest">
                {version.behind} behind
              </AttentionMark>
            ) : null}
          </div>
          {version.comment ? <p>{version.comment}</p> : null}
          <BringBack item={item} version={version.version} />
        </Version>
      ))}
    </Section>
  );
}

/** For the holder: an older version made the newest again. */
function BringBack({
  item,
  version,
}: {
  readonly item: ItemView;
  readonly version: string;
}): React.JSX.Element | null {
  const person = usePerson();
  const deeds = useDeeds();
  if (item.heldBy?.login !== person.login || version === item.version) return null;
  return (
    <QuietButton
      isDisabled={deeds.isBusy}
      onPress={() => deeds.carryOut({ kind: 'bring back', item: `${item.number}@${version}`, comment: '' })}
    >
      Bring {version} back
    </QuietButton>
  );
}

/** What a relation is called, seen from the one that refers and from the one referred to. */
const RELATIONS: Readonly<Record<Relation, readonly [string, string]>> = {
  component: ['made of', 'used in'],
  depicts: ['shows', 'drawing'],
  describes: ['is about', 'document'],
  'draws on': ['draws on', 'needed by'],
};

/** Drawings and documents of a model; of those, what they show or are about. */
function Beside({ item }: { readonly item: ItemView }): React.JSX.Element | null {
  if (item.beside.length === 0) return null;
  return (
    <Section>
      <h2>Drawings and documents</h2>
      {item.beside.map((row) => (
        <p key={`${row.number} ${row.relation} ${row.isUser}`}>
          <StateGlyph state={row.state} /> {RELATIONS[row.relation][row.isUser ? 1 : 0]}{' '}
          <Link to={lookAddress(row.number)}>
            <Mono>{row.number}</Mono>
          </Link>{' '}
          {row.name}
        </p>
      ))}
    </Section>
  );
}

function Lineage({ item }: { readonly item: ItemView }): React.JSX.Element | null {
  if (!item.derivedFrom && item.derivatives.length === 0) return null;
  return (
    <Section>
      <h2>Stem</h2>
      {item.derivedFrom ? (
        <p>
          Derived from{' '}
          <Link to={traceAddress(item.derivedFrom.number)}>
            <Mono>{item.derivedFrom.number}</Mono>
          </Link>{' '}
          <Mono>{item.derivedFrom.originVersion}</Mono> by {item.derivedFrom.derivedBy},{' '}
          <When at={item.derivedFrom.derivedAt} />
        </p>
      ) : null}
      {item.derivatives.map((variant) => (
        <p key={variant.number}>
          Became{' '}
          <Link to={traceAddress(variant.number)}>
            <Mono>{variant.number}</Mono>
          </Link>{' '}
          from <Mono>{variant.originVersion}</Mono>, by {variant.derivedBy}, <When at={variant.derivedAt} />
        </p>
      ))}
    </Section>
  );
}

/** A line of a list of what is known. */
export function Pair({
  name,
  value,
  attention,
}: {
  readonly name: string;
  readonly value: string;
  readonly attention?: boolean;
}): React.JSX.Element {
  return (
    <>
      <dt>{name}</dt>
      <dd>{attention ? <AttentionMark>{value}</AttentionMark> : value}</dd>
    </>
  );
}

const DIGITS = new Intl.NumberFormat('en-GB', { maximumSignificantDigits: 4 });

function sayProperty(property: PropertyValue, mass: Showing['mass']): string {
  if (property.kind !== 'number') return sayValue(property);
  // Large volumes and surfaces are easier to believe in centimetres.
  if (property.unit === 'mm³' && property.value >= 1e4) return `${DIGITS.format(property.value / 1000)} cm³`;
  if (property.unit === 'mm²' && property.value >= 1e4) return `${DIGITS.format(property.value / 100)} cm²`;
  if (property.unit === 'kg' && mass !== 'kg') return sayMass(property.value, mass);
  if (property.unit === 'kg' && property.value < 1) return sayMass(property.value, 'g');
  return `${DIGITS.format(property.value)} ${property.unit}`.trim();
}

/** A number as the heading of what it is. */
export const Number = styled.div`
  font-family: ${font.mono};
  font-size: 18px;
  font-weight: 500;
  overflow-wrap: anywhere;
`;
const Name = styled.h1`
  overflow-wrap: anywhere;
`;
const Facts = styled.p`
  display: flex;
  align-items: center;
  gap: 6px;
  color: ${colour.inkSoft};
  margin: 4px 0;
  white-space: pre-wrap;
`;
const LikeButton = styled.button`
  border: 0;
  background: none;
  color: ${colour.petrol};
  font: inherit;
  cursor: default;
`;
const Actions = styled.nav`
  display: grid;
  gap: 2px;
  a,
  > button {
    display: flex;
    align-items: center;
    gap: 8px;
    padding: 4px 6px;
    border-radius: 4px;
    text-decoration: none;
    font-weight: 500;
  }
  a:hover,
  > button:hover {
    background: ${colour.petrolSoft};
  }
`;
const Section = styled.section`
  display: flex;
  flex-direction: column;
  gap: 8px;
  border-top: 1px solid ${colour.line};
  padding-top: 12px;
`;
/** What is known of something, in pairs. */
export const List = styled.dl`
  display: grid;
  grid-template-columns: 84px 1fr;
  gap: 4px 10px;
  margin: 0;
  dt {
    color: ${colour.inkSoft};
  }
  dd {
    margin: 0;
    overflow-wrap: anywhere;
  }
`;
const Version = styled.div`
  padding-left: 8px;
  border-left: 2px solid ${colour.line};
  &[data-shown] {
    border-left-color: ${colour.petrol};
  }
  > div {
    display: flex;
    align-items: center;
    gap: 6px;
    flex-wrap: wrap;
  }
`;
