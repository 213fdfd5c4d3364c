import {
  Button as AriaButton,
  Input,
  Label,
  Popover,
  TextField as AriaTextField,
  ToggleButton,
  ToggleButtonGroup,
  type Key,
} from 'react-aria-components';
import { useEffect, useRef } from 'react';
import styled, { css } from 'styled-components';
import { colour, font } from './theme.js';

const buttonShape = css`
  display: inline-flex;
  align-items: center;
  gap: 6px;
  min-height: 28px;
  padding: 3px 10px;
  border-radius: 4px;
  font: inherit;
  font-weight: 500;
  cursor: default;
  white-space: nowrap;
  text-decoration: none;
  border: 1px solid ${colour.lineStrong};
  background: ${colour.raised};
  color: ${colour.ink};
  &[data-hovered],
  &:hover {
    border-color: ${colour.petrol};
  }
  &[data-disabled],
  &:disabled {
    color: ${colour.inkSoft};
    border-color: ${colour.line};
    background: ${colour.surface};
  }
  svg {
    flex: none;
  }
`;

export const Button = styled(AriaButton)`
  ${buttonShape}
`;

export const PrimaryButton = styled(AriaButton)`
  ${buttonShape}
  background: ${colour.petrol};
  color: ${colour.onPetrol};
  border-color: ${colour.petrol};
`;

export const QuietButton = styled(AriaButton)`
  ${buttonShape}
  border-color: transparent;
  background: transparent;
  color: ${colour.petrol};
`;

const FieldBox = styled(AriaTextField)`
  display: flex;
  flex-direction: column;
  gap: 3px;
  min-width: 0;
  label {
    color: ${colour.inkSoft};
    font-size: 12px;
  }
`;

const boxShape = css`
  height: 30px;
  border: 1px solid ${colour.lineStrong};
  border-radius: 4px;
  background: ${colour.raised};
  color: ${colour.ink};
  font: inherit;
`;

export const Box = styled(Input)`
  ${boxShape}
  padding: 0 8px;
  min-width: 0;
  width: 100%;
  &::placeholder {
    color: ${colour.inkSoft};
  }
  &[data-mono] {
    font-family: ${font.mono};
  }
`;

export interface FieldProps {
  readonly label: string;
  readonly value: string;
  readonly onChange: (value: string) => void;
  readonly placeholder?: string;
  readonly type?: 'text' | 'password';
  readonly mono?: boolean;
  readonly width?: string;
  readonly takesFocus?: boolean;
}

export function Field({
  label,
  value,
  onChange,
  placeholder,
  type = 'text',
  mono,
  width,
  takesFocus = false,
}: FieldProps): React.JSX.Element {
  const input = useRef<HTMLInputElement>(null);
  useEffect(() => {
    if (takesFocus) input.current?.focus();
  }, [takesFocus]);
  return (
    <FieldBox
      value={value}
      onChange={onChange}
      type={type}
      style={width === undefined ? undefined : { width }}
    >
      <Label>{label}</Label>
      <Box ref={input} placeholder={placeholder} {...(mono ? { 'data-mono': true } : {})} />
    </FieldBox>
  );
}

/** A list that opens when wanted, in the browser's own way. */
export const Select = styled.select`
  ${boxShape}
  padding: 0 6px;
  font-size: 13px;
`;

/** What drops down from a control. */
export const Drop = styled(Popover)`
  background: ${colour.raised};
  border: 1px solid ${colour.lineStrong};
  border-radius: 4px;
  box-shadow: 0 6px 20px #0003;
  padding: 4px;
`;

/** A menu that drops down from a button. */
export const MenuDrop = styled(Drop)`
  [role='menuitem'] {
    display: block;
    padding: 5px 10px;
    border-radius: 3px;
    color: ${colour.ink};
    text-decoration: none;
    cursor: default;
  }
  [role='menuitem'][data-focused] {
    background: ${colour.petrolSoft};
    outline: none;
  }
`;

const PickBox = styled.label`
  display: flex;
  flex-direction: column;
  gap: 3px;
  font-size: 12px;
  color: ${colour.inkSoft};
`;

export interface PickProps {
  readonly label: string;
  readonly options: readonly { readonly key: string; readonly text: string }[];
  readonly value: string;
  readonly onChange: (value: string) => void;
}

/** One of many; the list opens when wanted. */
export function Pick({ label, options, value, onChange }: PickProps): React.JSX.Element {
  return (
    <PickBox>
      {label}
      <Select value={value} onChange={(event) => onChange(event.target.value)}>
        {options.map(({ key, text }) => (
          <option key={key} value={key}>
            {text}
          </option>
        ))}
      </Select>
    </PickBox>
  );
}

const Group = styled(ToggleButtonGroup)`
  display: inline-flex;
  flex: none;
  width: fit-content;
  border: 1px solid ${colour.lineStrong};
  border-radius: 4px;
  overflow: hidden;
  background: ${colour.raised};
  button {
    border: 0;
    border-right: 1px solid ${colour.line};
    background: none;
    color: ${colour.ink};
    font: inherit;
    padding: 4px 10px;
    cursor: default;
    &:last-child {
      border-right: 0;
    }
    &[data-selected] {
      background: ${colour.petrol};
      color: ${colour.onPetrol};
    }
    &[data-focus-visible] {
      outline-offset: -3px;
      outline-color: currentColor;
    }
    &[data-disabled] {
      color: ${colour.inkSoft};
      background: ${colour.surface};
    }
    &[data-disabled][data-selected] {
      background: ${colour.lineStrong};
      color: ${colour.ink};
    }
  }
`;

export interface ChoiceProps<K extends string> {
  readonly label: string;
  readonly options: readonly { readonly key: K; readonly text: string; readonly disabled?: boolean }[];
  readonly value: K;
  readonly onChange: (value: K) => void;
}

/** One of a few, all in sight. */
export function Choice<K extends string>({
  label,
  options,
  value,
  onChange,
}: ChoiceProps<K>): React.JSX.Element {
  const choose = (keys: Set<Key>): void => {
    const chosen = options.find((option) => keys.has(option.key));
    if (chosen) onChange(chosen.key);
  };
  return (
    <Group
      aria-label={label}
      selectionMode="single"
      disallowEmptySelection
      selectedKeys={[value]}
      onSelectionChange={choose}
    >
      {options.map((option) => (
        <ToggleButton key={option.key} id={option.key} isDisabled={option.disabled ?? false}>
          {option.text}
        </ToggleButton>
      ))}
    </Group>
  );
}

export const Mono = styled.span`
  font-family: ${font.mono};
  font-variant-numeric: tabular-nums;
`;

export const Soft = styled.span`
  color: ${colour.inkSoft};
`;

/** A sentence about something that went wrong: what, what was kept, what to do. */
export const Trouble = styled.p.attrs({ role: 'alert' })`
  background: ${colour.copperSoft};
  color: ${colour.ink};
  border-left: 3px solid ${colour.copper};
  padding: 8px 12px;
  border-radius: 2px;
`;

export const Hint = styled.p`
  color: ${colour.inkSoft};
  max-width: 62ch;
`;
