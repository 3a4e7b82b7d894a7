import { useQuery } from "@tanstack/react-query";
import { Tabs } from "antd";
import { useParams, useSearchParams } from "react-router";
import { answer, api } from "../../shared/api/client";
import { queryKeys } from "../../shared/queryKeys";
import { correctClock } from "../../shared/time";
import { Masthead } from "../../shared/ui/Masthead";
import { Themed } from "../../shared/ui/Themed";
import { Trouble } from "../../shared/ui/Trouble";
import { count } from "../../shared/words";
import "./Course.css";
import { CourseFacts } from "./CourseFacts";
import { Joining } from "./Joining";
import { People } from "./People";
import { Work } from "./Work";

/** A course as those who teach it see it. */
export default function Course() {
  const courseId = Number(useParams().courseId);
  const [search, setSearch] = useSearchParams();
  const course = useQuery({
    queryKey: queryKeys.course(courseId),
    queryFn: async () => {
      const data = await answer(api.GET("/api/courses/{course_id}", { params: { path: { course_id: courseId } } }));
      correctClock(data.now);
      return data;
    },
  });
  const data = course.data;
  return (
    <div className="screen">
      <Masthead help="course" title={data?.title ?? ""} course={data?.code} />
      <main>
        {course.isError && <Trouble error={course.error} onRetry={() => void course.refetch()} />}
        {data && (
          <>
            <h1>{data.title}</h1>
            <p className="soft">
              {[data.code, data.term, count(data.students, "student"), data.place || data.time_zone].filter(Boolean).join(" · ")}
            </p>
            <Themed>
              <Tabs
                className="course-tabs"
                tabBarGutter={20}
                activeKey={search.get("tab") ?? "work"}
                onChange={(tab) => setSearch({ tab }, { replace: true })}
                items={[
                  { key: "work", label: "Work", children: <Work course={data} /> },
                  { key: "people", label: `People ${data.students + data.staff}`, children: <People course={data} /> },
                  { key: "joining", label: data.waiting.length > 0 ? `Joining: ${data.waiting.length} wait` : "Joining", children: <Joining course={data} /> },
                  { key: "facts", label: "About it", children: <CourseFacts key={data.version} course={data} /> },
                ]}
              />
            </Themed>
          </>
        )}
      </main>
    </div>
  );
}
