import { Form, Radio } from "antd";
import { useSyncExternalStore } from "react";
import { type Appearance, appearance } from "../../shared/appearance";
import { Themed } from "../../shared/ui/Themed";

const THEMES = [
  { value: "device", label: "As the device" },
  { value: "light", label: "Light" },
  { value: "dark", label: "Dark" },
] satisfies { value: Appearance["theme"]; label: string }[];
const BRIGHTNESS = [
  { value: 1, label: "Paper-white" },
  { value: 0.85, label: "Dimmed" },
  { value: 0.7, label: "Dimmed more" },
];

/** Light or dark, on this device. */
export function AppearanceChoice() {
  const { theme, brightness } = useSyncExternalStore(appearance.subscribe, appearance.chosen);
  const isDark = useSyncExternalStore(appearance.subscribe, appearance.isDark);
  return (
    <section aria-labelledby="appearance">
      <h2 id="appearance">How it looks on this device</h2>
      <Themed>
        <Form layout="vertical">
          <Form.Item label="Colours" htmlFor="colours">
            <Radio.Group
              id="colours"
              optionType="button"
              options={THEMES}
              value={theme}
              onChange={(event) => appearance.choose({ theme: event.target.value as Appearance["theme"] })}
            />
          </Form.Item>
          {isDark && (
            <Form.Item label="Pictures of pages, in the dark" htmlFor="brightness">
              <Radio.Group
                id="brightness"
                optionType="button"
                options={BRIGHTNESS}
                value={brightness}
                onChange={(event) => appearance.choose({ brightness: event.target.value as number })}
              />
            </Form.Item>
          )}
        </Form>
      </Themed>
    </section>
  );
}
