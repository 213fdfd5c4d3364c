import { useEffect, useRef, type ReactNode } from 'react';
import { Dialog, Heading, Modal, ModalOverlay } from 'react-aria-components';
import styled from 'styled-components';
import { colour, size } from './theme.js';

export interface DialogFrameProps {
  readonly title: string;
  readonly widthPx: number;
  readonly isOpen?: boolean;
  /** Whether the margin stays in sight, where it is open and there is room. */
  readonly isBesideMargin?: boolean;
  readonly onClose: () => void;
  readonly children: ReactNode;
}

/** A dialog over the sheet; Escape and a click beside it close it. */
export function DialogFrame({
  title,
  widthPx,
  isOpen = true,
  isBesideMargin = false,
  onClose,
  children,
}: DialogFrameProps): React.JSX.Element {
  const beginsBeside = useBeginsBeside();
  return (
    <Overlay
      {...{ [SHADE]: '' }}
      data-beside={isBesideMargin || undefined}
      isOpen={isOpen}
      onOpenChange={(open) => (open ? undefined : onClose())}
      isDismissable
      shouldCloseOnInteractOutside={beginsBeside}
    >
      <Modal>
        <Dialog style={{ width: widthPx }}>
          <Heading slot="title">{title}</Heading>
          {children}
        </Dialog>
      </Modal>
    </Overlay>
  );
}

/** What ends a dialog, at its lower right. */
export const DialogButtons = styled.div`
  display: flex;
  justify-content: flex-end;
  gap: 8px;
`;

/**
 * Whether a click began on the shade around the dialog. A list above the dialog may close in the midst of a click on it, whose end
 * then falls on the shade; that is no wish to close the dialog.
 */
function useBeginsBeside(): () => boolean {
  const began = useRef<EventTarget | null>(null);
  useEffect(() => {
    const begin = ({ target }: PointerEvent): void => {
      began.current = target;
    };
    document.addEventListener('pointerdown', begin, true);
    return () => document.removeEventListener('pointerdown', begin, true);
  }, []);
  return () => began.current instanceof Element && began.current.matches(`[${SHADE}]`);
}

const SHADE = 'data-dialog-shade';

const Overlay = styled(ModalOverlay)`
  position: fixed;
  inset: 0;
  display: grid;
  place-items: center;
  background: #0006;
  z-index: 10;
  @media (min-width: ${size.narrow}) {
    &[data-beside] {
      right: ${size.margin};
    }
  }
  [role='dialog'] {
    max-width: calc(100vw - 24px);
  }
  section {
    max-height: 84vh;
    display: flex;
    flex-direction: column;
    gap: 12px;
    background: ${colour.raised};
    color: ${colour.ink};
    border-radius: 6px;
    padding: 18px 22px;
    outline: none;
  }
  h2 {
    margin: 0;
    font-size: 16px;
  }
`;
