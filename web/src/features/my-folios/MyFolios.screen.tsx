import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, api, type Schemas } from "../../shared/api/client";
import { Masthead } from "../../shared/ui/Masthead";
import { correctClock, useNow, zoneOffset } from "../../shared/time";
import { Trouble } from "../../shared/ui/Trouble";
import { ToRead } from "./ToRead";
import { Teaching, useCourses } from "./Teaching";
import { endOf, TimeLine } from "./TimeLine";
import "./MyFolios.css";
import { useRunningSitting } from "./useRunningSitting";
import { queryKeys } from "../../shared/queryKeys";

export default function MyFolios() {
  const folios = useQuery({
    queryKey: queryKeys.myFolios,
    queryFn: async () => {
      const data = await answer(api.GET("/api/my-folios"));
      correctClock(data.now);
      return data;
    },
    refetchInterval: 60_000,
  });
  const teaches = folios.data?.teaches ?? false;
  const courses = useCourses(teaches);
  useRunningSitting(folios.data?.folios);
  return (
    <div className="screen">
      <Masthead help="folios" title="My folios" />
      <main>
        {folios.isError && <Trouble error={folios.error} onRetry={() => void folios.refetch()} />}
        {folios.data && folios.data.folios.length > 0 && <ToHandIn work={folios.data.folios} />}
        {folios.data && folios.data.folios.length > 0 && <CalendarFeed />}
        {folios.data && teaches && <Teaching teaching={folios.data.teaching} courses={courses.data} />}
        {folios.data && folios.data.to_read.length > 0 && <ToRead work={folios.data.to_read} />}
        {folios.data && folios.data.folios.length === 0 && folios.data.to_read.length === 0 && !teaches && (
          <p>You are on no course's roster yet. Ask your instructor to add this mail address.</p>
        )}
      </main>
    </div>
  );
}

function ToHandIn({ work }: { work: Schemas["FolioLineOut"][] }) {
  const now = useNow(15_000);
  const waiting = work
    .filter((one) => one.edition === null && Date.parse(one.window.closes) > now)
    .sort((a, b) => endOf(a) - endOf(b));
  const week = waiting.filter((one) => Date.parse(one.window.due) < now + 7 * 86_400_000);
  const first = work[0];
  const extra = [...new Set(work.map((one) => one.extra_time).filter(Boolean))].join(", ");
  return (
    <section aria-labelledby="to-hand-in">
      <h1 id="to-hand-in">{headline(week.length, waiting.length)}</h1>
      {first && (
        <p className="soft">
          Times are for {first.assignment.place || first.assignment.time_zone} (
          {zoneOffset(first.assignment.time_zone, now)}).
          {extra && ` Your extra time, ${extra} on writing, is worked in.`}
        </p>
      )}
      <TimeLine work={[...waiting, ...work.filter((one) => !waiting.includes(one))]} now={now} />
    </section>
  );
}

/** The due moments for a calendar program: its address is shown when it is asked for, since it is as good as a key. */
function CalendarFeed() {
  const feed = useQuery({ queryKey: queryKeys.calendar, enabled: false, queryFn: () => answer(api.GET("/api/calendar")) });
  const queries = useQueryClient();
  const renew = useMutation({
    mutationFn: () => answer(api.POST("/api/calendar")),
    onSuccess: (made) => queries.setQueryData(queryKeys.calendar, made),
  });
  if (!feed.data)
    return (
      <p className="calendar-feed">
        <button type="button" className="plain" onClick={() => void feed.refetch()}>
          Due moments in your calendar
        </button>
        {feed.isError && <Trouble error={feed.error} />}
      </p>
    );
  return (
    <p className="calendar-feed">
      <label htmlFor="calendar-address">Subscribe to this address in your calendar, and show it to nobody:</label>
      <input id="calendar-address" readOnly value={feed.data.address} onFocus={(event) => event.target.select()} />
      <a href={feed.data.address} download="due-moments.ics">
        Download once (.ics)
      </a>
      <button type="button" className="plain" disabled={renew.isPending} onClick={() => renew.mutate()}>
        Make a new address; this one ends
      </button>
    </p>
  );
}

const NUMBERS = ["Nothing", "One thing", "Two things", "Three things", "Four things", "Five things"];

function headline(thisWeek: number, waiting: number): string {
  if (thisWeek > 0) return `${NUMBERS[thisWeek] ?? `${thisWeek} things`} to hand in this week`;
  return waiting > 0 ? "Nothing to hand in this week" : "Nothing waits to be handed in";
}
