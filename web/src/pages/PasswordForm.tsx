import { useState } from "react";
import { api, take } from "../api/client";
import { useAction } from "../api/hooks";
import { say } from "../ui/notices";
import { Notices } from "../shell/Notices";
import { Button, Field, Input } from "../ui/parts";

const least = 10;

/** One's own password: the present one, and a new one twice. All other open sign-ins of the account end. */
export function PasswordForm({ onDone }: { onDone?: () => void }) {
  const [old, setOld] = useState("");
  const [next, setNext] = useState("");
  const [again, setAgain] = useState("");
  const change = useAction(() => take(api.POST("/api/session/password", { body: { old, new: next } })), [["session"]]);
  const problem =
    next !== "" && next.length < least
      ? `At least ${least} characters.`
      : again !== "" && again !== next
        ? "The two do not agree."
        : null;
  return (
    <form
      className="space-y-3"
      aria-label="Change the password"
      onSubmit={(e) => {
        e.preventDefault();
        change.mutate(undefined, {
          onSuccess: () => {
            say("The password is changed.");
            onDone?.();
          },
        });
      }}
    >
      <Field label="Present password">
        <Input type="password" autoComplete="current-password" value={old} onChange={(e) => setOld(e.target.value)} />
      </Field>
      <Field label="New password">
        <Input type="password" autoComplete="new-password" value={next} onChange={(e) => setNext(e.target.value)} />
      </Field>
      <Field label="New password again">
        <Input type="password" autoComplete="new-password" value={again} onChange={(e) => setAgain(e.target.value)} />
      </Field>
      {(problem ?? change.error) && (
        <p className="text-bad" role="alert">
          {problem ?? change.error?.message}
        </p>
      )}
      <Button
        type="submit"
        tone="primary"
        className="w-full"
        disabled={!old || next.length < least || next !== again || change.isPending}
      >
        Change the password
      </Button>
    </form>
  );
}

/** Shown after signing in with a password that somebody else gave. */
export function OwnPasswordPage({ user }: { user: string }) {
  return (
    <main className="grid h-full place-items-center">
      <div className="w-80 space-y-3 rounded border border-line bg-panel p-6">
        <h1 className="text-xl font-semibold">A password of your own</h1>
        <p className="text-soft">
          {user} was given a one-time password. Choose your own before anything else; nobody but you will know it.
        </p>
        <PasswordForm />
      </div>
      <Notices />
    </main>
  );
}
