/** Whether a text holds every word that is typed. */
export const holdsWords = (text: string, typed: string): boolean =>
  typed
    .toLowerCase()
    .split(/\s+/)
    .every((w) => text.toLowerCase().includes(w));

/** With tabs: a spreadsheet takes it as it is pasted. */
export const asTabs = (table: readonly (string | number)[][]): string =>
  table.map((cells) => cells.map((c) => inert(c).replace(/[\t\r\n]/g, " ")).join("\t")).join("\n");

/** RFC 4180, with a dot in numbers. */
export const asCsv = (table: readonly (string | number)[][]): string =>
  table
    .map((cells) =>
      cells
        .map(inert)
        .map((c) => (/[",\r\n]/.test(c) ? `"${c.replaceAll('"', '""')}"` : c))
        .join(","),
    )
    .join("\r\n") + "\r\n";

/** A name that begins like a formula stays text. */
const inert = (cell: string | number): string =>
  typeof cell === "number" ? String(cell) : /^[=+\-@\t\r]/.test(cell) ? `'${cell}` : cell;
