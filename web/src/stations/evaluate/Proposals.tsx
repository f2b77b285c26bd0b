import type { Schemas } from "../../api/client";
import { useProposals } from "../../api/hooks";
import { characteristicKinds, datumsOf, kindOf, valueOf } from "../../plan/characteristics";
import { fixed, signed } from "../../ui/format";
import { offerButton } from "../../ui/parts";
import { Attention, Block } from "../../ui/Worksheet";

export type Proposal = Schemas["Proposal"];

interface Props {
  partId: string;
  planNumber: number;
  faces: readonly number[];
  /** Features of the plan, picked beside the faces. */
  features?: readonly string[];
  disabled: boolean;
  onTake: (proposal: Proposal) => void;
}

/** What can be asked of the faces picked on the stage. Its values are where the editor begins. */
export function Proposals({ partId, planNumber, faces, features = [], disabled, onTake }: Props) {
  const proposals = useProposals(partId, planNumber, faces, features);
  if (faces.length + features.length === 0 || proposals.data?.length === 0) {
    return null;
  }

  const what = features.length > 0 ? "feature" : "face";
  const many = faces.length + features.length;
  const picked = many === 1 ? `picked ${what}` : `${many} picked ${what}s`;
  return (
    <Block title={`Ask of the ${picked}`}>
      {proposals.isPending && <p role="status">Looking what fits …</p>}
      {proposals.error && <Attention>{proposals.error.message}</Attention>}
      <ul className="space-y-1">
        {proposals.data?.map((p) => (
          <li key={[p.characteristic.kind, ...datumsOf(p.characteristic)].join()}>
            <button type="button" disabled={disabled} className={offerButton} onClick={() => onTake(p)}>
              <span>
                <span className="font-semibold">{characteristicKinds[p.characteristic.kind].name}</span>{" "}
                {datumsOf(p.characteristic).length > 0 && (
                  <span className="num">to {datumsOf(p.characteristic).join("|")}</span>
                )}{" "}
                <span className="text-xs text-soft">{p.characteristic.name}</span>
              </span>
              <span className="num text-xs whitespace-nowrap">{asked(p)}</span>
            </button>
          </li>
        ))}
      </ul>
      <p className="mt-1 text-xs text-soft">
        Nominal values are the model&apos;s; tolerances begin with ISO 2768 m and K. Set those of the drawing next.
      </p>
    </Block>
  );
}

function asked({ characteristic: c }: Proposal): string {
  const at = (key: string) => valueOf(c, key) as number;
  return kindOf(c.kind).limits === "zone"
    ? `≤ ${fixed(at("tolerance"), 2)}`
    : `${fixed(at("nominal"), 3)} ${signed(at("lower"), 2)} ${signed(at("upper"), 2)}`;
}
