import { type Arrangement, carriedTo, type Change, eachField, type Kind, type Spots } from "./arrangement";

/** A page that was taken again, and the one that stands for it. */
export interface Retake {
  old: number;
  came: number;
}

/** What was taken again between two states of the server. Null where something else happened. */
export function retakenBetween(before: Arrangement, after: Arrangement): Retake | null {
  const [old, ...moreRemoved] = after.removed.filter((page) => !before.removed.includes(page));
  const [came, ...moreCame] = after.order.filter((page) => !before.order.includes(page));
  if (old === undefined || came === undefined || moreRemoved.length + moreCame.length > 0) return null;
  const order = after.order.filter((page) => page !== came);
  return order.join() === before.order.join() ? { old, came } : null;
}

/**
 * The state before a page was taken again, with the new picture among the removed ones, so that one undo brings the
 * old picture back and loses neither.
 */
export function beforeRetake(before: Arrangement, { old, came }: Retake): Arrangement {
  const order = before.order.flatMap((page) => (page === old ? [old, came] : [page]));
  return { ...before, order, removed: [...before.removed, came] };
}

/** A change that was made before a page was taken again, made after it: what it did to the page, it does to the new one. */
export function throughRetake(change: Change, { old, came }: Retake): Change {
  return (now) => {
    const others = { ...now, order: now.order.filter((page) => page !== old) };
    const seen = renamed(carriedTo(now, others), came, old);
    const done = renamed(change(seen), old, came);
    const kept = carriedTo(now, { ...now, order: [old] }); // the old picture, as it is
    const joined: Record<Kind, (value: never, ofOld: never) => unknown> = {
      order: (pages: number[]) => pages.flatMap((page) => (page === came ? [old, came] : [page])),
      pages: (pages: number[], ofOld: number[]) => [...pages, ...ofOld],
      placements: (row: Spots, ofOld: Spots) =>
        Object.fromEntries([...new Set([...Object.keys(ofOld), ...Object.keys(row)])].map((one) => [one, [...(ofOld[one] ?? []), ...(row[one] ?? [])]])),
      "by page": (row: object, ofOld: object) => ({ ...row, ...ofOld }),
      questions: (questions: string[]) => questions,
      plain: (value: unknown) => value,
    };
    return eachField((kind, name) => joined[kind](done[name] as never, kept[name] as never));
  };
}

/** The same arrangement with one page under another id. */
function renamed(a: Arrangement, from: number, to: number): Arrangement {
  const page = (id: number) => (id === from ? to : id);
  const pages = (ids: number[]) => ids.map(page);
  const named: Record<Kind, (value: never) => unknown> = {
    order: pages,
    pages,
    placements: (row: Spots) =>
      Object.fromEntries(Object.entries(row).map(([one, spots]) => [one, spots.map((spot) => ({ ...spot, page: page(spot.page) }))])),
    "by page": (row: object) => Object.fromEntries(Object.entries(row).map(([id, value]) => [page(Number(id)), value])),
    questions: (questions: string[]) => questions,
    plain: (value: unknown) => value,
  };
  return eachField((kind, name) => named[kind](a[name] as never));
}
