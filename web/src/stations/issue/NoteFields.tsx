import { useState } from "react";
import type { ReportBlock } from "../../api/client";
import { TextField } from "../../ui/NumberField";

type Note = Extract<ReportBlock, { kind: "note" }>;

/** A note's title and text; the text is kept when it is left. */
export function NoteFields({
  note,
  disabled,
  onChange,
}: {
  note: Note;
  disabled: boolean;
  onChange: (to: Note) => void;
}) {
  const [text, setText] = useState<string | null>(null);
  return (
    <div className="space-y-1 py-1 pl-5">
      <TextField
        label="Title"
        value={note.title ?? ""}
        optional
        disabled={disabled}
        onChange={(title) => onChange({ ...note, title })}
      />
      <textarea
        aria-label="Text of the note"
        rows={3}
        maxLength={5000}
        disabled={disabled}
        className="w-full rounded border border-line bg-panel px-2 py-1"
        value={text ?? note.text ?? ""}
        onChange={(e) => setText(e.target.value)}
        onBlur={() => {
          if (text !== null && text !== note.text) {
            onChange({ ...note, text });
          }

          setText(null);
        }}
      />
    </div>
  );
}
