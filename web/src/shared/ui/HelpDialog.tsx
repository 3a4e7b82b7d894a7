import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import { HELP, type HelpScreen } from "../help";
import { queryKeys } from "../queryKeys";
import { Dialog } from "./Dialog";
import { Trouble } from "./Trouble";
import "./HelpDialog.css";

/** What this screen is for, and whom to ask. */
export function HelpDialog({ screen, onClose }: { screen: HelpScreen; onClose: () => void }) {
  const contacts = useQuery({ queryKey: queryKeys.contacts, queryFn: () => answer(api.GET("/api/contacts")), staleTime: 300_000 });
  const { title, about } = HELP[screen];
  return (
    <Dialog title={title} onClose={onClose}>
      <div className="help">
        {about.map((words) => (
          <p key={words}>{words}</p>
        ))}
        <h3>Whom to ask</h3>
        {contacts.isError && <Trouble error={contacts.error} onRetry={() => void contacts.refetch()} />}
        <ul>
          {contacts.data?.map((one) => (
            <li key={`${one.course} ${one.email}`}>
              <span className="soft">{one.course}</span>
              <br />
              {one.name} {one.email && <a href={`mailto:${one.email}`}>{one.email}</a>} {one.note}
            </li>
          ))}
        </ul>
        {contacts.data?.length === 0 && <p>Whoever gave you this address: you are on no course's roster yet.</p>}
      </div>
    </Dialog>
  );
}
