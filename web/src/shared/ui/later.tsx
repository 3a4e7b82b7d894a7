import { type ComponentType, lazy, type ReactNode, Suspense } from "react";
import { patiently } from "../patiently";

const loads: (() => Promise<unknown>)[] = [];

/** Fetches all that comes later: the browser does it when it has nothing to do, so that none of it misses a network. */
export function fetchLater(): Promise<unknown> {
  return Promise.allSettled(loads.map((load) => load()));
}

/**
 * A part of a screen that is not in its first frame; until it has come, its place is held by `meanwhile`. What is large
 * and can be done without is fetched only where it is shown.
 */
export function lazily<P extends object>(load: () => Promise<ComponentType<P>>, fetched: "when idle" | "where shown" = "when idle") {
  const patient = patiently(load);
  if (fetched === "when idle") loads.push(patient);
  const Part = lazy(async () => ({ default: (await patient()) as ComponentType<object> }));
  return function Later({ meanwhile = null, ...props }: P & { meanwhile?: ReactNode }) {
    return (
      <Suspense fallback={meanwhile}>
        <Part {...props} />
      </Suspense>
    );
  };
}

type Library = typeof import("./library");

/** A control of the component library, for a screen whose first frame must not wait for it. */
export function later<N extends keyof Library>(name: N) {
  type Props = Library[N] extends (props: infer P) => unknown ? (P extends object ? P : never) : never;
  return lazily<Props>(async () => (await import("./library"))[name] as unknown as ComponentType<Props>);
}
