import { useState } from "react";
import { api, take } from "../api/client";
import { useAction } from "../api/hooks";
import { Button, Field, Input } from "../ui/parts";
import { Notices } from "../shell/Notices";

export function SignInPage() {
  const [user, setUser] = useState("");
  const [password, setPassword] = useState("");
  const signIn = useAction(() => take(api.POST("/api/session", { body: { user, password } })), [["session"]]);
  return (
    <main className="grid h-full place-items-center">
      <form
        className="w-80 space-y-3 rounded border border-line bg-panel p-6"
        onSubmit={(e) => {
          e.preventDefault();
          signIn.mutate(undefined);
        }}
      >
        <div className="flex items-center gap-3">
          <img src="/mark.svg" alt="" width="36" height="36" />
          <div>
            <h1 className="text-xl font-semibold">Bostel</h1>
            <p className="text-soft">Dimensional inspection of scans</p>
          </div>
        </div>
        <Field label="Name">
          <Input autoComplete="username" value={user} onChange={(e) => setUser(e.target.value)} autoFocus />
        </Field>
        <Field label="Password">
          <Input
            type="password"
            autoComplete="current-password"
            value={password}
            onChange={(e) => setPassword(e.target.value)}
          />
        </Field>
        <Button type="submit" tone="primary" className="w-full" disabled={!user || !password || signIn.isPending}>
          Sign in
        </Button>
        {signIn.error && (
          <p className="text-bad" role="alert">
            {signIn.error.message}
          </p>
        )}
      </form>
      <Notices />
    </main>
  );
}
