/** "1 page", "6 pages" */
export function count(number: number, one: string, many = `${one}s`): string {
  return `${number} ${number === 1 ? one : many}`;
}

let lists: Intl.ListFormat | undefined;

/** "a, b and c" */
export function list(words: readonly string[]): string {
  if (words.length < 2) return words.join("");
  lists ??= new Intl.ListFormat("en-GB"); // costly to make, and seldom wanted
  return lists.format(words);
}

export function size(bytes: number): string {
  return bytes < 1_000_000 ? `${Math.max(1, Math.round(bytes / 1000))} kB` : `${(bytes / 1_000_000).toFixed(1)} MB`;
}
