import { Fragment } from "react";
import type { CharacteristicKind } from "../api/client";
import { characteristicKinds } from "./characteristics";
import paths from "./signs.json";

/** What stands in front of a zone (ISO 1101, table 1), as paths in a square of 16; the report draws the same. */
const signs: { readonly [K in CharacteristicKind]?: string } = paths;

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
          <path d={sign} />
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
