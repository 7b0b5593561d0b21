import { sheetCss } from "./Sheet";
import { Unseen } from "./Unseen";

/** The name of a column: of words, of numbers (which stand to the right), or one that the page shows by its place. */
export type Column = string | { numbers: string } | { unseen: string };

/** The head of a table in a sheet. */
export function Columns({ of }: { of: readonly Column[] }) {
  return (
    <thead>
      <tr>
        {of.map((column) => {
          if (typeof column === "string") return <th key={column}>{column}</th>;
          if ("numbers" in column)
            return (
              <th key={column.numbers} className={sheetCss.r}>
                {column.numbers}
              </th>
            );
          return (
            <th key={column.unseen}>
              <Unseen>{column.unseen}</Unseen>
            </th>
          );
        })}
      </tr>
    </thead>
  );
}
