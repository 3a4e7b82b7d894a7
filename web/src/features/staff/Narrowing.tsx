import { Input, Radio, Select } from "antd";
import type { Schemas } from "../../shared/api/client";
import { Themed } from "../../shared/ui/Themed";
import { counts, found, KINDS, type KindOfLine, type Shown } from "./shown";

interface NarrowingProps {
  lines: Schemas["FolioLine"][];
  shown: Shown;
  instructs: boolean;
  onChange: (shown: Shown) => void;
}

/** Which part of the list is shown: by word, by section, by what became of it, with how many there are of each. */
export function Narrowing({ lines, shown, instructs, onChange }: NarrowingProps) {
  const sections = [...new Set(lines.map((one) => one.section).filter(Boolean))].sort();
  const many = counts(found(lines, shown));
  const kinds = (Object.keys(KINDS) as KindOfLine[]).filter((kind) => instructs || !["not_begun", "writing"].includes(kind));
  return (
    <Themed>
      <div className="narrowing" role="search" aria-label="In this list">
        <Input.Search
          className="narrowing-words"
          aria-label="Name, number or mail address"
          placeholder="Name, number or mail"
          allowClear
          value={shown.words}
          onChange={(event) => onChange({ ...shown, words: event.target.value })}
        />
        {sections.length > 1 && (
          <Select
            aria-label="Section"
            popupMatchSelectWidth={false}
            value={shown.section}
            onChange={(section: string) => onChange({ ...shown, section })}
            options={[{ value: "", label: "All sections" }, ...sections.map((section) => ({ value: section, label: section }))]}
          />
        )}
        <Radio.Group
          className="narrowing-kinds"
          aria-label="Show"
          optionType="button"
          value={shown.kind}
          onChange={(event) => onChange({ ...shown, kind: event.target.value as KindOfLine })}
          options={kinds.map((kind) => ({ value: kind, label: `${KINDS[kind].words} ${many[kind]}`, disabled: many[kind] === 0 && kind !== shown.kind && kind !== "all" }))}
        />
      </div>
    </Themed>
  );
}
