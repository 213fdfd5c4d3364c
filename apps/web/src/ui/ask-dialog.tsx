import { useState, type ReactNode } from 'react';
import { Form } from 'react-aria-components';
import styled from 'styled-components';
import { Button, Field, Pick, PrimaryButton, Trouble } from './controls.js';
import { DialogButtons, DialogFrame } from './dialog-frame.js';
import { isTexts, Restored, useDraft } from './draft.js';

export interface AskedField {
  readonly key: string;
  readonly label: string;
  readonly value: string;
  readonly type?: 'text' | 'password';
  /** A field of another kind, such as a picker. */
  readonly render?: (
    value: string,
    onChange: (value: string) => void,
    answers: Readonly<Record<string, string>>,
  ) => ReactNode;
  /** One of these, instead of any text. */
  readonly options?: readonly { readonly key: string; readonly text: string }[];
}

export interface AskDialogProps {
  readonly title: string;
  readonly action: string;
  /** What it will do, before it does. */
  readonly says?: ReactNode;
  readonly fields: readonly AskedField[];
  /** Carries out; what it throws is shown, and the dialog stays open with what was typed. */
  readonly onAnswer: (answers: Readonly<Record<string, string>>) => Promise<unknown>;
  readonly onClose: () => void;
}

/** Asks for a few texts and carries something out with them. */
export function AskDialog({
  title,
  action,
  says,
  fields,
  onAnswer,
  onClose,
}: AskDialogProps): React.JSX.Element {
  const isSecret = fields.some(({ type }) => type === 'password');
  const draft = useDraft(
    isSecret ? undefined : title,
    isTexts,
    Object.fromEntries(fields.map(({ key, value }) => [key, value])),
  );
  const answers = draft.value;
  const [trouble, setTrouble] = useState('');
  const submit = async (): Promise<void> => {
    try {
      await onAnswer(answers);
      draft.forget();
      onClose();
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <DialogFrame title={title} widthPx={440} onClose={onClose}>
      <Fields
        onSubmit={(event) => {
          event.preventDefault();
          void submit();
        }}
      >
        {says === undefined ? null : <div>{says}</div>}
        <Restored draft={draft} />
        {fields.map(({ key, label, type = 'text', options, render }, index) => {
          const answer = {
            value: answers[key] ?? '',
            onChange: (value: string) => draft.set({ ...answers, [key]: value }),
          };
          if (render) return <div key={key}>{render(answer.value, answer.onChange, answers)}</div>;
          return options ? (
            <Pick key={key} label={label} options={options} {...answer} />
          ) : (
            <Field key={key} label={label} type={type} {...answer} takesFocus={index === 0} />
          );
        })}
        {trouble === '' ? null : <Trouble>{trouble}</Trouble>}
        <DialogButtons>
          <Button
            onPress={() => {
              draft.forget();
              onClose();
            }}
          >
            Cancel
          </Button>
          <PrimaryButton type="submit">{action}</PrimaryButton>
        </DialogButtons>
      </Fields>
    </DialogFrame>
  );
}

const Fields = styled(Form)`
  display: grid;
  gap: 12px;
`;
