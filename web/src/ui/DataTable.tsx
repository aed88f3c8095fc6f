import { memo, type ReactNode } from "react";

/** One column: what its head says, and what stands in it for a row. */
export interface Column<Row> {
  head: ReactNode;
  /** The head is only read out: a column of marks or buttons. */
  silent?: boolean;
  /** Numbers stand right, in one line. */
  number?: boolean;
  /** Takes the room that is left. */
  wide?: boolean;
  /** Names its row, for those who hear the table. */
  names?: boolean;
  /** What the head says when pointed at. */
  title?: string;
  /** How its cells look, beside what is said above. */
  look?: string;
  cell: (row: Row, at: number) => ReactNode;
}

interface Props<Row> {
  columns: readonly Column<Row>[];
  /** The rows, or where they stand under titles, the groups of them; a group without rows is left out. */
  rows?: readonly Row[];
  groups?: readonly { title: string; rows: readonly Row[] }[];
  rowKey: (row: Row) => string;
  /** Where a test finds a row. */
  testId?: string | ((row: Row) => string);
  /** What the table holds: where it is given, a table wider than the page scrolls sideways under that name. */
  scrolls?: string;
  /** The rows of the foot. */
  foot?: ReactNode;
  className?: string;
  /** Without a head, where the rows say enough. */
  bare?: boolean;
  /** Of many columns: its rows stand in two lines on a tablet already, and not on a phone alone. */
  early?: boolean;
}

/**
 * A table to be read: heads, rows, groups and a foot. A row is drawn again only where one of its own fields or the
 * list of columns has changed, so a page that redraws with each key keeps its columns (`useMemo`). Tables that are
 * edited cell by cell as one document draw their own rows under a `TableHead`.
 */
export function DataTable<Row extends object>(props: Props<Row>) {
  const { columns, rows, groups, rowKey, testId, scrolls, foot, className = "", bare, early } = props;
  const list = (some: readonly Row[]) =>
    some.map((row, at) => (
      <TableRow
        key={rowKey(row)}
        row={row}
        at={at}
        columns={columns as readonly Column<never>[]}
        testId={typeof testId === "function" ? testId(row) : testId}
      />
    ));
  const stacks = early ? "stacks-early" : columns.length > 3 ? "stacks" : "";
  const table = (
    <table className={`row-table ${stacks} ${className}`}>
      {!bare && <TableHead columns={columns} />}
      {rows && <tbody>{list(rows)}</tbody>}
      {groups?.map((group) =>
        group.rows.length === 0 ? null : (
          <tbody key={group.title}>
            <tr>
              <th
                scope="rowgroup"
                colSpan={columns.length}
                className="h-10! pt-3 text-left align-bottom text-xs font-normal! text-muted"
              >
                {group.title}
              </th>
            </tr>
            {list(group.rows)}
          </tbody>
        ),
      )}
      {foot && <tfoot>{foot}</tfoot>}
    </table>
  );
  if (scrolls === undefined) return table;
  return (
    <div className="overflow-x-auto" role="region" aria-label={`${scrolls}, scrolls sideways`} tabIndex={0}>
      {table}
    </div>
  );
}

type Head = Pick<Column<never>, "head" | "silent" | "number" | "wide" | "title">;

/** The heads of a table's columns. */
export function TableHead({ columns }: { columns: readonly Head[] }) {
  return (
    <thead>
      <tr>
        {columns.map(({ head, silent, number, wide, title }, i) => {
          const look = `${number ? "text-right!" : ""} ${wide ? "w-full" : ""}`.trim() || undefined;
          return (
            <th key={i} scope="col" title={title} className={look}>
              {silent ? <span className="sr-only">{head}</span> : head}
            </th>
          );
        })}
      </tr>
    </thead>
  );
}

interface RowProps {
  row: object;
  at: number;
  columns: readonly Column<never>[];
  testId: string | undefined;
}

const TableRow = memo(
  function TableRow({ row, at, columns, testId }: RowProps) {
    return (
      <tr data-testid={testId}>
        {columns.map(({ head, silent, number, names, look, cell }, i) => {
          const className = `${names ? "text-left font-normal!" : ""} ${number ? "num" : ""} ${look ?? ""}`.trim();
          const Cell = names ? "th" : "td";
          return (
            <Cell
              key={i}
              scope={names ? "row" : undefined}
              data-head={names || silent || typeof head !== "string" ? undefined : head}
              className={className || undefined}
            >
              {cell(row as never, at)}
            </Cell>
          );
        })}
      </tr>
    );
  },
  (a, b) => a.columns === b.columns && a.at === b.at && a.testId === b.testId && sameFields(a.row, b.row),
);

function sameFields(a: object, b: object): boolean {
  if (a === b) return true;
  const names = Object.keys(a) as (keyof typeof a)[];
  return names.length === Object.keys(b).length && names.every((name) => a[name] === b[name]);
}
