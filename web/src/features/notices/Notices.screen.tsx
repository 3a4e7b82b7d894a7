import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { Link } from "react-router";
import { answer, api, type Schemas } from "../../shared/api/client";
import { queryKeys } from "../../shared/queryKeys";
import { dayAndTime } from "../../shared/time";
import { Masthead } from "../../shared/ui/Masthead";
import { Trouble } from "../../shared/ui/Trouble";
import "./Notices.css";

/** Where one's courses are in several zones: this device's own. */
const HERE = Intl.DateTimeFormat().resolvedOptions().timeZone;

/** All that one was told, the newest first. What is in sight here counts as read from the next visit on. */
export default function Notices() {
  const queries = useQueryClient();
  const told = useQuery({ queryKey: queryKeys.notices, queryFn: () => answer(api.GET("/api/notices")), staleTime: 0 });
  const read = useMutation({
    mutationFn: (newest: number) => answer(api.POST("/api/notices/read", { body: { newest } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: queryKeys.unread }),
  });
  const { mutate } = read;
  const newest = told.data?.notices.find((one) => !one.read)?.id;
  useEffect(() => {
    if (newest) mutate(newest);
  }, [newest, mutate]);
  return (
    <div className="screen">
      <Masthead help="notices" title="Notices" />
      <main className="notices">
        <h1>Notices</h1>
        <p className="soft">
          What of it is mailed to you is chosen under <Link to="/account#mails">Account</Link>.
        </p>
        {told.isError && <Trouble error={told.error} onRetry={() => void told.refetch()} />}
        {told.data?.notices.length === 0 && <p>Nothing yet. What happens to your work while you are away stands here.</p>}
        <ol>
          {told.data?.notices.map((one) => (
            <Line key={one.id} notice={one} zone={told.data.time_zone ?? HERE} />
          ))}
        </ol>
      </main>
    </div>
  );
}

function Line({ notice, zone }: { notice: Schemas["NoticeOut"]; zone: string }) {
  return (
    <li data-new={!notice.read}>
      <p>
        {!notice.read && <strong className="notice-new">New: </strong>}
        <Link to={notice.path}>{notice.subject}</Link> <span className="soft">{dayAndTime(notice.made_at, zone)}</span>
      </p>
      {notice.text.split("\n\n").map((paragraph) => (
        <p key={paragraph}>{paragraph}</p>
      ))}
    </li>
  );
}
