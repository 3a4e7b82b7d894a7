import { Input, InputNumber, Radio, Select } from "antd";
import { memo, useCallback, useId, useLayoutEffect, useRef } from "react";
import { Themed } from "./Themed";

interface OneOfMany<Value extends string> {
  value: Value;
  options: readonly { value: Value; label: string }[];
  disabled?: boolean;
  onChange: (value: Value) => void;
}

/** One of a list that opens. `label`: what it chooses, for the ear. */
export function Choice<Value extends string>({ label, onChange, ...props }: OneOfMany<Value> & { label: string }) {
  const id = useId();
  return (
    <>
      <span id={id} className="unseen">
        {label}
      </span>
      <SteadySelect {...props} labelledBy={id} onChange={useSteady(onChange as (value: string) => void)} />
    </>
  );
}

type SelectProps = OneOfMany<string> & { labelledBy: string };

/** Drawn anew only when what it shows changes, not with each key on the board around it. */
const SteadySelect = memo(function SteadySelect({ labelledBy, options, ...props }: SelectProps) {
  return (
    <Themed>
      <Select<string> size="small" aria-labelledby={labelledBy} options={[...options]} popupMatchSelectWidth={false} {...props} />
    </Themed>
  );
});

/** The same function for as long as it is drawn; it does what the newest one does. */
function useSteady<Argument>(newest: (argument: Argument) => void) {
  const kept = useRef(newest);
  useLayoutEffect(() => {
    kept.current = newest;
  });
  return useCallback((argument: Argument) => kept.current(argument), []);
}

/** One of a few that are all in sight. */
export function OneOf<Value extends string>({ label, options, onChange, ...props }: OneOfMany<Value> & { label: string }) {
  return (
    <Themed>
      <Radio.Group
        aria-label={label}
        options={[...options]}
        onChange={(event) => onChange(event.target.value as Value)}
        {...props}
      />
    </Themed>
  );
}

interface NumberProps {
  id: string;
  value: number | null;
  min: number;
  max: number;
  placeholder?: string;
  disabled?: boolean;
  /** Told when the field is left, by Enter, and by its steps. */
  onChange: (value: number | null) => void;
}

/** A whole number; its label stands beside it. */
export function NumberField({ onChange, ...props }: NumberProps) {
  return <SteadyNumber {...props} onChange={useSteady(onChange)} />;
}

const SteadyNumber = memo(function SteadyNumber(props: NumberProps) {
  return (
    <Themed>
      <InputNumber size="small" precision={0} inputMode="numeric" style={{ width: 72 }} changeOnBlur {...props} />
    </Themed>
  );
});

interface TextProps {
  id: string;
  value: string;
  most: number;
  disabled?: boolean;
  /** The button that was pressed has become this field. */
  takesFocus?: boolean;
  onChange: (text: string) => void;
  onBlur: () => void;
}

/** Some lines of text; its label stands beside it. */
export function TextField({ most, takesFocus = false, onChange, ...props }: TextProps) {
  return (
    <Themed>
      <Input.TextArea
        rows={3}
        maxLength={most}
        // eslint-disable-next-line jsx-a11y/no-autofocus -- the button that was pressed has become this field
        autoFocus={takesFocus}
        onChange={(event) => onChange(event.target.value)}
        {...props}
      />
    </Themed>
  );
}
