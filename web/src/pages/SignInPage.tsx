import { useForm } from "react-hook-form";
import { api, take } from "../api/client";
import { useAction } from "../api/hooks";
import { FormError } from "../ui/forms";
import { Button, Field, Input } from "../ui/parts";
import { Notices } from "../shell/Notices";

interface Credentials {
  user: string;
  password: string;
}

export function SignInPage() {
  const { register, handleSubmit, formState } = useForm<Credentials>({ mode: "onChange" });
  const signIn = useAction((body: Credentials) => take(api.POST("/api/session", { body })), [["session"]], "form");
  return (
    <main className="grid h-full place-items-center">
      <form
        className="w-80 space-y-3 rounded border border-line bg-panel p-6"
        onSubmit={(e) => void handleSubmit((typed) => signIn.mutate(typed))(e)}
      >
        <div className="flex items-center gap-3">
          <img src="/mark.svg" alt="" width="36" height="36" />
          <div>
            <h1 className="text-xl font-semibold">Bostel</h1>
            <p className="text-soft">Dimensional inspection of scans</p>
          </div>
        </div>
        <Field label="Name">
          <Input {...register("user", { required: true })} autoComplete="username" autoFocus />
        </Field>
        <Field label="Password">
          <Input {...register("password", { required: true })} type="password" autoComplete="current-password" />
        </Field>
        <Button type="submit" tone="primary" className="w-full" disabled={!formState.isValid || signIn.isPending}>
          Sign in
        </Button>
        <FormError error={signIn.error} />
      </form>
      <Notices />
    </main>
  );
}
