import type { ReactNode } from "react";
import { useForm, type UseFormRegister } from "react-hook-form";
import { api, take } from "../api/client";
import { useAction } from "../api/hooks";
import { say } from "../ui/notices";
import { filled, FormError } from "../ui/forms";
import { Button, Dialog, Field, Input } from "../ui/parts";

interface Props {
  report: { id: string; number: string };
  onClose: () => void;
}

/** A report never goes; withdrawn it says why, and the next one of the piece says what it replaces. */
export const Withdraw = ({ report, onClose }: Props) => (
  <Signed
    title={`Withdraw ${report.number}`}
    about="The report stays in the register, marked withdrawn with your name and reason."
    action="Withdraw the report"
    sign={({ password, why }) =>
      take(
        api.POST("/api/reports/{id}/withdrawal", {
          params: { path: { id: report.id } },
          body: { why: why.trim(), password },
        }),
      )
    }
    onClose={onClose}
  >
    {(register) => (
      <Field label="Reason">
        <Input {...register("why", { validate: filled })} maxLength={1000} autoFocus />
      </Field>
    )}
  </Signed>
);

/** A second person stands for a report. */
export const Countersign = ({ report, onClose }: Props) => (
  <Signed
    title={`Countersign ${report.number}`}
    about="Your name is entered in the register beside the inspector's; it cannot be taken back."
    action="Countersign the report"
    sign={({ password }) =>
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
    sign={async ({ password }) => {
      const answers = await take(api.POST("/api/issuing", { body: { pieces: [...pieces], password } }));
      const problems = answers.flatMap((a) => a.problem ?? []);
      if (problems.length > 0) {
        say(problems.join(" "), "bad");
      }
    }}
    onClose={onClose}
  />
);

interface Signature {
  password: string;
  /** Empty where no reason is asked for. */
  why: string;
}

interface SignedProps {
  title: string;
  about: string;
  /** On the button. */
  action: string;
  sign: (typed: Signature) => Promise<unknown>;
  onClose: () => void;
  /** Fields above the password. */
  children?: (register: UseFormRegister<Signature>) => ReactNode;
}

/** What is signed asks for the password again. */
function Signed({ title, about, action, sign, onClose, children }: SignedProps) {
  const { register, handleSubmit, formState } = useForm<Signature>({
    mode: "onChange",
    defaultValues: { password: "", why: "" },
  });
  const { mutate, isPending, error } = useAction(sign, [["reports"], ["piece"], ["pieces"], ["floor"]], "form");
  return (
    <Dialog open title={title} about={about} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => void handleSubmit((typed) => mutate(typed, { onSuccess: onClose }))(e)}
      >
        {children?.(register)}
        <Field label="Your password, to sign">
          <Input {...register("password", { required: true })} type="password" autoComplete="current-password" />
        </Field>
        <FormError error={error} />
        <Button type="submit" tone="primary" disabled={!formState.isValid || isPending}>
          {action}
        </Button>
      </form>
    </Dialog>
  );
}
