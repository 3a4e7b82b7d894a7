import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../../shared/api/client";
import { queryKeys } from "../../shared/queryKeys";

/** Why nobody came back signed in from the college (`people/college.py`). */
const REFUSED: Record<string, string> = {
  college_denied: "The college’s sign-in was broken off. Nobody is signed in.",
  college_unknown: "The college knows you; here nobody has your mail address yet. Ask your instructor to put you on the roster.",
  college_unverified: "The college did not say that your mail address is really yours. Sign in with a password, or ask the college’s help desk.",
  college_factor: "This account asks for more than the college’s sign-in. Use your mail address and password.",
  college_away: "The college’s sign-in does not answer. Use your mail address and password, or try again in a moment.",
};

/** The way in by the college's own accounts, where there is one. */
export function ByCollege() {
  const search = new URLSearchParams(location.search);
  const refused = search.get("college");
  const ways = useQuery({ queryKey: queryKeys.signInWays, staleTime: Infinity, queryFn: () => answer(api.GET("/api/sign-in-ways")) });
  if (!ways.data?.college) return null;
  const next = search.get("next") ?? (refused === null ? `${location.pathname}${location.search}` : "/");
  return (
    <div className="sign-in-college">
      {refused && (
        <p role="alert" className="red">
          {REFUSED[refused] ?? "The college’s sign-in could not be checked. Try again from the start."}
        </p>
      )}
      <a className="button" href={`/sign-in/college?${new URLSearchParams({ next })}`}>
        Sign in by {ways.data.college}
      </a>
    </div>
  );
}
