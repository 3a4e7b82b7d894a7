import { useMutation } from "@tanstack/react-query";
import { useId, useState } from "react";
import { Trouble } from "../../shared/ui/Trouble";
import { askSecret } from "./cameraLine";

/** The address was typed by hand: the figures that the computer shows prove that one sits before it. */
export function Typed({ letters: given, onSecret }: { letters: string; onSecret: (secret: string) => void }) {
  const id = useId();
  const [letters, setLetters] = useState(given);
  const [figures, setFigures] = useState("");
  const ask = useMutation({ mutationFn: () => askSecret(letters, figures), onSuccess: onSecret });
  return (
    <main className="camera camera-words">
      <h1>Inked Folio camera</h1>
      <form
        className="camera-typed"
        onSubmit={(event) => {
          event.preventDefault();
          ask.mutate();
        }}
      >
        {!given && (
          <p>
            <label htmlFor={`${id}l`}>Letters at the end of the address on the computer's screen</label>
            <input id={`${id}l`} value={letters} autoCapitalize="characters" autoComplete="off" spellCheck={false} onChange={(event) => setLetters(event.target.value)} />
          </p>
        )}
        <p>
          <label htmlFor={`${id}f`}>The six figures {given ? "on the computer's screen" : "beside them"}</label>
          <input
            id={`${id}f`}
            value={figures}
            // eslint-disable-next-line jsx-a11y/no-autofocus -- the screen is for nothing else than this field
            autoFocus={given !== ""}
            inputMode="numeric"
            autoComplete="one-time-code"
            maxLength={9}
            onChange={(event) => setFigures(event.target.value)}
          />
        </p>
        {ask.error && <Trouble error={ask.error} />}
        <p className="shooting-buttons">
          <button type="submit" className="shooting-first" disabled={!letters.trim() || figures.replace(/\D/g, "").length !== 6 || ask.isPending}>
            Link this phone
          </button>
        </p>
      </form>
    </main>
  );
}
