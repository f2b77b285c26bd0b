import { useState, type ReactNode } from "react";
import { api, take } from "../api/client";
import { useAction } from "../api/hooks";
import { say } from "../ui/notices";
import { Button, Dialog, Field, Input } from "../ui/parts";

interface Props {
  report: { id: string; number: string };
  onClose: () => void;
}

/** A report never goes; withdrawn it says why, and the next one of the piece says what it replaces. */
export function Withdraw({ report, onClose }: Props) {
  const [why, setWhy] = useState("");
  return (
    <Signed
      title={`Withdraw ${report.number}`}
      about="The report stays in the register, marked withdrawn with your name and reason."
      action="Withdraw the report"
      ready={why.trim() !== ""}
      sign={(password) =>
        take(
          api.POST("/api/reports/{id}/withdrawal", {
            params: { path: { id: report.id } },
            body: { why: why.trim(), password },
          }),
        )
      }
      onClose={onClose}
    >
      <Field label="Reason">
        <Input value={why} maxLength={1000} onChange={(e) => setWhy(e.target.value)} autoFocus />
      </Field>
    </Signed>
  );
}

/** A second person stands for a report. */
export const Countersign = ({ report, onClose }: Props) => (
  <Signed
    title={`Countersign ${report.number}`}
    about="Your name is entered in the register beside the inspector's; it cannot be taken back."
    action="Countersign the report"
    sign={(password) =>
      take(api.POST("/api/reports/{id}/countersignature", { params: { path: { id: report.id } }, body: { password } }))
    }
    onClose={onClose}
  />
);

interface IssueProps {
  /** The pieces, and how they are told in the title. */
  pieces: readonly string[];
  what: string;
  onClose: () => void;
}

/** Reports are issued: many with one signature. What stands in the way of one does not hold up the others. */
export const IssueReports = ({ pieces, what, onClose }: IssueProps) => (
  <Signed
    title={`Issue ${what}`}
    about="Your name is entered in the register. What was issued never changes again; a correction is a new report."
    action={pieces.length === 1 ? "Sign and issue" : `Sign and issue ${pieces.length} reports`}
    sign={async (password) => {
      const answers = await take(api.POST("/api/issuing", { body: { pieces: [...pieces], password } }));
      const problems = answers.flatMap((a) => a.problem ?? []);
      if (problems.length > 0) {
        say(problems.join(" "), "bad");
      }
    }}
    onClose={onClose}
  />
);

interface SignedProps {
  title: string;
  about: string;
  /** On the button. */
  action: string;
  /** Whether the rest of the form is filled in. */
  ready?: boolean;
  sign: (password: string) => Promise<unknown>;
  onClose: () => void;
  children?: ReactNode;
}

/** What is signed asks for the password again. */
function Signed({ title, about, action, ready = true, sign, onClose, children }: SignedProps) {
  const [password, setPassword] = useState("");
  const { mutate, isPending } = useAction(() => sign(password), [["reports"], ["piece"], ["pieces"], ["floor"]]);
  return (
    <Dialog open title={title} about={about} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          mutate(undefined, { onSuccess: onClose });
        }}
      >
        {children}
        <Field label="Your password, to sign">
          <Input
            type="password"
            autoComplete="current-password"
            value={password}
            onChange={(e) => setPassword(e.target.value)}
          />
        </Field>
        <Button type="submit" tone="primary" disabled={!ready || password === "" || isPending}>
          {action}
        </Button>
      </form>
    </Dialog>
  );
}
