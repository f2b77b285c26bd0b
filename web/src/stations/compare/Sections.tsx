import { useCallback, useEffect, useMemo, useState } from "react";
import type { PieceView, PlanView, Schemas } from "../../api/client";
import { useSection } from "../../api/comparison";
import {
  across,
  alongLine,
  axes,
  axisOf,
  axisOfFace,
  movedTo,
  newName,
  offsetOf,
  partsOf,
  reach,
  renamed,
  rowsIn,
  throughAxis,
  throughThree,
  withSections,
  type OnSurface,
  type SectionPlan,
} from "../../plan/sections";
import { useBenchOf } from "../../stage/bench";
import { usePick, type PickHandler } from "../../stage/picking";
import { fixed, percent, signed } from "../../ui/format";
import { NumberField, TextField } from "../../ui/NumberField";
import { OneOf } from "../../ui/OneOf";
import { Button, Facts } from "../../ui/parts";
import { Attention, Block } from "../../ui/Worksheet";
import { Arcs, SectionDimensions } from "./SectionDimensions";
import { SectionSeries } from "./SectionSeries";
import type { ChangePlan } from "./types";

interface Props {
  piece: PieceView;
  plan: PlanView;
  nominal: Schemas["NominalView"];
  disabled: boolean;
  onChange: ChangePlan;
}

type Way = "x" | "y" | "z" | "points" | "line" | "face" | "axis";
const none: SectionPlan[] = [];
const nothing: number[] = [];

/** The planes in which the part is cut: kept in the plan, cut on every piece, moved by hand. */
export function Sections({ piece, plan, nominal, disabled, onChange }: Props) {
  const { view, set } = useBenchOf("view", "set");
  const kept = plan.plan.compare?.sections ?? none;
  const [chosen, choose] = useState<string | null>(kept[0]?.name ?? null);
  const [seen, setSeen] = useState<"part" | "sheet">("part");
  // Where a hand has the plane just now.
  const [held, hold] = useState<SectionPlan | null>(null);
  const section = kept.find((s) => s.name === chosen) ?? null;
  const shown = section && held?.name === section.name ? held : section;
  // One cut after the other, always of where the plane is by then: a hand goes faster than cuts are made.
  const [asked, ask] = useState(shown);
  const cut = useSection(piece, asked, plan.plan.compare, held === null);
  useEffect(() => {
    if (!cut.isFetching) {
      ask(shown);
    }
  }, [cut.isFetching, shown]);
  const sheet = (shown && cut.data) ?? null;
  // Another cut has other lines and arcs: what was picked of one is nothing on the next.
  const [pick, setPick] = useState<{ of: typeof sheet; parts: number[] }>({ of: null, parts: nothing });
  const picked = pick.of === sheet ? pick.parts : nothing;
  const marks = useMemo(
    () =>
      rowsIn(plan.plan, section?.name ?? "")
        .map((c) => ({ no: c.no, parts: partsOf(c) }))
        .filter((m) => m.parts.length > 0),
    [plan.plan, section?.name],
  );
  const middle = useMemo(() => view?.middleOf("nominal") ?? [0, 0, 0], [view]);
  const move = useCallback(
    (to: SectionPlan, done: boolean) => {
      const [low, high] = reach(to, middle, nominal.sizeMm);
      const inside = movedTo(to, Math.min(high, Math.max(low, offsetOf(to))));
      hold(inside);
      if (done) {
        const was = kept.find((s) => s.name === to.name);
        const letGo = () => hold((now) => (now === inside ? null : now));
        if (JSON.stringify(was) === JSON.stringify(inside)) {
          letGo();
        } else {
          onChange((p) => withSections(p, (all) => all.map((s) => (s.name === to.name ? inside : s))), {
            onSettled: letGo,
          });
        }
      }
    },
    [kept, middle, nominal.sizeMm, onChange],
  );
  useEffect(() => {
    const onPick = (part: number) => setPick({ of: sheet, parts: togglePart(picked, part) });
    const asSheet = seen === "sheet";
    const lit = sheet ? picked.map((p) => sheet.parts[p].run) : [];
    set({ section: shown && { plan: shown, sheet, asSheet, onMove: disabled ? null : move, marks, lit, onPick } });
  }, [set, shown, sheet, seen, disabled, move, marks, picked]);
  useEffect(() => () => set({ section: null }), [set]);
  const pickParts = (parts: number[]) => {
    setPick({ of: sheet, parts });
    setSeen("sheet");
  };
  const add = () => {
    const made: SectionPlan = { name: newName(kept), point: [...middle], normal: [0, 0, 1] };
    onChange((p) => withSections(p, (all) => [...all, made]), { onSuccess: () => choose(made.name) });
  };
  const rename = (name: string) => onChange((p) => renamed(p, chosen!, name), { onSuccess: () => choose(name) });
  const remove = () =>
    onChange((p) => withSections(p, (all) => all.filter((s) => s.name !== chosen)), {
      onSuccess: () => choose(kept.find((s) => s.name !== chosen)?.name ?? null),
    });
  return (
    <>
      <div className="flex flex-wrap gap-2">
        {kept.map((s) => (
          <Button
            key={s.name}
            aria-pressed={s.name === chosen}
            className={s.name === chosen ? "border-indigo bg-tint" : ""}
            onClick={() => choose(s.name)}
          >
            {s.name}
          </Button>
        ))}
        <Button disabled={disabled} onClick={add}>
          Cut a section
        </Button>
      </div>
      {kept.length === 0 && (
        <p className="text-soft">A section is a plane of the nominal in which every piece is cut and compared.</p>
      )}
      {section && shown && (
        <>
          <OneOf
            label="Seen"
            options={[
              { value: "part", name: "on the part" },
              { value: "sheet", name: "square on" },
            ]}
            value={seen}
            onChange={setSeen}
          />
          {seen === "sheet" && sheet && !cut.error && (
            <SectionDimensions
              piece={piece}
              plan={plan}
              section={section}
              sheet={sheet}
              picked={picked}
              disabled={disabled}
              onPick={pickParts}
              onChange={onChange}
            />
          )}
          <Placed
            key={section.name}
            section={shown}
            nominal={nominal}
            middle={middle}
            disabled={disabled}
            onMove={move}
            onRename={rename}
          />
          {cut.error && <Attention>{cut.error.message}</Attention>}
          {sheet && !cut.error && (
            <>
              {sheet.remarks.map((r) => (
                <Attention key={r}>{r}</Attention>
              ))}
              {sheet.statistics && (
                <Block title="Along the section">
                  <Facts
                    rows={[
                      ["least", `${signed(sheet.statistics.min)} mm`],
                      ["greatest", `${signed(sheet.statistics.max)} mm`],
                      ["mean", `${signed(sheet.statistics.mean, 4)} mm`],
                      ["RMS", `${fixed(sheet.statistics.rms, 4)} mm`],
                      ["within the plan's band", percent(sheet.statistics.withinTolerance)],
                    ]}
                  />
                </Block>
              )}
              <Arcs parts={sheet.parts} picked={picked} onPick={(part) => pickParts([part])} />
            </>
          )}
          <SectionSeries
            section={section}
            kept={kept}
            reach={reach(section, middle, nominal.sizeMm)}
            disabled={disabled}
            onAdd={(made) => onChange((p) => withSections(p, (all) => [...all, ...made]))}
          />
          <div className="flex flex-wrap items-center gap-x-3">
            <span>Save as</span>
            {(["Svg", "Dxf", "Csv"] as const).map((format) => (
              <a
                key={format}
                className="text-indigo underline"
                href={`/api/pieces/${piece.id}/sections/${kept.indexOf(section)}/file?format=${format}`}
                download
              >
                {format.toUpperCase()}
              </a>
            ))}
            <Button tone="quiet" className="ml-auto text-bad" disabled={disabled} onClick={remove}>
              Remove
            </Button>
          </div>
        </>
      )}
    </>
  );
}

/** One part more, or less; a third takes the place of the first. */
const togglePart = (parts: readonly number[], part: number) =>
  parts.includes(part) ? parts.filter((p) => p !== part) : [...parts.slice(-1), part];

/** Where the plane lies and how it is turned. */
function Placed({
  section,
  nominal,
  middle,
  disabled,
  onMove,
  onRename,
}: {
  section: SectionPlan;
  nominal: Schemas["NominalView"];
  middle: readonly number[];
  disabled: boolean;
  onMove: (to: SectionPlan, done: boolean) => void;
  onRename: (name: string) => void;
}) {
  const [picking, pickFor] = useState<"points" | "line" | "face" | "axis" | null>(null);
  const [points, setPoints] = useState<number[][]>([]);
  const [start, setStart] = useState<OnSurface | null>(null);
  const [fault, setFault] = useState<string | null>(null);
  const [low, high] = reach(section, middle, nominal.sizeMm);
  const offset = offsetOf(section);
  usePick(
    useCallback<PickHandler>(
      (hit) => {
        setFault(null);
        if (picking === "points" && hit) {
          const now = [...points, [...(hit.nominal?.point ?? hit.point)]];
          const made = now.length === 3 ? throughThree(section, now) : null;
          setPoints(now.length === 3 ? [] : now);
          if (made) {
            pickFor(null);
            onMove(made, true);
          } else if (now.length === 3) {
            setFault("The three places lie on a line: a plane may turn about it. Click three others.");
          }
        } else if (picking === "line" && hit) {
          const place = hit.nominal ?? hit;
          const made = start && alongLine(section, start, place);
          setStart(start ? null : place);
          if (made) {
            pickFor(null);
            onMove(made, true);
          } else if (start) {
            setFault("The two places make no line along the surface. Click two others.");
          }
        } else if (picking === "face" && hit?.face != null) {
          const face = nominal.faces[hit.face];
          const axis = axisOfFace(face);
          if (axis) {
            pickFor(null);
            onMove({ ...section, point: [...(hit.nominal?.point ?? hit.point)], normal: axis }, true);
          } else {
            setFault(`Face ${hit.face} is a ${face.kind}: it has no axis or direction to cut across.`);
          }
        } else if (picking === "axis" && hit?.face != null) {
          const face = nominal.faces[hit.face];
          const made = throughAxis(section, face);
          if (made) {
            pickFor(null);
            onMove(made, true);
          } else {
            setFault(`Face ${hit.face} is a ${face.kind}: it has no axis. Click a round one.`);
          }
        }
      },
      [picking, points, start, section, nominal.faces, onMove],
    ),
  );
  const way: Way = picking ?? axisOf(section) ?? "points";
  const turn = (to: Way) => {
    setPoints([]);
    setStart(null);
    setFault(null);
    if (to === "points" || to === "line" || to === "face" || to === "axis") {
      pickFor(to);
    } else {
      pickFor(null);
      onMove(across(section, to, middle), true);
    }
  };
  return (
    <>
      <TextField label="Name" value={section.name} disabled={disabled} onChange={onRename} />
      <div>
        <p className="mb-1">Placed by</p>
        <OneOf
          label="Placed by"
          options={[
            ...axes.map((a) => ({ value: a as Way, name: a.toUpperCase() })),
            { value: "face", name: "face" },
            { value: "axis", name: "axis" },
            { value: "points", name: "places" },
            { value: "line", name: "line" },
          ]}
          value={way}
          onChange={turn}
        />
        {picking === "points" && <p role="status">Click {3 - points.length} more of three places on the part.</p>}
        {picking === "line" && (
          <p role="status">
            {start
              ? "Click where the line ends."
              : "Click where a line along the surface begins: the part is cut along it."}
          </p>
        )}
        {picking === "axis" && <p role="status">Click a round face: it is cut along its axis.</p>}
        {picking === "face" && <p role="status">Click a bore, a shaft, a cone or a plane: it is cut across there.</p>}
        {fault && <Attention>{fault}</Attention>}
      </div>
      <div className="grid grid-cols-[1fr_7rem] items-end gap-2">
        <label className="block">
          <span className="mb-1 block">Place along it</span>
          <input
            type="range"
            className="w-full accent-indigo"
            min={low}
            max={high}
            step={(high - low) / 1000}
            value={offset}
            disabled={disabled}
            onChange={(e) => onMove(movedTo(section, Number(Number(e.target.value).toFixed(2))), false)}
            onPointerUp={() => onMove(section, true)}
            onKeyUp={() => onMove(section, true)}
          />
        </label>
        <NumberField
          label="At, mm"
          value={Number(offset.toFixed(3))}
          disabled={disabled}
          onChange={(v) => v !== null && onMove(movedTo(section, v), true)}
        />
      </div>
      <NumberField
        label="Strokes so many times as long"
        value={section.exaggeration}
        empty="as is well seen"
        min={0.001}
        disabled={disabled}
        onChange={(exaggeration) => onMove({ ...section, exaggeration }, true)}
      />
    </>
  );
}
