import "katex/dist/katex.min.css"; // the faces that the field draws with
import { MathfieldElement } from "mathlive";
import { isToField, type MathsFormat, type ToField, type ToPage } from "./messages";
import "./mathsField.css";

/**
 * A page of its own, shown in a frame: the field writes style attributes, which the policy of the application's page
 * forbids and that of this page allows. It talks with the page around it by messages of one origin.
 */
MathfieldElement.fontsDirectory = null;
MathfieldElement.soundsDirectory = null;

const field = new MathfieldElement();
field.setAttribute("aria-label", "Maths");
field.mathVirtualKeyboardPolicy = matchMedia("(pointer: coarse)").matches ? "auto" : "manual";
document.body.append(field);
field.menuItems = [];

let format: MathsFormat = "latex";

function tell(message: ToPage) {
  window.parent.postMessage(message, window.location.origin);
}

field.addEventListener("input", () => tell({ kind: "typed", value: field.getValue(format) }));
field.addEventListener("keydown", (event) => {
  if (event.key === "Escape") tell({ kind: "escape" });
  if (event.key !== "Enter" || event.shiftKey) return;
  tell({ kind: "typed", value: field.getValue(format) }); // the field tells of the last keys only after a moment
  tell({ kind: "enter" });
});
window.addEventListener("message", (event: MessageEvent<unknown>) => {
  if (event.origin !== window.location.origin || !isToField(event.data)) return;
  const { value, dark }: ToField = event.data;
  format = event.data.format;
  document.documentElement.dataset["dark"] = String(dark);
  field.setValue(value, { format, silenceNotifications: true });
  field.focus();
});
tell({ kind: "ready" });
