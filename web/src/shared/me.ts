import { queryOptions, useQuery } from "@tanstack/react-query";
import { createContext, use } from "react";
import { answer, api, type Schemas } from "./api/client";
import { queryKeys } from "./queryKeys";

const leaving = new Set<() => void>();

/** What is to be forgotten when somebody signs out at this browser. */
export function whenLeaving(forget: () => void) {
  leaving.add(forget);
}
export function forgetAll() {
  leaving.forEach((forget) => forget());
}

export type Me = Schemas["Me"];
export const MeContext = createContext<Me | null>(null);

/** The signed-in person as the server knows them; null when signed out. */
export const meQuery = queryOptions({
  queryKey: queryKeys.me,
  staleTime: Infinity,
  queryFn: (): Promise<Me | null> => answer(api.GET("/api/me")),
});

export function useMe() {
  return useQuery(meQuery);
}

export function useSignedIn(): Me {
  const me = use(MeContext);
  if (!me) throw new Error("This screen needs a signed-in person.");
  return me;
}
