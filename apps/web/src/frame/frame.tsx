import type { PersonView } from '@stem-trace/contract';
import {
  ArrowLeftRight,
  Blocks,
  ClipboardList,
  FolderInput,
  GitFork,
  Keyboard,
  LampDesk,
  LogOut,
  PanelRightClose,
  PanelRightOpen,
  Replace,
  Route,
  Search,
  Settings,
} from 'lucide-react';
import { useMemo, useRef, useState, type RefObject } from 'react';
import { NavLink, Outlet, useLocation, useNavigate } from 'react-router';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import styled from 'styled-components';
import { send } from '../api/client.js';
import { noticesQuery } from '../api/custody.js';
import { QuietButton } from '../ui/controls.js';
import { ErrorBoundary } from '../ui/error-boundary.js';
import { colour, font, size } from '../ui/theme.js';
import { useIsNarrow } from '../ui/use-narrow.js';
import { useLens } from './addresses.js';
import { BeginDialog } from './begin-dialog.js';
import { useDesk } from './desk.js';
import { DropAnywhere } from './drop-anywhere.js';
import { FindBox } from './find-box.js';
import { KeysDialog } from './keys-dialog.js';
import { useKeys, type KeyBinding } from './keys.js';
import { LensChoice, nextLens, usesLens } from './lens-choice.js';
import { Margin } from './margin.js';
import { SignInAgain } from './sign-in-again.js';
import { Tray } from './tray.js';
import { useFeed } from './use-feed.js';

const SCREENS = [
  { to: '/desk', key: '0', title: 'Desk', icon: LampDesk },
  { to: '/find', key: '1', title: 'Find', icon: Search },
  { to: '/trace', key: '2', title: 'Trace', icon: Route },
  { to: '/compare', key: '3', title: 'Compare', icon: ArrowLeftRight },
  { to: '/derive', key: '4', title: 'Derive', icon: GitFork },
  { to: '/build', key: '5', title: 'Build', icon: Blocks },
  { to: '/change', key: '6', title: 'Change', icon: Replace },
  { to: '/work', key: '7', title: 'Work', icon: ClipboardList },
  { to: '/intake', key: '8', title: 'Intake', icon: FolderInput },
] as const;

/** Rail, top line, sheet, margin and tray: what stays while places change. */
export function Frame({ person }: { readonly person: PersonView }): React.JSX.Element {
  const desk = useDesk();
  const { pathname } = useLocation();
  const [opened, open] = useState<'keys' | 'begin'>();
  const box = useRef<HTMLInputElement>(null);
  const { toggleMargin } = desk;
  // The margin is a sheet over the table where there is no room beside it.
  const isNarrow = useIsNarrow();
  const bindings = useBindings({ box, open });
  useKeys(bindings);
  useFeed();
  const unread = useQuery(noticesQuery).data?.unread ?? 0;
  return (
    <Desk
      data-margin={(desk.marginOpen && !isNarrow) || undefined}
      data-tray={desk.tray.length > 0 || undefined}
    >
      <Rail aria-label="Screens">
        {SCREENS.map(({ to, title, icon: Icon }) => (
          <NavLink key={to} to={to}>
            <Icon size={19} aria-hidden />
            {title}
            {to === '/work' && unread > 0 ? <Unread aria-label={`${unread} unread`}>{unread}</Unread> : null}
          </NavLink>
        ))}
        <Foot person={person} />
      </Rail>
      <TopLine>
        <FindBox box={box} onBegin={() => open('begin')} />
        <Spacer />
        <LensChoice />
        <QuietButton aria-label="Keys" onPress={() => open('keys')}>
          <Keyboard size={16} />
        </QuietButton>
        <QuietButton
          aria-label={desk.marginOpen ? 'Fold the margin away' : 'Open the margin'}
          aria-expanded={desk.marginOpen}
          onPress={toggleMargin}
        >
          {desk.marginOpen ? <PanelRightClose size={16} /> : <PanelRightOpen size={16} />}
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
      <DropAnywhere />
      <SignInAgain />
      <KeysDialog isOpen={opened === 'keys'} onClose={() => open(undefined)} bindings={bindings} />
      {opened === 'begin' ? <BeginDialog onClose={() => open(undefined)} /> : null}
    </Desk>
  );
}

/** The keys that work everywhere. */
function useBindings({
  box,
  open,
}: {
  readonly box: RefObject<HTMLInputElement | null>;
  readonly open: (dialog: 'keys' | 'begin') => void;
}): readonly KeyBinding[] {
  const navigate = useNavigate();
  const { pathname } = useLocation();
  const [lens, setLens] = useLens();
  const { toggleMargin } = useDesk();
  return useMemo<KeyBinding[]>(
    () => [
      { key: '/', says: 'Find box', run: () => box.current?.focus() },
      {
        key: 'l',
        says: 'Next lens, where it changes what is seen',
        run: () => usesLens(pathname) && setLens(nextLens(lens)),
      },
      { key: 'i', says: 'Fold or open the margin', run: toggleMargin },
      { key: '+', says: 'Begin an item with a template', run: () => open('begin') },
      { key: '?', says: 'These keys', run: () => open('keys') },
      ...SCREENS.map(({ to, key, title }) => ({ key, says: title, run: () => void navigate(to) })),
    ],
    [box, open, lens, setLens, pathname, toggleMargin, navigate],
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
  gap: 8px;
  padding: 0 14px;
  min-width: 0;
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
