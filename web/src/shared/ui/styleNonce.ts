/** The nonce of this page: its policy takes only styles that carry it. */
export const nonce = document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.content ?? "";

/**
 * Ant Design puts its styles in with the nonce it is given, but for two corners of its own (locking the scroll behind a
 * dialog, measuring a scroll bar), which forget it. Every style element that this page's scripts make carries it.
 */
const make = document.createElement.bind(document);
document.createElement = ((name: string, options?: ElementCreationOptions) => {
  const element = make(name, options);
  if (element instanceof HTMLStyleElement) element.nonce = nonce;
  return element;
}) as typeof document.createElement;
