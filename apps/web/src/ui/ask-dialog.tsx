import { useState } from 'react';
import { Dialog, Form, Heading, Modal, ModalOverlay } from 'react-aria-components';
import styled from 'styled-components';
import { Button, Field, PrimaryButton, Trouble } from './controls.js';
import { colour } from './theme.js';

export interface AskedField {
  readonly key: string;
  readonly label: string;
  readonly value: string;
}

export interface AskDialogProps {
  readonly title: string;
  readonly action: string;
  readonly fields: readonly AskedField[];
  /** Carries out; what it throws is shown, and the dialog stays open with what was typed. */
  readonly onAnswer: (answers: Readonly<Record<string, string>>) => Promise<unknown>;
  readonly onClose: () => void;
}

/** Asks for a few texts and carries something out with them. */
export function AskDialog({ title, action, fields, onAnswer, onClose }: AskDialogProps): React.JSX.Element {
  const [answers, setAnswers] = useState(() =>
    Object.fromEntries(fields.map(({ key, value }) => [key, value])),
  );
  const [trouble, setTrouble] = useState('');
  const submit = async (): Promise<void> => {
    try {
      await onAnswer(answers);
      onClose();
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <Overlay isOpen onOpenChange={(open) => (open ? undefined : onClose())} isDismissable>
      <Modal>
        <Dialog>
          <Heading slot="title">{title}</Heading>
          <Form
            onSubmit={(event) => {
              event.preventDefault();
              void submit();
            }}
          >
            {fields.map(({ key, label }) => (
              <Field
                key={key}
                label={label}
                value={answers[key] ?? ''}
                onChange={(value) => setAnswers({ ...answers, [key]: value })}
              />
            ))}
            {trouble === '' ? null : <Trouble>{trouble}</Trouble>}
            <Buttons>
              <Button onPress={onClose}>Cancel</Button>
              <PrimaryButton type="submit">{action}</PrimaryButton>
            </Buttons>
          </Form>
        </Dialog>
      </Modal>
    </Overlay>
  );
}

const Overlay = styled(ModalOverlay)`
  position: fixed;
  inset: 0;
  display: grid;
  place-items: center;
  background: #0006;
  z-index: 10;
  section {
    width: 440px;
    background: ${colour.raised};
    color: ${colour.ink};
    border-radius: 6px;
    padding: 18px 22px;
    outline: none;
  }
  h2 {
    margin: 0 0 12px;
    font-size: 16px;
  }
  form {
    display: grid;
    gap: 12px;
  }
`;
const Buttons = styled.div`
  display: flex;
  justify-content: flex-end;
  gap: 8px;
`;
