import { Input, InputNumber, Radio, Select } from "antd";
import { Themed } from "./Themed";

interface OneOfMany<Value extends string> {
  value: Value;
  options: readonly { value: Value; label: string }[];
  disabled?: boolean;
  onChange: (value: Value) => void;
}

/** One of a list that opens. `label`: what it chooses, for the ear. */
export function Choice<Value extends string>({ label, options, ...props }: OneOfMany<Value> & { label: string }) {
  return (
    <Themed>
      <Select<Value> size="small" aria-label={label} options={[...options]} popupMatchSelectWidth={false} {...props} />
    </Themed>
  );
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
  return (
    <Themed>
      <InputNumber size="small" precision={0} inputMode="numeric" style={{ width: 72 }} changeOnBlur onChange={onChange} {...props} />
    </Themed>
  );
}

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
