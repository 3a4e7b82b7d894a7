import { Table as LibraryTable, type TableProps } from "antd";
import { Themed } from "./Themed";
import "./Table.css";

/**
 * Ant Design's table on our paper: hairlines, no boxes. On a narrow screen it scrolls sideways by itself: the library's own
 * way puts in a style that the page's policy refuses.
 */
export function Table<Row extends object>(props: TableProps<Row>) {
  return (
    <Themed>
      <div className="table-scroll">
        <LibraryTable<Row> {...props} />
      </div>
    </Themed>
  );
}
