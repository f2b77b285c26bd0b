import { Clipboard, Download } from "lucide-react";
import { say } from "../ui/notices";
import { Input, Named } from "../ui/parts";
import { asCsv, asTabs } from "./table";

interface Props {
  /** What a row is, in the plural. */
  what: string;
  words: string;
  onWords: (words: string) => void;
  /** What is listed, below a row of names. */
  table: () => (string | number)[][];
  fileName: string;
}

/** What can be done with a table under the stage: search it, take it along. */
export function TableTools({ what, words, onWords, table, fileName }: Props) {
  const copy = () => {
    const rows = table();
    navigator.clipboard.writeText(asTabs(rows)).then(
      () => say(`${rows.length - 1} ${what} are copied as a table.`),
      () => say("The browser does not let the table be copied.", "bad"),
    );
  };
  const save = () => {
    const link = document.createElement("a");
    link.href = URL.createObjectURL(new Blob([asCsv(table())], { type: "text/csv" }));
    link.download = fileName;
    link.click();
    URL.revokeObjectURL(link.href);
  };
  return (
    <>
      <Input
        type="search"
        aria-label={`Only ${what} with these words`}
        placeholder="only with …"
        className="h-6! w-28 @4xl:w-36"
        value={words}
        onChange={(e) => onWords(e.target.value)}
      />
      <Named name="Copy what is listed, for a spreadsheet">
        <button type="button" aria-label="Copy the table" onClick={copy}>
          <Clipboard size={15} aria-hidden />
        </button>
      </Named>
      <Named name="Save what is listed as CSV">
        <button type="button" aria-label="Save as CSV" onClick={save}>
          <Download size={15} aria-hidden />
        </button>
      </Named>
    </>
  );
}
