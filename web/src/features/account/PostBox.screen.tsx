import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../../shared/api/client";
import { queryKeys } from "../../shared/queryKeys";
import { Trouble } from "../../shared/ui/Trouble";
import "./Account.css";

/** What would have been mailed, where this installation only tries things out. */
export default function PostBox() {
  const box = useQuery({ queryKey: queryKeys.postBox, queryFn: () => answer(api.GET("/api/post-box")), refetchInterval: 3000 });
  return (
    <main className="screen post-box">
      <h1>Post box</h1>
      <p className="soft">This installation sends no mail. All of it is shown here, to everybody: for trying things out only.</p>
      {box.isError && <Trouble error={box.error} />}
      {box.data?.length === 0 && <p>No mail yet.</p>}
      {box.data?.map((mail) => (
        <article key={mail.id}>
          <h2>{mail.subject}</h2>
          <p className="soft">to {mail.to}</p>
          <pre>{mail.text}</pre>
        </article>
      ))}
    </main>
  );
}
