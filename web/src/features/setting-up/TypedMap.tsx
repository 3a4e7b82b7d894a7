import { useMutation } from "@tanstack/react-query";
import { Input } from "antd";
import { useId, useState } from "react";
import { answer, api } from "../../shared/api/client";
import { count } from "../../shared/words";
import type { WantedEntry } from "./mapEntries";
import { useSettingUp } from "./useSettingUp";

interface Props {
  assignmentId: number;
  entries: readonly { label: string; points: number }[];
  onMap: (entries: WantedEntry[]) => void;
}

/** The whole map in one line: "1a-c, any 1 of (2, 3)". Enter makes it so; what is called the same keeps its title and points. */
export function TypedMap({ assignmentId, entries, onMap }: Props) {
  const work = useSettingUp(assignmentId).data;
  const id = useId();
  const [text, setText] = useState("");
  const read = useMutation({
    mutationFn: (typed: string) => answer(api.POST("/api/typed-maps", { body: { text: typed } })),
    onSuccess: ({ entries: typed, groups }) => {
      setText("");
      onMap(typed.map(({ label, group }) => ({ label, group: group === null ? "" : String(group), choose: groups[group ?? -1] ?? null })));
    },
  });
  return (
    <div className="typed-map">
      <label htmlFor={id}>In one line</label>
      <Input
        id={id}
        size="large"
        value={text}
        maxLength={2000}
        placeholder={work?.map || "1a-c, 2a-b, any 2 of (3-5)"}
        suffix={<span className="soft">{entries.length > 0 && `${count(entries.length, "entry", "entries")}, ${work?.points ?? 0} points`}</span>}
        onChange={(event) => setText(event.target.value)}
        onPressEnter={() => text.trim() !== "" && read.mutate(text)}
      />
      {text !== "" && !read.error && <span className="soft">Enter makes this the map.</span>}
      {read.error && (
        <span role="alert" className="red">
          {read.error.message}
        </span>
      )}
    </div>
  );
}
