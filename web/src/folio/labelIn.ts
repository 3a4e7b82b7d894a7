/** The question in an address like `#2b`; "" for none, and for what is not one of our addresses. */
export function labelIn(hash: string): string {
  try {
    return decodeURIComponent(hash.slice(1));
  } catch {
    return "";
  }
}
