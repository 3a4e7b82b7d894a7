import { useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";
import { answer, api } from "./api/client";
import "./Masthead.css";
import { useSignedIn } from "./me";

/** Every screen's top line: where one is, and whose name, number and mail address the folio will carry. */
export function Masthead({ title, course }: { title: string; course?: string }) {
  const me = useSignedIn();
  const queries = useQueryClient();
  async function signOut() {
    await answer(api.DELETE("/api/session"));
    queries.removeQueries({ predicate: (query) => query.queryKey[0] !== "me" });
    queries.setQueryData(["me"], null);
  }
  return (
    <header className="masthead">
      <Link to="/" className="masthead-name" aria-label="Inked Folio, my work">
        Inked Folio
      </Link>
      <span className="masthead-title">{course ? `${course} · ${title}` : title}</span>
      <span className="masthead-person">
        <strong>{me.name}</strong>
        {me.number && <span> · no. {me.number}</span>}
        <span> · {me.email}</span>
        <button type="button" className="plain" onClick={() => void signOut()}>
          Not you?
        </button>
      </span>
    </header>
  );
}
