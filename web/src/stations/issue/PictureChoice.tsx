import { useRef } from "react";
import type { Schemas } from "../../api/client";
import { FileChoice } from "../../ui/FileChoice";
import { say } from "../../ui/notices";
import { Button } from "../../ui/parts";
import { pictureOf } from "./pictures";

interface Props {
  /** What the chosen file is for. */
  label: string;
  /** On the button. */
  children: string;
  disabled: boolean;
  /** The picture, and the name of its file without the ending. */
  onChoose: (picture: Schemas["ReportPicture"], name: string) => void;
}

/** A PNG or JPEG from the disk; one that is too large is said and changes nothing. */
export function PictureChoice({ label, children, disabled, onChoose }: Props) {
  const file = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button disabled={disabled} onClick={() => file.current?.click()}>
        {children}
      </Button>
      <FileChoice
        label={label}
        ref={file}
        accept=".png,.jpg,.jpeg"
        onChoose={([chosen]) =>
          void pictureOf(chosen).then(
            (picture) => onChoose(picture, chosen.name.replace(/\.[^.]*$/, "")),
            (e: Error) => say(e.message, "bad"),
          )
        }
      />
    </>
  );
}
