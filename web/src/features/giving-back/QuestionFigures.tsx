import { Bars } from "../../folio/marked/Bars";
import { pointsWords } from "../../folio/marked/pointsWords";
import type { Schemas } from "../../shared/api/client";
import { Explained } from "../../shared/ui/Explained";
import { Table } from "../../shared/ui/Table";

type Figures = Schemas["FiguresOut"];
const FACILITY = "The mean of the points over the most: near 1 it was easy, near 0 hard (Ebel and Frisbie, Essentials of Educational Measurement).";
const DISCRIMINATION =
  "How the points go along with those of all other questions: the product-moment correlation, for right or wrong the point-biserial, the question itself left out. Above 0.3 it tells strong from weak work; below 0 look at the question again.";

/** How each question came out: how many have points, what these say, and a small picture of them. */
export function QuestionFigures({ figures }: { figures: Figures[] }) {
  return (
    <Table<Figures>
      size="small"
      rowKey="label"
      pagination={false}
      className="question-figures"
      dataSource={figures}
      columns={[
        { title: "Question", render: (_, one) => <><strong className="question-figures-label">{one.label}</strong> <span className="soft">{one.title}</span></> },
        { title: "Marked", dataIndex: "marked", align: "right" },
        { title: "Mean", align: "right", render: (_, one) => (one.mean === null ? "" : `${hundredths(one.mean)} of ${pointsWords(one.most)}`) },
        { title: "Median", align: "right", render: (_, one) => hundredths(one.median) },
        { title: "Deviation", align: "right", render: (_, one) => hundredths(one.deviation) },
        { title: <Explained words={FACILITY}><button type="button" className="plain">Facility</button></Explained>, align: "right", render: (_, one) => hundredths(one.facility) },
        { title: <Explained words={DISCRIMINATION}><button type="button" className="plain">Discrimination</button></Explained>, align: "right", render: (_, one) => hundredths(one.discrimination) },
        { title: "Points", width: 140, render: (_, one) => <Bars bars={one.bars} label={`Points for ${one.label}`} /> },
      ]}
    />
  );
}

function hundredths(number: number | null): string {
  return number === null ? "" : number.toFixed(2).replace("-", "−");
}
