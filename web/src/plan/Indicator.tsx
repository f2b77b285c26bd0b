import { Fragment, type ReactNode } from "react";
import type { CharacteristicKind } from "../api/client";
import { characteristicKinds } from "./characteristics";

/** What stands in front of a zone (ISO 1101, table 1; drawn in a square of 16). */
const signs: { readonly [K in CharacteristicKind]?: ReactNode } = {
  straightness: <path d="M2 8H14" />,
  flatness: <path d="M1 12 5 4H15L11 12Z" />,
  roundness: <circle cx="8" cy="8" r="5.5" />,
  cylindricity: (
    <>
      <circle cx="8" cy="8" r="3.5" />
      <path d="M2 14 6.5 2M9.5 14 14 2" />
    </>
  ),
  parallelism: <path d="M3 14 8 2M8 14 13 2" />,
  perpendicularity: <path d="M2 13H14M8 13V2" />,
  angularity: <path d="M13 13H2L12 4" />,
  position: (
    <>
      <circle cx="8" cy="8" r="4.5" />
      <path d="M8 1V15M1 8H15" />
    </>
  ),
  coaxiality: (
    <>
      <circle cx="8" cy="8" r="5.5" />
      <circle cx="8" cy="8" r="2.5" />
    </>
  ),
  symmetry: <path d="M4 4.5H12M1 8H15M4 11.5H12" />,
  "circular-run-out": <path d="M3 13 13 3M8 3H13V8" />,
  "total-run-out": <path d="M2 12 9 3M5 3.5 9 3V7M7 12 14 3M10.5 3.5 14 3V7M2 12H7" />,
  "profile-of-a-line": <path d="M2 12A6 6 0 0 1 14 12" />,
  "profile-of-a-surface": <path d="M2 12A6 6 0 0 1 14 12Z" />,
};

/** Modifiers are letters in circles, a projected zone's with its length behind it; the rest stands as it is. */
function Cell({ text }: { text: string }) {
  const [first, ...modifiers] = text.split(" ");
  return (
    <>
      {first}
      {modifiers.map((m) => {
        const [, letter, length] = /^([MLPT])([\d.]*)$/.exec(m) ?? [];
        return letter ? (
          <Fragment key={m}>
            <span className="ml-1 inline-block size-[1.35em] rounded-full border border-ink text-center text-[0.8em] leading-[1.25em]">
              {letter}
            </span>
            {length}
          </Fragment>
        ) : (
          <Fragment key={m}> {m}</Fragment>
        );
      })}
    </>
  );
}

/** A characteristic as drawings show it: a tolerance in its frame, a dimension as text. */
export function Indicator({ kind, text }: { kind: CharacteristicKind; text: string }) {
  const sign = signs[kind];
  if (!sign) {
    return <span className="num">{text}</span>;
  }

  return (
    <span
      className="num inline-flex items-stretch rounded-none border border-ink whitespace-nowrap"
      role="img"
      aria-label={`${characteristicKinds[kind].name} ${text}`}
    >
      <span className="flex items-center px-1">
        <svg viewBox="0 0 16 16" width="16" height="16" fill="none" stroke="currentColor" strokeWidth="1.3" aria-hidden>
          {sign}
        </svg>
      </span>
      {text.split("|").map((cell, i) => (
        <span key={i} className="border-l border-ink px-1.5 py-px">
          <Cell text={cell} />
        </span>
      ))}
    </span>
  );
}
