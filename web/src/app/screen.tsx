import { type ComponentType, createElement, lazy, useState } from "react";
import { patiently } from "../shared/patiently";

type Load = () => Promise<{ default: ComponentType }>;
const files = import.meta.glob<{ default: ComponentType }>("../features/*/*.screen.tsx");

/** A screen by its name in `routes.ts`. Its code comes when it is asked for; what has come is drawn without a pause. */
export function screen(name: string) {
  const load = files[`../features/${name}.screen.tsx`];
  if (!load) throw new Error(`There is no screen ${name}.`);
  return drawnWhenThere(load);
}

export function drawnWhenThere(load: Load) {
  let come: ComponentType | null = null;
  const fetched = async () => {
    const part = await load();
    come = part.default;
    return part;
  };
  const Later = lazy(patiently(fetched));
  function Screen() {
    const [Drawn] = useState<ComponentType>(() => come ?? (Later as ComponentType));
    return createElement(Drawn);
  }
  return Object.assign(Screen, { fetch: fetched });
}
