import { Table as LibraryTable, type TableProps } from "antd";
import { Themed } from "./Themed";
import "./Table.css";

/** Ant Design's table on our paper: hairlines, no boxes. */
export function Table<Row extends object>(props: TableProps<Row>) {
  return (
    <Themed>
      <LibraryTable<Row> {...props} />
    </Themed>
  );
}
