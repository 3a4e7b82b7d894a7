import { Checkbox, Segmented } from "antd";
import { memo, useCallback, useMemo, useRef, useState } from "react";
import { Link, useParams } from "react-router";
import { clockTime, dayAndTime, dayName, useNow } from "../../shared/time";
import { Masthead } from "../../shared/ui/Masthead";
import { Themed } from "../../shared/ui/Themed";
import { Trouble } from "../../shared/ui/Trouble";
import { Deeds } from "./Deeds";
import { useMedia } from "../../shared/useMedia";
import { isRunning, needWords, standing } from "./lineWords";
import "./Sitting.css";
import { useRowsInSight } from "./useRowsInSight";
import { inOrder, type Order } from "./order";
import { scaleOf } from "./scale";
import { type Line, type Sitting as SittingData, useSitting } from "./useSitting";

const ROW_PX = 46; // as in Sitting.css

/** The sitting as it happens, by the server's own record: a line a student. */
export default function Sitting() {
  const assignmentId = Number(useParams().assignmentId);
  const sitting = useSitting(assignmentId);
  const data = sitting.data;
  return (
    <div className="screen sitting">
      <Masthead help="sitting" title={data?.assignment.title ?? ""} course={data?.assignment.course} />
      <main>
        {sitting.isError && <Trouble error={sitting.error} onRetry={() => void sitting.refetch()} />}
        {data && <Loaded data={data} />}
      </main>
    </div>
  );
}

function Loaded({ data }: { data: SittingData }) {
  const now = useNow(1000);
  const [order, setOrder] = useState<Order>("closes");
  const [chosen, setChosen] = useState<ReadonlySet<number>>(new Set());
  const { lines } = data;
  const zone = data.assignment.time_zone;
  const shown = useMemo(() => inOrder(lines, order), [lines, order]);
  const scale = useMemo(() => scaleOf(data), [data]);
  const choose = useCallback(
    (person: number, is: boolean) =>
      setChosen((before) => new Set(is ? [...before, person] : [...before].filter((one) => one !== person))),
    [],
  );
  const needing = lines.filter((one) => one.needs.length > 0).length;
  const inPhase = (phase: Line["phase"]) => lines.filter((one) => one.folio_id !== null && one.phase === phase && one.edition === null).length;
  const at = scale.at(now);
  const list = useRef<HTMLUListElement>(null);
  const wide = useMedia("(min-width: 901px)");
  const [first, behind] = useRowsInSight(list, shown.length, ROW_PX);
  return (
    <Themed>
      <div className="sitting-head">
        <h1>The sitting, as it happens</h1>
        <ul aria-label="How it stands">
          <Fact number={inPhase("writing")} words="writing" />
          {data.timed && <Fact number={inPhase("handover")} words="in handover" />}
          <Fact number={lines.filter((one) => one.edition !== null).length} words="handed in" />
          <Fact number={lines.filter((one) => one.folio_id === null).length} words="not begun" />
          <li className={needing > 0 ? "red" : "soft"}>
            <strong>{needing}</strong> {needing === 1 ? "needs you" : "need you"}
          </li>
        </ul>
      </div>
      <p className="sitting-order">
        <Segmented<Order>
          aria-label="Order"
          value={order}
          onChange={setOrder}
          options={[
            { value: "closes", label: "What closes first" },
            { value: "name", label: "By name" },
            { value: "needs", label: "Who needs you" },
          ]}
        />
        <span className="soft">Strokes are pages that are safe, a dot is a hand-in.</span>
      </p>
      <div className="sitting-scale" aria-hidden="true">
        {scale.marks.filter((mark) => Math.abs(scale.at(mark) - at) > 8).map((mark) => (
          <span key={mark} style={{ left: `${scale.at(mark)}%` }}>
            {scale.inDays ? dayName(mark, zone) : clockTime(mark, zone)}
          </span>
        ))}
        {at > 0 && at < 100 && (
          <strong className="red" style={{ left: `${at}%` }}>
            {scale.inDays ? "now" : clockTime(now, zone)}
          </strong>
        )}
      </div>
      <ul ref={list} className="sitting-lines" aria-label="Students" style={wide ? { height: shown.length * ROW_PX } : undefined}>
        {(wide ? shown.slice(first, behind) : shown).map((line, number) => (
          <Row
            key={line.person_id}
            place={(wide ? first : 0) + number}
            of={shown.length}
            wide={wide}
            line={line}
            zone={zone}
            start={scale.start}
            end={scale.end}
            needs={needWords(line, now, zone).join("; ")}
            words={standing(line, now, zone)}
            chosen={chosen.has(line.person_id)}
            onChoose={choose}
          />
        ))}
        {at > 0 && at < 100 && (
          <li className="sitting-now" aria-hidden="true">
            <i style={{ left: `${at}%` }} />
          </li>
        )}
      </ul>
      {shown.length === 0 && <p className="soft">{order === "needs" ? "Nobody needs you just now." : "Nobody is on the roster yet."}</p>}
      <Deeds
        assignmentId={data.assignment.id}
        timed={data.timed}
        running={lines.filter(isRunning)}
        begun={lines.filter((one) => one.folio_id !== null)}
        chosen={lines.filter((one) => chosen.has(one.person_id))}
        zone={zone}
        onChoose={(people) => setChosen(new Set(people))}
      />
    </Themed>
  );
}

function Fact({ number, words }: { number: number; words: string }) {
  return (
    <li>
      <strong>{number}</strong> {words}
    </li>
  );
}

interface RowProps {
  place: number;
  of: number;
  wide: boolean;
  line: Line;
  zone: string;
  start: number;
  end: number;
  needs: string;
  words: string;
  chosen: boolean;
  onChoose: (person: number, is: boolean) => void;
}

const Row = memo(function Row({ place, of, wide, line, zone, start, end, needs, words, chosen, onChoose }: RowProps) {
  const at = (moment: string | number) => ((typeof moment === "number" ? moment : Date.parse(moment)) - start) / (end - start);
  const begun = line.begun ? Date.parse(line.begun) : start;
  const writingEnds = line.writing_ends ? Date.parse(line.writing_ends) : Date.parse(line.closes);
  const percent = (share: number) => `${Math.min(1, Math.max(0, share)) * 100}%`;
  return (
    <li className="sitting-line" aria-posinset={place + 1} aria-setsize={of} style={wide ? { top: place * ROW_PX } : undefined}>
      <span className="sitting-who">
        <Checkbox
          aria-label={`Choose ${line.name}`}
          checked={chosen}
          onChange={(event) => onChoose(line.person_id, event.target.checked)}
        />{" "}
        {line.folio_id === null ? (
          <strong>{line.name}</strong>
        ) : (
          <Link to={`/records/${line.folio_id}`}>{line.name}</Link>
        )}{" "}
        <span className="soft">
          {[line.number, line.section, line.extra_time, line.own_due && `due ${dayAndTime(line.own_due, zone)}`, !line.on_roster && "off the roster"].filter(Boolean).join(" · ")}
        </span>
      </span>
      <span className="sitting-rail" aria-hidden="true">
        {line.folio_id !== null && (
          <>
            <i className="sitting-writing" style={{ left: percent(at(begun)), right: percent(1 - at(writingEnds)) }} />
            <i className="sitting-handover" style={{ left: percent(at(writingEnds)), right: percent(1 - at(line.closes)) }} />
            {line.arrived.map((moment, number) => (
              <i key={number} className="sitting-page" style={{ left: percent(at(moment)) }} />
            ))}
            {line.handed_in_at && <i className="sitting-handed-in" style={{ left: percent(at(line.handed_in_at)) }} />}
          </>
        )}
      </span>
      <span className="sitting-words">
        {needs && <strong className="red">{needs}</strong>} <span>{words}</span>
      </span>
    </li>
  );
});
