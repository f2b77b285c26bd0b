import { useForm } from "react-hook-form";
import { api, take } from "../api/client";
import { useAction } from "../api/hooks";
import { say } from "../ui/notices";
import { Notices } from "../shell/Notices";
import { FormError } from "../ui/forms";
import { Button, Field, Input } from "../ui/parts";

const least = 10;

interface Change {
  old: string;
  next: string;
  again: string;
}

/** One's own password: the present one, and a new one twice. All other open sign-ins of the account end. */
export function PasswordForm({ onDone }: { onDone?: () => void }) {
  const { register, handleSubmit, formState } = useForm<Change>({ mode: "onChange" });
  const { errors, isValid } = formState;
  const change = useAction(
    ({ old, next }: Change) => take(api.POST("/api/session/password", { body: { old, new: next } })),
    [["session"]],
    "form",
  );
  const keep = (typed: Change) =>
    change.mutate(typed, {
      onSuccess: () => {
        say("The password is changed.");
        onDone?.();
      },
    });
  return (
    <form className="space-y-3" aria-label="Change the password" onSubmit={(e) => void handleSubmit(keep)(e)}>
      <Field label="Present password">
        <Input {...register("old", { required: true })} type="password" autoComplete="current-password" />
      </Field>
      <Field label="New password" error={errors.next?.message}>
        <Input
          {...register("next", {
            required: true,
            minLength: { value: least, message: `At least ${least} characters.` },
            deps: "again",
          })}
          type="password"
          autoComplete="new-password"
        />
      </Field>
      <Field label="New password again" error={errors.again?.message}>
        <Input
          {...register("again", {
            required: true,
            validate: (again, typed) => again === typed.next || "The two do not agree.",
          })}
          type="password"
          autoComplete="new-password"
        />
      </Field>
      <FormError error={change.error} />
      <Button type="submit" tone="primary" className="w-full" disabled={!isValid || change.isPending}>
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
