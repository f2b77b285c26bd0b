import type { RefObject } from "react";

interface Props {
  label: string;
  /** Its click opens the dialog of the system. */
  ref: RefObject<HTMLInputElement | null>;
  /** Endings that are offered; all files otherwise. */
  accept?: string;
  multiple?: boolean;
  /** At least one. */
  onChoose: (files: File[]) => void;
}

/** Files from the disk; shown is the button that opens it. The same file may be chosen twice in turn. */
export const FileChoice = ({ label, ref, accept, multiple = false, onChoose }: Props) => (
  <input
    ref={ref}
    type="file"
    accept={accept}
    multiple={multiple}
    hidden
    aria-label={label}
    onChange={(e) => {
      const files = [...(e.target.files ?? [])];
      e.target.value = "";
      if (files.length > 0) {
        onChoose(files);
      }
    }}
  />
);
