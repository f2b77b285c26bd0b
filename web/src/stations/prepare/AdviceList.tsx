import type { ReactNode } from "react";
import type { PrepareStep, Schemas } from "../../api/client";
import { Block } from "../../ui/Worksheet";

/** What matters about a scan, each with what to do about it. */
export function AdviceList({
  advice,
  action,
}: {
  advice: Schemas["Advice"][];
  action: (step: PrepareStep) => ReactNode;
}) {
  return advice.length === 0 ? null : (
    <Block title="Worth a look">
      <ul className="space-y-1" aria-label="Advice">
        {advice.map((a) => (
          <li key={a.text} className={`rounded border p-2 text-xs ${a.matters ? "border-brass" : "border-line"}`}>
            <p>{a.text}</p>
            {a.step && action(a.step)}
          </li>
        ))}
      </ul>
    </Block>
  );
}
