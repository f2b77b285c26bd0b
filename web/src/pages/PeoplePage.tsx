import { useState } from "react";
import { useForm } from "react-hook-form";
import { api, take, type Role, type Schemas } from "../api/client";
import { useAction, usePeople } from "../api/hooks";
import { moment } from "../ui/format";
import { Button, Columns, Field, Input } from "../ui/parts";
import { Attention } from "../ui/Worksheet";
import { Choice } from "../ui/Choice";
import { Scroll } from "../ui/Scroll";
import { ChoiceField, filled } from "../ui/forms";

const may: Record<Role, string> = {
  reader: "looks",
  inspector: "works and issues reports",
  approver: "also withdraws issued reports",
  administrator: "also looks after people",
};
const roleOptions = (Object.keys(may) as Role[]).map((value) => ({ value }));

/** Who may sign in, and as what. Accounts are never deleted: the log names them. */
export function PeoplePage() {
  const people = usePeople();
  const rows = (people.data ?? []) as (Schemas["PersonView"] & { role: Role })[];
  const [told, setTold] = useState<Schemas["OneTimePassword"] | null>(null);
  const change = useAction(
    (p: { id: string; role: Role; disabled: boolean }) =>
      take(
        api.PUT("/api/people/{id}", {
          params: { path: { id: p.id } },
          body: { role: p.role, disabled: p.disabled },
        }),
      ),
    [["people"]],
  );
  const reset = useAction(
    async (id: string) => setTold(await take(api.POST("/api/people/{id}/password", { params: { path: { id } } }))),
    [["people"]],
  );
  return (
    <Scroll name="People" className="h-full">
      <div className="mx-auto max-w-[1180px] space-y-4 p-6">
        <h1 className="text-xl font-semibold">People</h1>
        {people.error && (
          <p className="text-bad" role="alert">
            {people.error.message}
          </p>
        )}
        {told && (
          <Attention>
            <p>
              One-time password of <span className="font-semibold">{told.name}</span>:{" "}
              <span className="num font-semibold select-all" data-testid="one-time">
                {told.password}
              </span>
            </p>
            <p className="text-soft">It is shown this once, and must be changed at the first sign-in.</p>
          </Attention>
        )}
        <AddPerson onAdded={setTold} />
        <table className="w-full border-collapse border border-line bg-panel">
          <Columns names={["name", "role", "may", "state", "since", ""]} />
          <tbody>
            {rows.map((p) => (
              <tr key={p.id} className="border-t border-line" data-testid={`person-${p.name}`}>
                <td className="px-3 py-1.5 font-semibold">{p.name}</td>
                <td className="px-3 py-1">
                  <Choice
                    aria-label={`Role of ${p.name}`}
                    value={p.role}
                    disabled={change.isPending}
                    options={roleOptions}
                    onChange={(role) => change.mutate({ id: p.id, role, disabled: p.disabled })}
                  />
                </td>
                <td className="px-3 text-soft">{may[p.role]}</td>
                <td className="px-3">
                  {p.disabled ? (
                    <span className="text-bad">disabled</span>
                  ) : p.mustChangePassword ? (
                    <span className="text-brass">one-time password</span>
                  ) : (
                    "in use"
                  )}
                </td>
                <td className="num px-3 whitespace-nowrap">{moment(p.createdAt)}</td>
                <td className="space-x-1 px-3 text-right whitespace-nowrap">
                  <Button tone="quiet" disabled={reset.isPending} onClick={() => reset.mutate(p.id)}>
                    Reset password
                  </Button>
                  <Button
                    tone="quiet"
                    disabled={change.isPending}
                    onClick={() => change.mutate({ id: p.id, role: p.role, disabled: !p.disabled })}
                  >
                    {p.disabled ? "Enable" : "Disable"}
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </Scroll>
  );
}

function AddPerson({ onAdded }: { onAdded: (told: Schemas["OneTimePassword"]) => void }) {
  const { register, control, handleSubmit, reset, formState } = useForm<{ name: string; role: Role }>({
    mode: "onChange",
    defaultValues: { name: "", role: "inspector" },
  });
  const add = useAction(
    (body: { name: string; role: Role }) => take(api.POST("/api/people", { body })),
    [["people"]],
    "form",
  );
  return (
    <form
      className="flex items-start gap-2"
      aria-label="Add a person"
      onSubmit={(e) =>
        void handleSubmit(({ name, role }) =>
          add.mutate(
            { name: name.trim(), role },
            {
              onSuccess: (told) => {
                onAdded(told);
                reset({ name: "", role });
              },
            },
          ),
        )(e)
      }
    >
      <div className="w-56">
        <Field label="Name" error={add.error?.message}>
          <Input {...register("name", { validate: filled })} maxLength={60} />
        </Field>
      </div>
      <div className="w-44">
        <ChoiceField label="Role" name="role" control={control} options={roleOptions} />
      </div>
      <Button type="submit" className="mt-[18px]" disabled={!formState.isValid || add.isPending}>
        Add a person
      </Button>
    </form>
  );
}
