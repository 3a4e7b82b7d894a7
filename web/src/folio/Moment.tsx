import { DatePicker } from "antd";
import english from "antd/es/date-picker/locale/en_US";
import dayjs from "dayjs";
import customParseFormat from "dayjs/plugin/customParseFormat";
import { useState } from "react";
import "./Moment.css";

dayjs.extend(customParseFormat);
const WALL = "YYYY-MM-DDTHH:mm";
const SHOWN = "ddd D MMM YYYY HH:mm";
const TYPED = [SHOWN, "YYYY-MM-DD HH:mm", "D MMM YYYY HH:mm", "D.M.YYYY HH:mm"];
/** Month and year are named by what they show, not by "Choose a month". */
const LOCALE = { ...english, lang: { ...english.lang, monthSelect: "", yearSelect: "" } };

interface Props {
  id: string;
  /** A time of day in the course's zone, 2026-11-27T09:00; null is none. */
  value: string | null;
  /** Whether there may be none. */
  clear?: boolean;
  onChange: (wall: string | null) => void;
}

/** A day and a time of day: picked, or typed in one of several ways. */
export function Moment({ id, value, clear = false, onChange }: Props) {
  const [open, setOpen] = useState(false);
  return (
    <DatePicker
      id={id}
      placeholder={clear ? "none" : "day and time"}
      open={open}
      onOpenChange={setOpen}
      // What was typed holds already; the calendar would lie over the next field.
      onKeyDown={(event) => event.key === "Enter" && setOpen(false)}
      showTime={{ format: "HH:mm", minuteStep: 5 }}
      showNow={false}
      needConfirm={false}
      allowClear={clear}
      changeOnBlur
      locale={LOCALE}
      format={TYPED}
      style={{ width: 232 }}
      value={value === null ? null : dayjs(value, WALL)}
      onChange={(picked) => onChange(picked ? picked.format(WALL) : null)}
      // What is typed holds as soon as it is a moment, and not only when the field is left.
      onCalendarChange={(typed) => {
        if (dayjs.isDayjs(typed) && typed.isValid()) onChange(typed.format(WALL));
      }}
    />
  );
}
