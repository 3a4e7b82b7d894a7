import { useMutation } from "@tanstack/react-query";
import { Form, Input } from "antd";
import { Button } from "../../shared/ui/Button";
import { Themed } from "../../shared/ui/Themed";
import { Trouble } from "../../shared/ui/Trouble";
import { askSecret } from "./cameraLine";

interface Fields {
  letters: string;
  figures: string;
}

/** The address was typed by hand: the figures that the computer shows prove that one sits before it. */
export function Typed({ letters, onSecret }: { letters: string; onSecret: (secret: string) => void }) {
  const ask = useMutation({
    mutationFn: (typed: Fields) => askSecret(letters || typed.letters, typed.figures),
    onSuccess: onSecret,
  });
  return (
    <main className="camera camera-words">
      <h1>Inked Folio camera</h1>
      {ask.error && <Trouble error={ask.error} />}
      <Themed>
        <Form layout="vertical" size="large" requiredMark={false} className="camera-typed" onFinish={(typed: Fields) => ask.mutate(typed)}>
          {!letters && (
            <Form.Item
              name="letters"
              label="Letters at the end of the address on the computer's screen"
              rules={[{ required: true, message: "Type the letters." }]}
            >
              <Input autoCapitalize="characters" autoComplete="off" spellCheck={false} maxLength={40} />
            </Form.Item>
          )}
          <Form.Item
            name="figures"
            label={`The six figures ${letters ? "on the computer's screen" : "beside them"}`}
            rules={[{ required: true, pattern: /^\s*\d{3}\s*\d{3}\s*$/, message: "Type all six figures." }]}
          >
            {/* eslint-disable-next-line jsx-a11y/no-autofocus -- the screen is for nothing else than this field */}
            <Input autoFocus={letters !== ""} inputMode="numeric" autoComplete="one-time-code" maxLength={9} />
          </Form.Item>
          <Button first type="submit" busy={ask.isPending}>
            Link this phone
          </Button>
        </Form>
      </Themed>
    </main>
  );
}
