import { useQueryClient } from "@tanstack/react-query";
import { useState, type DragEvent, type ReactNode } from "react";
import { useDropzone } from "react-dropzone";
import { useNavigate } from "react-router";
import { api, take, upload } from "../api/client";
import { useFloor } from "../api/hooks";
import { say } from "../ui/notices";
import { Bar, Button, Dialog, Field, Input } from "../ui/parts";
import { useOpened } from "./title";
import { canBeNominal, guessPart, guessRole, guessSerial, isKnown, useReceiving, type Role } from "./receiving";
import { Choice, fileUnits } from "../ui/Choice";

interface Filing {
  file: File;
  role: Role;
  serial: string;
  unit: string;
  share: number | null;
  error: string | null;
}

const roles: { value: Role; name: string }[] = [
  { value: "scan", name: "a scan" },
  { value: "nominal", name: "the nominal" },
];

/** A drag of text, or of things of the page, is none of files: it goes on as if no zone were there. */
const filesOnly = (e: DragEvent<HTMLElement>) => {
  if (!e.dataTransfer.types.includes("Files")) {
    e.stopPropagation();
  }
};

const sign =
  "pointer-events-none fixed inset-2 z-50 grid place-items-center rounded border-4 border-dashed border-indigo bg-tint/70 " +
  "text-xl";

/** The page, and files dropped anywhere on it are filed: nominal or scan, of which part, in which unit. */
export function DropFiles({ className, children }: { className: string; children: ReactNode }) {
  const { files, offer, clear } = useReceiving();
  // Whose part a file is can only be guessed once the parts are known.
  const known = useFloor().data !== undefined;
  const zone = useDropzone({
    noClick: true,
    noKeyboard: true,
    validator: ({ name }) =>
      isKnown(name) ? null : { code: "kind", message: `${name}: this kind of file is not read here.` },
    onDrop: (accepted, refused) => {
      refused.forEach((r) => say(r.errors[0].message, "bad"));
      if (accepted.length > 0) {
        offer(accepted);
      }
    },
  });
  return (
    <div
      {...zone.getRootProps({
        className,
        onDragEnter: filesOnly,
        onDragOver: filesOnly,
        onDragLeave: filesOnly,
        onDrop: filesOnly,
      })}
    >
      {children}
      {zone.isDragActive && <div className={sign}>Drop nominals and scans here</div>}
      {files.length > 0 && known && <FileDialog key={files.map((f) => f.name).join()} files={files} onClose={clear} />}
    </div>
  );
}

function FileDialog({ files, onClose }: { files: File[]; onClose: () => void }) {
  const floor = useFloor();
  const client = useQueryClient();
  const navigate = useNavigate();
  const parts = floor.data?.parts ?? [];
  const here = useOpened((s) => s.opened)?.partId;
  const guess = parts.find((p) => p.id === here) ?? guessPart(files[0].name, parts) ?? parts[0];
  const [partId, setPartId] = useState(
    files.some((f) => guessRole(f.name) === "nominal")
      ? (guessPart(files[0].name, parts)?.id ?? "new")
      : (guess?.id ?? "new"),
  );
  const [fresh, setFresh] = useState({
    number: files[0].name.replace(/\.[^.]+$/, "").slice(0, 60),
    name: "",
    revision: "A",
  });
  const [busy, setBusy] = useState(false);
  const [items, setItems] = useState<Filing[]>(
    files.map((file) => ({
      file,
      role: guessRole(file.name),
      serial: guessSerial(file.name, guess?.number),
      unit: "mm",
      share: null,
      error: null,
    })),
  );
  const put = (index: number, change: Partial<Filing>) =>
    setItems((all) => all.map((f, i) => (i === index ? { ...f, ...change } : f)));

  const receive = async () => {
    setBusy(true);
    let part = partId;
    let lastPiece: string | null = null;
    let failed = false;
    try {
      if (part === "new") {
        part = (await take(api.POST("/api/parts", { body: fresh }))).id;
        setPartId(part);
      }
    } catch (e) {
      say((e as Error).message, "bad");
      setBusy(false);
      return;
    }

    // Nominals first: a scan's unit is judged against them.
    const order = items
      .map((_, i) => i)
      .sort((a, b) => Number(items[a].role === "scan") - Number(items[b].role === "scan"));
    for (const i of order) {
      const item = items[i];
      if (item.share === 1 && !item.error) {
        continue;
      }

      try {
        put(i, { share: 0, error: null });
        const sent = await upload(item.file, (share) => put(i, { share: 0.98 * share }));
        if (item.role === "nominal") {
          await take(
            api.POST("/api/parts/{id}/nominal", {
              params: { path: { id: part } },
              body: { sha: sent.sha, fileName: sent.fileName, unit: item.unit },
            }),
          );
        } else {
          const piece = await take(
            api.POST("/api/pieces", {
              body: { partId: part, serial: item.serial, sha: sent.sha, fileName: sent.fileName, unit: item.unit },
            }),
          );
          lastPiece = piece.id;
        }

        put(i, { share: 1 });
      } catch (e) {
        failed = true;
        put(i, { share: null, error: (e as Error).message });
      }
    }

    await client.invalidateQueries();
    setBusy(false);
    if (!failed) {
      onClose();
      say("Received. What is being read shows its progress on the floor and at the piece.");
      if (lastPiece && items.filter((f) => f.role === "scan").length === 1) {
        void navigate(`/pieces/${lastPiece}/receive`);
      }
    }
  };

  return (
    <Dialog
      open
      wide
      title="Receive files"
      about="Nothing is computed before the unit is settled."
      onClose={() => !busy && onClose()}
    >
      <form
        className="space-y-4"
        onSubmit={(e) => {
          e.preventDefault();
          void receive();
        }}
      >
        <Field label="Part">
          <Choice
            value={partId}
            disabled={busy}
            options={[
              ...parts.map((p) => ({ value: p.id, name: `${p.number} rev ${p.revision}, ${p.name}` })),
              { value: "new", name: "a new part" },
            ]}
            onChange={setPartId}
          />
        </Field>
        {partId === "new" && (
          <div className="grid grid-cols-[1fr_1fr_80px] gap-2">
            <Field label="Part number">
              <Input required value={fresh.number} onChange={(e) => setFresh({ ...fresh, number: e.target.value })} />
            </Field>
            <Field label="Name">
              <Input value={fresh.name} onChange={(e) => setFresh({ ...fresh, name: e.target.value })} />
            </Field>
            <Field label="Revision">
              <Input
                required
                value={fresh.revision}
                onChange={(e) => setFresh({ ...fresh, revision: e.target.value })}
              />
            </Field>
          </div>
        )}
        <ul className="space-y-3">
          {items.map((item, i) => (
            <li key={item.file.name} className="rounded border border-line p-2">
              <div className="mb-1 flex justify-between">
                <strong>{item.file.name}</strong>
                <span className="num text-soft">{(item.file.size / 1e6).toFixed(1)} MB</span>
              </div>
              <div className="grid grid-cols-3 gap-2">
                <Field label="It is">
                  <Choice
                    value={item.role}
                    disabled={busy || !canBeNominal(item.file.name)}
                    options={roles.filter((r) => r.value === "scan" || canBeNominal(item.file.name))}
                    onChange={(role) => put(i, { role })}
                  />
                </Field>
                {item.role === "scan" && (
                  <Field label="Serial number">
                    <Input
                      required
                      value={item.serial}
                      disabled={busy}
                      onChange={(e) => put(i, { serial: e.target.value })}
                    />
                  </Field>
                )}
                <Field label="Unit">
                  <Choice
                    value={item.unit}
                    disabled={busy || guessRole(item.file.name) === "nominal"}
                    options={fileUnits}
                    onChange={(unit) => put(i, { unit })}
                  />
                </Field>
              </div>
              {item.share !== null && (
                <div className="mt-2">
                  <Bar share={item.share} label={`Upload of ${item.file.name}`} />
                </div>
              )}
              {item.error && (
                <p className="mt-1 text-bad" role="alert">
                  {item.error}
                </p>
              )}
            </li>
          ))}
        </ul>
        <div className="flex justify-end gap-2">
          <Button onClick={onClose} disabled={busy}>
            Cancel
          </Button>
          <Button type="submit" tone="primary" disabled={busy}>
            {busy ? "Receiving …" : "Receive"}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
