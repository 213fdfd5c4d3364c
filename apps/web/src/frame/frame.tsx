import type { PersonView } from '@stem-trace/contract';
import {
  ArrowLeftRight,
  ClipboardList,
  FolderInput,
  GitFork,
  Keyboard,
  LogOut,
  Route,
  Search,
  Settings,
} from 'lucide-react';
import { useMemo, useRef, useState } from 'react';
import { NavLink, Outlet, useLocation, useNavigate } from 'react-router';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import styled from 'styled-components';
import { send } from '../api/client.js';
import { noticesQuery } from '../api/custody.js';
import { QuietButton } from '../ui/controls.js';
import { ErrorBoundary } from '../ui/error-boundary.js';
import { colour, font, size } from '../ui/theme.js';
import { useLens } from './addresses.js';
import { useDesk } from './desk.js';
import { FindBox } from './find-box.js';
import { KeysDialog } from './keys-dialog.js';
import { useKeys, type KeyBinding } from './keys.js';
import { LensChoice, nextLens } from './lens-choice.js';
import { Margin } from './margin.js';
import { Tray } from './tray.js';
import { useFeed } from './use-feed.js';

const PLACES = [
  { to: '/find', title: 'Find', icon: Search },
  { to: '/trace', title: 'Trace', icon: Route },
  { to: '/compare', title: 'Compare', icon: ArrowLeftRight },
  { to: '/derive', title: 'Derive', icon: GitFork },
  { to: '/work', title: 'Work', icon: ClipboardList },
  { to: '/intake', title: 'Intake', icon: FolderInput },
] as const;

/** Rail, top line, sheet, margin and tray: what stays while places change. */
export function Frame({ person }: { readonly person: PersonView }): React.JSX.Element {
  const desk = useDesk();
  const navigate = useNavigate();
  const { pathname } = useLocation();
  const [lens, setLens] = useLens();
  const [keysShown, showKeys] = useState(false);
  const box = useRef<HTMLInputElement>(null);
  const { toggleMargin } = desk;
  const bindings = useMemo<KeyBinding[]>(
    () => [
      { key: '/', says: 'Find box', run: () => box.current?.focus() },
      { key: 'l', says: 'Next lens', run: () => setLens(nextLens(lens)) },
      { key: 'i', says: 'Fold or open the margin', run: toggleMargin },
      { key: '?', says: 'These keys', run: () => showKeys(true) },
      ...PLACES.map(({ to, title }, index) => ({
        key: String(index + 1),
        says: title,
        run: () => void navigate(to),
      })),
    ],
    [lens, setLens, toggleMargin, navigate],
  );
  useKeys(bindings);
  useFeed();
  const unread = useQuery(noticesQuery).data?.unread ?? 0;
  return (
    <Desk data-margin={desk.marginOpen || undefined} data-tray={desk.tray.length > 0 || undefined}>
      <Rail aria-label="Places">
        {PLACES.map(({ to, title, icon: Icon }) => (
          <NavLink key={to} to={to}>
            <Icon size={19} aria-hidden />
            {title}
            {to === '/work' && unread > 0 ? <Unread aria-label={`${unread} unread`}>{unread}</Unread> : null}
          </NavLink>
        ))}
        <Foot person={person} />
      </Rail>
      <TopLine>
        <FindBox box={box} />
        <Spacer />
        <LensChoice />
        <QuietButton aria-label="Keys" onPress={() => showKeys(true)}>
          <Keyboard size={16} />
        </QuietButton>
      </TopLine>
      <Sheet>
        <ErrorBoundary key={pathname}>
          <Outlet />
        </ErrorBoundary>
      </Sheet>
      {desk.marginOpen ? (
        <ErrorBoundary key={desk.underCursor}>
          <Margin />
        </ErrorBoundary>
      ) : null}
      {desk.tray.length > 0 ? <Tray /> : null}
      <KeysDialog isOpen={keysShown} onClose={() => showKeys(false)} bindings={bindings} />
    </Desk>
  );
}

function Foot({ person }: { readonly person: PersonView }): React.JSX.Element {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const leave = async (): Promise<void> => {
    await send('DELETE', '/api/session');
    queries.clear();
    void navigate('/');
    window.location.reload();
  };
  return (
    <RailFoot>
      <Initials title={`${person.name}, ${person.role}`}>{person.initials}</Initials>
      <NavLink to="/settings" aria-label="Settings">
        <Settings size={17} aria-hidden />
      </NavLink>
      <QuietButton aria-label="Sign out" onPress={() => void leave()}>
        <LogOut size={16} />
      </QuietButton>
    </RailFoot>
  );
}

const Desk = styled.div`
  display: grid;
  height: 100%;
  grid-template:
    'rail top top' ${size.topLine} 'rail sheet margin' minmax(0, 1fr)
    'rail tray tray' auto / ${size.rail} minmax(0, 1fr) 0;
  &[data-margin] {
    grid-template-columns: ${size.rail} minmax(0, 1fr) ${size.margin};
  }
`;
const Rail = styled.nav`
  grid-area: rail;
  display: flex;
  flex-direction: column;
  padding: 8px 0;
  background: ${colour.surface};
  border-right: 1px solid ${colour.line};
  a {
    display: flex;
    flex-direction: column;
    align-items: center;
    gap: 3px;
    padding: 9px 0;
    font-size: 11px;
    color: ${colour.inkSoft};
    text-decoration: none;
    border-left: 3px solid transparent;
    border-right: 3px solid transparent;
  }
  a:hover {
    color: ${colour.petrol};
  }
  a.active {
    color: ${colour.petrol};
    border-left-color: ${colour.petrol};
    font-weight: 600;
  }
`;
const Unread = styled.span`
  position: absolute;
  margin: -4px 0 0 30px;
  min-width: 17px;
  padding: 0 4px;
  border-radius: 9px;
  text-align: center;
  font: 600 10.5px/17px ${font.mono};
  color: ${colour.raised};
  background: ${colour.copper};
`;
const RailFoot = styled.div`
  margin-top: auto;
  display: flex;
  flex-direction: column;
  align-items: center;
  gap: 4px;
`;
const Initials = styled.span`
  font-family: ${font.mono};
  font-size: 12px;
  padding: 3px 8px 3px 6px;
  color: ${colour.petrol};
  background: ${colour.petrolSoft};
  clip-path: polygon(0 0, 100% 0, 100% 65%, 82% 100%, 0 100%);
`;
const TopLine = styled.header`
  grid-area: top;
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 0 14px;
  background: ${colour.surface};
  border-bottom: 1px solid ${colour.line};
  color: ${colour.inkSoft};
`;
const Spacer = styled.span`
  flex: 1;
`;
const Sheet = styled.main`
  grid-area: sheet;
  min-width: 0;
  min-height: 0;
  display: flex;
  flex-direction: column;
  padding: 14px;
  gap: 12px;
  overflow: auto;
`;
