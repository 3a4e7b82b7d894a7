import { Link, useParams } from "react-router";
import type { Schemas } from "../../shared/api/client";
import { dayAndTime } from "../../shared/time";
import { Masthead } from "../../shared/ui/Masthead";
import { Themed } from "../../shared/ui/Themed";
import { Trouble } from "../../shared/ui/Trouble";
import { Fields } from "./Fields";
import { GiveOut } from "./GiveOut";
import { Markers } from "./Markers";
import { MapSection } from "./MapSection";
import { FilesBeside, PaperBox } from "./PaperBox";
import { PrintedSheets } from "./PrintedSheets";
import "./SettingUp.css";
import { useSettingUp } from "./useSettingUp";
import { WhatThatMeans } from "./WhatThatMeans";

/** An assignment is set up: paper and map on the left, times and what they mean on the right. */
export default function SettingUp() {
  const assignmentId = Number(useParams().assignmentId);
  const work = useSettingUp(assignmentId);
  const data = work.data;
  return (
    <div className="screen setting-up">
      <Masthead help="settingUp" title={data?.title ?? ""} course={data?.assignment.course} />
      <main>
        {work.isError && <Trouble error={work.error} onRetry={() => void work.refetch()} />}
        {data && (
          <Themed>
            <div className="setting-up-head">
              <h1>Setting up</h1>
              <p className="soft">
                {stateWords(data)} <Link to={`/courses/${data.course_id}`}>{data.assignment.course}</Link>
              </p>
            </div>
            <div className="setting-up-halves">
              <section aria-labelledby="questions">
                <h2 id="questions">Questions</h2>
                <PaperBox work={data} />
                {data.paper && !data.whole_work && data.map !== "" && <PrintedSheets key={`${data.paper.name} ${data.map}`} assignmentId={assignmentId} />}
                <FilesBeside work={data} />
                {data.whole_work ? <p className="soft">Whole work: nothing is placed.</p> : <MapSection assignmentId={assignmentId} />}
                <Markers assignmentId={assignmentId} courseId={data.course_id} />
              </section>
              <section aria-labelledby="rules">
                <h2 id="rules">Title, time and words</h2>
                <Fields key={assignmentId} work={data} />
                <WhatThatMeans work={data} />
              </section>
            </div>
            <GiveOut work={data} />
          </Themed>
        )}
      </main>
    </div>
  );
}

function stateWords({ given_out_at: givenOut, begun, now, assignment: { time_zone: zone } }: Schemas["SettingUpOut"]): string {
  if (givenOut === null) return "A draft: nobody sees it before it is given out. Saved as you write.";
  if (Date.parse(givenOut) > Date.parse(now)) return `Given out ${dayAndTime(givenOut, zone)}; a draft until then.`;
  return begun === 0 ? "Given out; nobody has begun." : `Given out; ${begun} have begun, and keep what they were promised.`;
}
