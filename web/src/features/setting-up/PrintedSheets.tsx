import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Checkbox, InputNumber, Select, Switch } from "antd";
import { useEffect, useState } from "react";
import { answer, api, type Schemas } from "../../shared/api/client";
import { queryKeys } from "../../shared/queryKeys";
import { Button, FileButton } from "../../shared/ui/Button";
import { Table } from "../../shared/ui/Table";
import { Trouble } from "../../shared/ui/Trouble";
import { keepAnEyeOn } from "../../shared/unsaved";
import { list } from "../../shared/words";
import { PaperSpaces } from "./PaperSpaces";
import type { Space } from "./spaceSides";

interface Draft {
  on: boolean;
  clean_print: boolean;
  spaces: readonly Space[];
}

const SIDES = ["left", "top", "right", "bottom"] as const;

/** Whether students write on the question paper itself: then its sheets find their own place. */
export function PrintedSheets({ assignmentId }: { assignmentId: number }) {
  const sheets = useQuery({
    queryKey: queryKeys.printedSheets(assignmentId),
    retry: false,
    staleTime: 0, // the map and the paper are edited on the same screen
    queryFn: () => answer(api.GET("/api/assignments/{assignment_id}/printed-sheets", { params: { path: { assignment_id: assignmentId } } })),
  });
  if (!sheets.data) return sheets.isError ? <p className="soft printed-sheets">{sheets.error.message}</p> : null;
  return <Spaces assignmentId={assignmentId} data={sheets.data} />;
}

function Spaces({ assignmentId, data }: { assignmentId: number; data: Schemas["PrintedSheetsOut"] }) {
  const queries = useQueryClient();
  // What is changed here and not kept yet; what the server says meanwhile must not take it away.
  const [draft, setDraft] = useState<Draft | null>(null);
  useEffect(() => {
    const owner = {};
    keepAnEyeOn(owner, draft ? "Where answers stand on the paper" : "");
    return () => keepAnEyeOn(owner, "");
  }, [draft]);
  const { on, clean_print, spaces } = draft ?? data;
  const set = (part: Partial<Draft>) => setDraft({ on, clean_print, spaces, ...part });
  const setSpaces = (make: (now: readonly Space[]) => Space[]) => setDraft((now) => ({ on, clean_print, spaces: make((now ?? data).spaces) }));
  const [page, setPage] = useState(1);
  const put = useMutation({
    mutationFn: (sent: Draft) =>
      answer(api.PUT("/api/assignments/{assignment_id}/printed-sheets", { params: { path: { assignment_id: assignmentId } }, body: { ...sent, spaces: [...sent.spaces] } })),
    onSuccess: (now, sent) => {
      queries.setQueryData(queryKeys.printedSheets(assignmentId), now);
      setDraft((later) => (later === sent ? null : later));
    },
  });
  const keep = () => {
    const sent = draft ?? { on, clean_print, spaces };
    setDraft(sent);
    put.mutate(sent);
  };
  const changed = draft !== null || (on && !data.kept);
  const change = (at: number, part: Partial<Space>) => setSpaces((now) => now.map((one, number) => (number === at ? { ...one, ...part } : one)));
  const remove = (at: number) => setSpaces((now) => now.filter((_, number) => number !== at));
  const add = (label: string) => setSpaces((now) => [...now, { label, page, left: 20, top: 40, right: 190, bottom: 90 }]);
  const withOne = [...new Set(spaces.map((one) => one.label))];
  const base = `/api/assignments/${assignmentId}/paper/with-codes.pdf`;
  const without = data.without.filter((label) => spaces.every((one) => one.label !== label));
  return (
    <section className="printed-sheets" aria-label="Written on the paper itself">
      <p>
        <Switch checked={on} onChange={(now) => set({ on: now })} aria-labelledby="printed-on" />{" "}
        <span id="printed-on">Students write their answers on this paper itself: printed sheets find their own place</span>
      </p>
      {on && (
        <>
          <p className="soft">
            {data.kept ? "Where each answer stands." : "Read from the paper: where each answer stands. Look it over, then keep it."} Photographs are put in order and
            placed by it, and empty answers are pointed out.
          </p>
          <PaperSpaces assignmentId={assignmentId} sizes={data.pages} spaces={spaces} page={page} onPage={setPage} onChange={change} onRemove={remove} />
          <details className="spaces-in-figures">
            <summary>The same in figures: millimetres from the upper left corner of the page</summary>
            <Table
              size="small"
              pagination={false}
              rowKey={(one) => `${one.label} ${spaces.indexOf(one)}`}
              dataSource={[...spaces]}
              columns={[
                { title: "Question", dataIndex: "label" },
                { title: "Page", render: (_, one, at) => <InputNumber aria-label={`Page of ${one.label}`} size="small" min={1} max={data.pages.length} precision={0} value={one.page} onChange={(page) => change(at, { page: page ?? 1 })} /> },
                ...SIDES.map((side) => ({
                  title: side === "left" ? "From the left" : side === "top" ? "From the top" : side === "right" ? "to the right" : "to the foot",
                  render: (_: unknown, one: Space, at: number) => (
                    <InputNumber aria-label={`${side} of ${one.label}`} size="small" min={0} max={2000} step={1} value={one[side]} onChange={(mm) => change(at, { [side]: mm ?? 0 })} />
                  ),
                })),
                {
                  title: "",
                  render: (_, one, at) => (
                    <button type="button" className="plain" onClick={() => remove(at)}>
                      Remove<span className="unseen"> the space of {one.label}</span>
                    </button>
                  ),
                },
              ]}
            />
          </details>
          <p className="another-space">
            {without.length > 0 && <span>No space for {list(without)}.</span>}
            <Select
              size="small"
              aria-label="Add a space for a question"
              placeholder="Add a space for …"
              value={null}
              options={[...without, ...withOne].map((label) => ({ value: label, label }))}
              onChange={(label: string | null) => label !== null && add(label)}
            />
          </p>
          <Checkbox checked={clean_print} onChange={(event) => set({ clean_print: event.target.checked })}>
            Bind the answers on the paper as it was printed: in the bound PDF its print is sharp and the ink lies straight over it. Sheets that are cut off or not
            surely told stay as they were photographed.
          </Checkbox>
          <p className="printed-doors">
            <FileButton small href={data.on ? base : undefined}>
              Print it with codes
            </FileButton>
            <FileButton small href={data.on ? `${base}?each=true` : undefined}>
              A copy for each student, with name
            </FileButton>
            <span className="soft">Codes in two corners make it quicker and surer. What is printed already works too.</span>
          </p>
        </>
      )}
      {(changed || put.isPending) && (
        <Button small busy={put.isPending} onClick={keep}>
          {on && !(data.on && data.kept && draft?.spaces === data.spaces) ? "Keep these spaces" : "Keep it so"}
        </Button>
      )}
      {put.error && <Trouble error={put.error} />}
    </section>
  );
}
