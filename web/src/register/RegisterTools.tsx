import { useMutation } from "@tanstack/react-query";
import { useDropzone } from "react-dropzone";
import { api, take, type Schemas } from "../api/client";
import { moment } from "../ui/format";
import { Button } from "../ui/parts";
import { say } from "../ui/notices";
import { verdictWord } from "../ui/VerdictMark";
import { stateOf } from "./states";
import { Scroll } from "../ui/Scroll";

/** A file is dropped or chosen and told whether it is what was issued; the whole register is gone through. */
export function RegisterTools() {
  const verify = useMutation({
    mutationFn: async (chosen: File) => ({
      name: chosen.name,
      found: await take(
        api.POST("/api/register/verification", {
          body: chosen as unknown as string,
          bodySerializer: (body: unknown) => body as BodyInit,
          headers: { "Content-Type": "application/octet-stream" },
        }),
      ),
    }),
  });
  const drop = useDropzone({
    onDrop: ([first], more) => {
      if (!first) {
        return;
      }

      verify.mutate(first);
      if (more.length > 0) {
        say(`Only ${first.name} is verified: one file at a time.`);
      }
    },
    multiple: false,
    noClick: true,
    noKeyboard: true,
    noDragEventsBubbling: true,
  });
  const check = useMutation({ mutationFn: () => take(api.GET("/api/register/check")) });
  return (
    <section
      {...drop.getRootProps({
        role: "region",
        "aria-label": "Verify",
        className: `space-y-2 rounded border border-dashed p-3 ${
          drop.isDragActive ? "border-indigo bg-tint" : "border-line bg-panel"
        }`,
      })}
    >
      <div className="flex flex-wrap items-center gap-2">
        <span>Is a file what was issued? Drop it here, or</span>
        <Button onClick={drop.open} disabled={verify.isPending}>
          choose it …
        </Button>
        <input {...drop.getInputProps({ "aria-label": "File to verify" })} />
        <Button className="ml-auto" onClick={() => check.mutate()} disabled={check.isPending}>
          Check the whole register
        </Button>
      </div>
      {verify.error && <p className="text-bad">{verify.error.message}</p>}
      {verify.data && <Found {...verify.data} />}
      {check.error && <p className="text-bad">{check.error.message}</p>}
      {check.data && (
        <div role="status">
          {check.data.faults.length === 0 ? (
            <p>
              <b>The register is as it was entered:</b> {check.data.entries} entries, each following from the one before
              it, each signature valid, every report and every stored file unchanged.
            </p>
          ) : (
            <>
              <p className="font-semibold text-bad">The register has faults:</p>
              <ul className="list-disc pl-5 text-bad">
                {check.data.faults.map((f, i) => (
                  <li key={i}>
                    {f.entry !== null && `Entry ${f.entry}`} {f.report}: {f.what}
                  </li>
                ))}
              </ul>
            </>
          )}
        </div>
      )}
    </section>
  );
}

function Found({ name, found }: { name: string; found: Schemas["VerificationView"] }) {
  const { report, entry } = found;
  if (!report) {
    return (
      <p role="status" className="text-bad">
        <b>{name} was not issued here</b>, or was changed since: no report has a file with this SHA-256 (
        <span className="num">{found.sha.slice(0, 16)}…</span>).
      </p>
    );
  }

  return (
    <div role="status">
      <p className={report.holds ? "" : "text-bad"}>
        <b>
          {name} is the {found.format?.toUpperCase()} of {report.number}
          {report.holds ? ", and it holds." : ", but it does not hold."}
        </b>{" "}
        {report.partNumber} piece {report.serial}, {verdictWord[report.verdict]}; issued by {report.issuedBy},{" "}
        {moment(report.issuedAt)}. {stateOf(report).says}
      </p>
      {entry && (
        <details className="text-xs text-soft">
          <summary className="cursor-pointer">Entry {entry.number} of the register, with its signature</summary>
          <p className="mt-1">
            The signature is of the hash, by ECDSA P-256 with SHA-256; the hash is of what was entered, in which the
            SHA-256 of every file stands. Anybody can check it with the key below.
          </p>
          <Scroll name="Entry" className="mt-1 border border-line bg-page p-2">
            <pre className="num">
              {[
                `hash      ${entry.hash}`,
                `signature ${entry.signature}`,
                `before    ${entry.before || "(the first)"}`,
                `entered   ${entry.content}`,
                "",
                entry.publicKey,
              ].join("\n")}
            </pre>
          </Scroll>
        </details>
      )}
    </div>
  );
}
