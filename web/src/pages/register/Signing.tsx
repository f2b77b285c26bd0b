import { useState } from "react";
import { api, take } from "../../api/client";
import { useAction } from "../../api/hooks";
import { Button, Dialog, Field, Input } from "../../ui/parts";

interface Props {
  report: { id: string; number: string };
  onClose: () => void;
}

const changed = [["reports"], ["piece"], ["floor"]];

/** A report never goes; withdrawn it says why, and the next one of the piece says what it replaces. */
export function Withdraw({ report, onClose }: Props) {
  const [why, setWhy] = useState("");
  const [password, setPassword] = useState("");
  const { mutate, isPending } = useAction(
    () =>
      take(
        api.POST("/api/reports/{id}/withdrawal", {
          params: { path: { id: report.id } },
          body: { why: why.trim(), password },
        }),
      ),
    changed,
  );
  return (
    <Dialog
      open
      title={`Withdraw ${report.number}`}
      about="The report stays in the register, marked withdrawn with your name and reason."
      onClose={onClose}
    >
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          mutate(undefined, { onSuccess: onClose });
        }}
      >
        <Field label="Reason">
          <Input value={why} maxLength={1000} onChange={(e) => setWhy(e.target.value)} autoFocus />
        </Field>
        <Password value={password} onChange={setPassword} />
        <Button type="submit" tone="primary" disabled={why.trim() === "" || password === "" || isPending}>
          Withdraw the report
        </Button>
      </form>
    </Dialog>
  );
}

/** A second person stands for a report. */
export function Countersign({ report, onClose }: Props) {
  const [password, setPassword] = useState("");
  const { mutate, isPending } = useAction(
    () =>
      take(api.POST("/api/reports/{id}/countersignature", { params: { path: { id: report.id } }, body: { password } })),
    changed,
  );
  return (
    <Dialog
      open
      title={`Countersign ${report.number}`}
      about="Your name is entered in the register beside the inspector's; it cannot be taken back."
      onClose={onClose}
    >
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          mutate(undefined, { onSuccess: onClose });
        }}
      >
        <Password value={password} onChange={setPassword} autoFocus />
        <Button type="submit" tone="primary" disabled={password === "" || isPending}>
          Countersign the report
        </Button>
      </form>
    </Dialog>
  );
}

const Password = ({
  value,
  onChange,
  autoFocus,
}: {
  value: string;
  onChange: (value: string) => void;
  autoFocus?: boolean;
}) => (
  <Field label="Your password, to sign">
    <Input
      type="password"
      autoComplete="current-password"
      value={value}
      onChange={(e) => onChange(e.target.value)}
      autoFocus={autoFocus}
    />
  </Field>
);
