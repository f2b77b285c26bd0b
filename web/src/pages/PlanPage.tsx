import { Download, RotateCcw, Stamp, Upload } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { useParams } from "react-router";
import { api, take, type Schemas } from "../api/client";
import {
  useAction,
  useFloor,
  useMay,
  useRelease,
  usePlan,
  usePlanChanges,
  usePlanWords,
  useRevisions,
} from "../api/hooks";
import { useOpened } from "../shell/title";
import { moment, plural } from "../ui/format";
import { say } from "../ui/notices";
import { Button, linkButton } from "../ui/parts";
import { Menu } from "../ui/Choice";
import { FileChoice } from "../ui/FileChoice";
import { Scroll } from "../ui/Scroll";

/** A part's plan in words, where it came from, and what was in force before. */
export function PlanPage() {
  const { id = "" } = useParams();
  const plan = usePlan(id);
  const floor = useFloor();
  const part = floor.data?.parts.find((p) => p.id === id);
  const show = useOpened((s) => s.show);
  const stored = plan.data;
  useEffect(() => {
    if (stored && part) {
      show({
        partId: id,
        text: `${part.number} rev ${part.revision} · plan ${stored.number}`,
        plan: { number: stored.number, canUndo: stored.canUndo, canRedo: stored.canRedo },
      });
    }

    return () => show(null);
  }, [stored, part, id, show]);
  if (plan.error) {
    return (
      <p className="p-6 text-bad" role="alert">
        {plan.error.message}
      </p>
    );
  }

  if (!stored || !part) {
    return <p className="p-6">Opening the plan …</p>;
  }

  return (
    <Scroll name="Plan" className="h-full">
      <div className="mx-auto max-w-[1400px] p-6">
        <div className="mb-4 flex flex-wrap items-center gap-2">
          <h1 className="mr-auto text-xl font-semibold">
            Plan of {part.number} {part.name}
          </h1>
          <Sources id={id} basedOn={stored.number} others={(floor.data?.parts ?? []).filter((p) => p.id !== id)} />
        </div>
        <div className="grid gap-8 lg:grid-cols-[1fr_1fr]">
          <Words id={id} number={stored.number} />
          <Revisions id={id} head={stored.number} />
        </div>
      </div>
    </Scroll>
  );
}

/** Plans go to files and come from them, or from another part. */
function Sources({ id, basedOn, others }: { id: string; basedOn: number; others: Schemas["PartSummary"][] }) {
  const mayWork = useMay("inspector");
  const file = useRef<HTMLInputElement>(null);
  const refresh = [["plan", id], ["revisions", id], ["piece"], ["floor"]];
  const load = useAction(
    async (chosen: File) =>
      take(
        api.POST("/api/parts/{id}/plan/load", {
          params: { path: { id } },
          body: { basedOn, fileName: chosen.name, json: await chosen.text() },
        }),
      ),
    refresh,
  );
  const copy = useAction(
    (from: string) =>
      take(api.POST("/api/parts/{id}/plan/copy", { params: { path: { id } }, body: { basedOn, from } })),
    refresh,
  );
  return (
    <>
      <a className={linkButton} href={`/api/parts/${id}/plan/file`} download>
        <Download size={14} /> Save as file
      </a>
      <Button disabled={!mayWork || load.isPending} onClick={() => file.current?.click()}>
        <Upload size={14} /> Load from file
      </Button>
      <FileChoice
        ref={file}
        label="Plan file"
        accept=".json"
        onChoose={([f]) => load.mutate(f, { onSuccess: () => say(`The plan of ${f.name} is in force.`) })}
      />
      <Menu
        name="Copy from part"
        disabled={!mayWork || copy.isPending || others.length === 0}
        groups={[{ options: others.map((p) => ({ value: p.id, name: `${p.number} ${p.name}` })) }]}
        onPick={(id) => copy.mutate(id)}
      />
    </>
  );
}

function Words({ id, number }: { id: string; number: number }) {
  const words = usePlanWords(id, number);
  const lines = words.data ?? [];
  const sections = [...new Set(lines.map((l) => l.section))];
  return (
    <section aria-label="The plan in words">
      {sections.map((section) => (
        <div key={section} className="mb-4">
          <h2 className="mb-1 text-xs font-semibold tracking-wide text-soft uppercase">{section}</h2>
          <dl>
            {lines
              .filter((l) => l.section === section)
              .map((l) => (
                <div key={l.key} className="grid grid-cols-[9.5rem_1fr] gap-3 border-t border-line/60 py-1">
                  <dt className="truncate text-soft" title={l.key}>
                    {l.key}
                  </dt>
                  <dd className="break-words">{l.words}</dd>
                </div>
              ))}
          </dl>
        </div>
      ))}
    </section>
  );
}

function Revisions({ id, head }: { id: string; head: number }) {
  const revisions = useRevisions(id, head);
  const mayWork = useMay("inspector");
  const mayRelease = useMay("approver");
  const [open, setOpen] = useState<number | null>(null);
  const refresh = [["plan", id], ["revisions", id], ["piece"]];
  const back = useAction(
    (number: number) =>
      take(api.POST("/api/parts/{id}/plan/return", { params: { path: { id } }, body: { basedOn: head, number } })),
    refresh,
  );
  const release = useRelease(id);
  return (
    <section aria-label="Revisions">
      <h2 className="mb-1 text-xs font-semibold tracking-wide text-soft uppercase">Revisions</h2>
      {revisions.error && (
        <p className="text-bad" role="alert">
          {revisions.error.message}
        </p>
      )}
      <ol data-testid="revisions">
        {revisions.data?.pages.flat().map((r) => (
          <li key={r.number} className={`border-t border-line/60 py-1.5 ${r.isHead ? "bg-tint" : ""} px-2`}>
            <div className="flex flex-wrap items-center gap-2">
              <span className="num w-8 font-semibold">{r.number}</span>
              <span>{r.createdBy}</span>
              <span className="num text-xs text-soft">{moment(r.createdAt)}</span>
              {r.isHead && <Mark>in force</Mark>}
              {r.releasedBy && (
                <Mark title={`By ${r.releasedBy}, ${moment(r.releasedAt!)}`}>released by {r.releasedBy}</Mark>
              )}
              {r.reports > 0 && <Mark>{plural(r.reports, "report")}</Mark>}
              <span className="ml-auto flex gap-1">
                {!r.isHead && (
                  <Button
                    className="h-6 px-2 text-xs"
                    aria-expanded={open === r.number}
                    onClick={() => setOpen(open === r.number ? null : r.number)}
                  >
                    Compare
                  </Button>
                )}
                {!r.isHead && mayWork && (
                  <Button className="h-6 px-2 text-xs" disabled={back.isPending} onClick={() => back.mutate(r.number)}>
                    <RotateCcw size={12} /> Go back to it
                  </Button>
                )}
                {!r.releasedBy && mayRelease && (
                  <Button
                    className="h-6 px-2 text-xs"
                    disabled={release.isPending}
                    onClick={() => release.mutate(r.number)}
                  >
                    <Stamp size={12} /> Release
                  </Button>
                )}
              </span>
            </div>
            {r.parent === null ? (
              <p className="text-xs text-soft">The first.</p>
            ) : (
              <Changes
                changes={r.changes}
                none={`As revision ${r.parent} was.`}
                about={r.parent === r.number - 1 ? null : `Made from revision ${r.parent}.`}
              />
            )}
            {open === r.number && <Against id={id} from={r.number} to={head} />}
          </li>
        ))}
      </ol>
      {revisions.hasNextPage && (
        <Button className="mt-2" disabled={revisions.isFetchingNextPage} onClick={() => void revisions.fetchNextPage()}>
          Earlier revisions
        </Button>
      )}
    </section>
  );
}

/** What the plan in force says otherwise than an earlier one. */
function Against({ id, from, to }: { id: string; from: number; to: number }) {
  const changes = usePlanChanges(id, from, to);
  return (
    <div className="mt-1 rounded border border-indigo p-2" role="note">
      <p className="text-xs font-semibold">Since revision {from}</p>
      <Changes
        changes={changes.data ?? []}
        none={changes.isPending ? "Comparing …" : "Nothing: both say the same."}
        about={null}
      />
    </div>
  );
}

function Changes({
  changes,
  none,
  about,
}: {
  changes: readonly Schemas["PlanChange"][];
  none: string;
  about: string | null;
}) {
  return (
    <>
      {about && <p className="text-xs text-soft">{about}</p>}
      {changes.length === 0 && <p className="text-xs text-soft">{none}</p>}
      <ul className="text-xs">
        {changes.map((c) => (
          <li key={`${c.section} ${c.key}`} className="break-words">
            <span className="text-soft">{c.section}:</span> {c.words}
          </li>
        ))}
      </ul>
    </>
  );
}

const Mark = ({ title, children }: { title?: string; children: React.ReactNode }) => (
  <span title={title} className="rounded border border-line bg-panel px-1.5 text-xs whitespace-nowrap">
    {children}
  </span>
);
