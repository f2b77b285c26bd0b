import type { PieceView, PlanView, Schemas } from "../../api/client";
import { useSectionOffers } from "../../api/comparison";
import { characteristicKinds } from "../../plan/characteristics";
import { inSpace, measuredArcs, rowsIn, type SectionPlan, type SectionSheet } from "../../plan/sections";
import { fixed, signed } from "../../ui/format";
import { Button, offerButton } from "../../ui/parts";
import { Attention, Block } from "../../ui/Worksheet";
import type { ChangePlan } from "./types";

interface Props {
  piece: PieceView;
  plan: PlanView;
  section: SectionPlan;
  sheet: SectionSheet;
  /** Picked lines and arcs of the sheet. */
  picked: readonly number[];
  disabled: boolean;
  onPick: (parts: number[]) => void;
  onChange: ChangePlan;
}

/** What can be asked of a section: of a line or an arc, between two, of the cut itself; each may become a characteristic. */
export function SectionDimensions({ piece, plan, section, sheet, picked, disabled, onPick, onChange }: Props) {
  const places = picked.map((p) => inSpace(sheet.frame, sheet.parts[p].at));
  const found = useSectionOffers(piece, plan.number, section, places);
  const rows = rowsIn(plan.plan, section.name);
  const ask = (offer: Schemas["CharacteristicResult"]) =>
    onChange((p) => ({ ...p, characteristics: [...(p.characteristics ?? []), offer.plan] }), {
      onSuccess: () => onPick([]),
    });
  return (
    <Block title="Dimensions">
      <p className="text-soft" role="status">
        {picked.length === 0
          ? "Click a line or an arc of the section seen square on."
          : `Picked: ${picked.map((p) => nameOf(sheet.parts[p])).join(" and ")}. ${
              picked.length === 1 ? "A second one gives a distance or an angle." : ""
            }`}
        {picked.length > 0 && (
          <Button tone="quiet" className="ml-2" onClick={() => onPick([])}>
            None
          </Button>
        )}
      </p>
      {found.error && <Attention>{found.error.message}</Attention>}
      <ul className="space-y-1">
        {found.data?.offers.map((offer) => (
          <li key={offer.plan.kind}>
            <Offer offer={offer} disabled={disabled} onAsk={() => ask(offer)} />
          </li>
        ))}
      </ul>
      {rows.length > 0 && (
        <p className="mt-1 text-xs text-soft">
          In the plan: {rows.map((c) => `no. ${c.no} ${c.name}`).join(", ")}. Limits are edited on Evaluate.
        </p>
      )}
    </Block>
  );
}

const nameOf = (part: Schemas["SectionPart"]) => (part.arc ? (part.hollow ? "a hollow arc" : "an arc") : "a line");

/** What a dimension is on the nominal and on the piece; pressed, it is asked for. */
function Offer({
  offer: { plan, nominal, measured, uncertainty, unit, remark },
  disabled,
  onAsk,
}: {
  offer: Schemas["CharacteristicResult"];
  disabled: boolean;
  onAsk: () => void;
}) {
  const decimals = unit === "°" ? 2 : 3;
  return (
    <>
      <button type="button" disabled={disabled} className={offerButton} onClick={onAsk} title="Ask for it in the plan">
        <span>
          <span className="font-semibold">{characteristicKinds[plan.kind].name}</span>{" "}
          {nominal != null && (
            <span className="num text-xs whitespace-nowrap text-soft">nominal {fixed(nominal, decimals)}</span>
          )}
        </span>
        <span className="num text-xs whitespace-nowrap">
          {measured === null
            ? "not measured"
            : `${fixed(measured, decimals)} ±${fixed(uncertainty, decimals)} ${unit}${
                nominal == null ? "" : ` (${signed(measured! - nominal, decimals)})`
              }`}
        </span>
      </button>
      {remark && <p className="text-xs text-soft">{remark}</p>}
    </>
  );
}

/** The arcs of the section, numbered as on its sheet. */
export function Arcs({
  parts,
  picked,
  onPick,
}: {
  parts: Schemas["SectionPart"][];
  picked: readonly number[];
  onPick: (part: number) => void;
}) {
  const arcs = measuredArcs(parts);
  return arcs.length === 0 ? null : (
    <Block title="Arcs">
      <table className="num w-full text-right" aria-label="Arcs">
        <thead className="text-soft">
          <tr>
            <th className="text-left font-normal">arc</th>
            <th className="font-normal">radius</th>
            <th className="font-normal">measured</th>
            <th className="font-normal">±U</th>
            <th className="font-normal">form</th>
          </tr>
        </thead>
        <tbody>
          {arcs.map((p, i) => (
            <tr key={i} className="border-t border-line/60" title={p.hollow ? "hollow" : "round"}>
              <td className="text-left">
                <button
                  type="button"
                  className="px-1 underline hover:bg-tint"
                  aria-pressed={picked.includes(parts.indexOf(p))}
                  onClick={() => onPick(parts.indexOf(p))}
                >
                  {i + 1}
                </button>
              </td>
              <td>{fixed(p.nominal)}</td>
              <td className="font-semibold">{fixed(p.measured)}</td>
              <td className="text-soft">{fixed(p.u)}</td>
              <td>{fixed(p.form)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Block>
  );
}
