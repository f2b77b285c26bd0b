import type { Verdict } from "../api/client";

export const verdictWord: Record<Verdict, string> = {
  conforming: "conforming",
  "non-conforming": "non-conforming",
  "not-proven": "not proven",
  "not-measured": "not measured",
};

export const verdictColour: Record<Verdict, string> = {
  conforming: "var(--good)",
  "non-conforming": "var(--bad)",
  "not-proven": "var(--brass)",
  "not-measured": "var(--soft)",
};

/** Disc with tick, diamond with cross, half disc, dashed ring: the verdict does not rest on colour. */
export function VerdictShape({ verdict, size = 14 }: { verdict: Verdict; size?: number }) {
  const c = verdictColour[verdict];
  return (
    <svg
      width={size}
      height={size}
      viewBox="0 0 16 16"
      aria-hidden="true"
      className="inline-block shrink-0 align-[-2px]"
    >
      {verdict === "conforming" && (
        <>
          <circle cx="8" cy="8" r="7" fill={c} />
          <path d="M4.5 8.2 7 10.6l4.6-5" fill="none" stroke="var(--panel)" strokeWidth="1.8" />
        </>
      )}
      {verdict === "non-conforming" && (
        <>
          <path d="M8 .6 15.4 8 8 15.4.6 8Z" fill={c} />
          <path d="m5.7 5.7 4.6 4.6m0-4.6-4.6 4.6" stroke="var(--panel)" strokeWidth="1.8" />
        </>
      )}
      {verdict === "not-proven" && (
        <>
          <circle cx="8" cy="8" r="6.4" fill="none" stroke={c} strokeWidth="1.3" />
          <path d="M8 1.6a6.4 6.4 0 0 0 0 12.8Z" fill={c} />
        </>
      )}
      {verdict === "not-measured" && (
        <circle cx="8" cy="8" r="6.2" fill="none" stroke={c} strokeWidth="1.4" strokeDasharray="2.6 2" />
      )}
    </svg>
  );
}

export function VerdictMark({ verdict: given }: { verdict: Verdict | null }) {
  const verdict = given ?? "not-measured";
  return (
    <span
      className="inline-flex items-center gap-1.5 font-semibold whitespace-nowrap"
      style={{ color: verdictColour[verdict] }}
    >
      <VerdictShape verdict={verdict} />
      {verdictWord[verdict]}
    </span>
  );
}
