import { type ComponentType, createElement, lazy, useState } from "react";
import { patiently } from "../shared/patiently";

/** A screen whose code comes when it is asked for. What has come already is drawn at once, without a pause for it. */
export function screen<P extends object>(load: () => Promise<{ default: ComponentType<P> }>) {
  let come: ComponentType<P> | null = null;
  const fetched = async () => {
    const part = await load();
    come = part.default;
    return part;
  };
  const Later = lazy(patiently(fetched));
  function Screen(props: P) {
    const [Drawn] = useState<ComponentType<P>>(() => come ?? (Later as ComponentType<P>));
    return createElement(Drawn, props);
  }
  return Object.assign(Screen, { fetch: fetched });
}
