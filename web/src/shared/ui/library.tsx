/** The controls that `later` fetches: one file, so that they come together. */
export { AskOnce } from "./AskOnce";
export { Dialog } from "./Dialog";
export { Explanation } from "./Explanation";
export { Choice, NumberField, OneOf, TextField } from "./fields";
