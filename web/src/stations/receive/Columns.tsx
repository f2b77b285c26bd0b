import { useState } from "react";
import { api, take, type PieceView } from "../../api/client";
import { useAction, useSheet } from "../../api/hooks";
import { Button } from "../../ui/parts";
import { Block } from "../../ui/Worksheet";
import { Choice } from "../../ui/Choice";
import { Scroll } from "../../ui/Scroll";

const names = ["x", "y", "z", "nx", "ny", "nz", "-"];

/** How the columns of a text of points were taken, beside its first lines, for confirmation or change. */
export function Columns({ piece, busy }: { piece: PieceView; busy: boolean }) {
  const sheet = useSheet(piece);
  const comma = piece.columns!.startsWith(",");
  const [columns, setColumns] = useState(piece.columns!.replace(/^,/, "").split(" "));
  const text = (comma ? "," : "") + columns.join(" ");
  const change = useAction(
    (to: string) =>
      take(api.POST("/api/pieces/{id}/columns", { params: { path: { id: piece.id } }, body: { columns: to } })),
    [["piece", piece.id]],
  );
  return (
    <Block title="Columns of the file">
      <div className="flex flex-wrap gap-1">
        {columns.slice(0, 10).map((c, i) => (
          <Choice
            key={i}
            aria-label={`Column ${i + 1}`}
            className="num text-xs"
            value={c}
            disabled={busy}
            options={names.map((value) => ({ value, name: value === "-" ? "not read" : value }))}
            onChange={(name) => setColumns(columns.map((x, k) => (k === i ? name : x)))}
          />
        ))}
        {text !== piece.columns && (
          <Button className="h-7 px-2 text-xs" disabled={busy} onClick={() => change.mutate(text)}>
            Read again so
          </Button>
        )}
      </div>
      {sheet.data && sheet.data.firstLines.length > 0 && (
        <Scroll name="First lines of the file" className="mt-1 rounded border border-line bg-page p-1">
          <pre className="num text-xs">{sheet.data.firstLines.join("\n")}</pre>
        </Scroll>
      )}
      <p className="mt-1 text-xs text-soft">
        {comma ? "Numbers have decimal commas. " : ""}This was guessed from the first lines; change it where it is
        wrong.
      </p>
    </Block>
  );
}
