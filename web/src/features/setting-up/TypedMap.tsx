import { useMutation } from "@tanstack/react-query";
import { Input } from "antd";
import { useId, useState } from "react";
import { answer, api } from "../../shared/api/client";
import { count } from "../../shared/words";

interface Props {
  entries: readonly { label: string; points: number }[];
  onMap: (labels: string[]) => void;
}

/** The whole map in one line: "1a-c, 2". Enter makes it so; what is called the same keeps its title and points. */
export function TypedMap({ entries, onMap }: Props) {
  const id = useId();
  const [text, setText] = useState("");
  const read = useMutation({
    mutationFn: (typed: string) => answer(api.POST("/api/typed-maps", { body: { text: typed } })),
    onSuccess: ({ labels }) => {
      setText("");
      onMap(labels);
    },
  });
  const points = entries.reduce((all, one) => all + one.points, 0);
  return (
    <div className="typed-map">
      <label htmlFor={id}>In one line</label>
      <Input
        id={id}
        size="large"
        value={text}
        maxLength={2000}
        placeholder={entries.length > 0 ? entries.map((one) => one.label).join(", ") : "1a-c, 2a-b, 3"}
        suffix={<span className="soft">{entries.length > 0 && `${count(entries.length, "entry", "entries")}, ${points} points`}</span>}
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
