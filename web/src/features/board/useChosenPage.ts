import { useState } from "react";

/** The page that is looked at, kept in this browser: whoever comes back finds the board where it was left. */
export function useChosenPage(folioId: number): [number | null, (page: number) => void] {
  const name = `inked-folio-page-${folioId}`;
  const [chosen, choose] = useState(() => kept(name));
  const keep = (page: number) => {
    choose(page);
    try {
      localStorage.setItem(name, String(page));
    } catch {
      // a browser that keeps nothing begins at the first page
    }
  };
  return [chosen, keep];
}

function kept(name: string): number | null {
  try {
    return Number(localStorage.getItem(name)) || null;
  } catch {
    return null;
  }
}
