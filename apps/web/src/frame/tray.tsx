import { useState } from 'react';
import { useNavigate } from 'react-router';
import styled from 'styled-components';
import { useDeeds, type Deeds } from '../api/custody.js';
import { Button, Mono, QuietButton, Trouble } from '../ui/controls.js';
import { colour, size } from '../ui/theme.js';
import { compareAddress, deriveAddress, lookAddress, traceAddress } from './addresses.js';
import { AlignDialog } from './align-dialog.js';
import { CheckOutDialog } from './check-out-dialog.js';
import { CommonDialog } from './common-dialog.js';
import { useDesk } from './desk.js';
import { usePerson } from './person.js';
import { PropertiesDialog } from './properties-dialog.js';
import { MoveDialog } from './rename-actions.js';
import { RequestDialog } from './request-dialog.js';
import { TraySteps } from './tray-steps.js';

/** The picked items, and what can be done with just these. */
export function Tray(): React.JSX.Element {
  const deeds = useDeeds();
  const { tray, clearTray, toggleInTray } = useDesk();
  const person = usePerson();
  const [asking, setAsking] = useState<Asking>();
  const numbers = tray.map(({ number }) => number);
  return (
    <TrayStrip aria-label="Tray">
      <strong>{tray.length} picked</strong>
      <Chips>
        {tray.map((item) => (
          <Chip
            key={item.number}
            title={`${item.name} — click to put back`}
            onClick={() => toggleInTray(item)}
          >
            <Mono>{item.number}</Mono>
          </Chip>
        ))}
      </Chips>
      <Ways numbers={numbers} onCommon={() => setAsking('common')} />
      <Button isDisabled={deeds.isBusy} onPress={() => setAsking('check out')}>
        Check out …
      </Button>
      <TraySteps numbers={numbers} />
      {person.role === 'viewer' ? null : (
        <Button onPress={() => setAsking('request')}>Request a change …</Button>
      )}
      <Button onPress={() => setAsking('move')}>Move …</Button>
      <Button onPress={() => setAsking('properties')}>Properties …</Button>
      {person.role === 'checker' || person.role === 'administrator' ? (
        <Button onPress={() => setAsking('align')}>Align revisions …</Button>
      ) : null}
      <TrayDialogs {...{ asking, numbers, deeds }} onClose={() => setAsking(undefined)} />
      {deeds.refusals.length > 0 ? <Trouble>{deeds.refusals.join('; ')}</Trouble> : null}
      <QuietButton onPress={clearTray}>Empty the tray</QuietButton>
    </TrayStrip>
  );
}

type Asking = 'properties' | 'align' | 'common' | 'check out' | 'move' | 'request' | undefined;

interface TrayDialogsProps {
  readonly asking: Asking;
  readonly numbers: readonly string[];
  readonly deeds: Deeds;
  readonly onClose: () => void;
}

/** What is asked for before something is done with all of them. */
function TrayDialogs({ asking, numbers, deeds, onClose }: TrayDialogsProps): React.JSX.Element {
  return (
    <>
      {asking === 'properties' ? (
        <PropertiesDialog items={numbers} values={[]} itemClass={null} onClose={onClose} />
      ) : null}
      {asking === 'check out' ? (
        <CheckOutDialog
          items={numbers}
          onChosen={(items, reason, change) => deeds.carryOut({ kind: 'check out', items, reason, change })}
          onClose={onClose}
        />
      ) : null}
      {asking === 'move' ? <MoveDialog items={numbers} onClose={onClose} /> : null}
      {asking === 'common' ? <CommonDialog items={numbers} onClose={onClose} /> : null}
      {asking === 'request' ? <RequestDialog items={numbers} onClose={onClose} /> : null}
      {asking === 'align' ? <AlignDialog items={numbers} onClose={onClose} /> : null}
    </>
  );
}

/** Where one can go with so many. */
function Ways({
  numbers,
  onCommon,
}: {
  readonly numbers: readonly string[];
  readonly onCommon: () => void;
}): React.JSX.Element {
  const navigate = useNavigate();
  const [first = '', second = ''] = numbers;
  const isOne = numbers.length === 1;
  return (
    <>
      <Button isDisabled={!isOne} onPress={() => void navigate(traceAddress(first))}>
        Trace
      </Button>
      <Button isDisabled={!isOne} onPress={() => void navigate(lookAddress(first))}>
        Look
      </Button>
      <Button isDisabled={numbers.length !== 2} onPress={() => void navigate(compareAddress(first, second))}>
        Compare the two
      </Button>
      <Button isDisabled={numbers.length < 2} onPress={onCommon}>
        Common assemblies
      </Button>
      <Button isDisabled={!isOne} onPress={() => void navigate(deriveAddress(first))}>
        Derive
      </Button>
    </>
  );
}

const TrayStrip = styled.section`
  grid-area: tray;
  min-height: ${size.tray};
  display: flex;
  align-items: center;
  gap: 8px;
  flex-wrap: wrap;
  padding: 6px 14px;
  background: ${colour.surface};
  border-top: 2px solid ${colour.petrol};
`;
const Chips = styled.div`
  flex: 1 1 160px;
  display: flex;
  gap: 6px;
  overflow-x: auto;
  min-width: 0;
`;
const Chip = styled.button`
  border: 1px solid ${colour.line};
  background: ${colour.raised};
  color: ${colour.ink};
  border-radius: 3px;
  padding: 2px 8px;
  font: inherit;
  white-space: nowrap;
  cursor: default;
  &:hover {
    border-color: ${colour.copper};
    text-decoration: line-through;
  }
`;
