/** Fixed decimals without a minus before zero. */
const plain = (value: number, decimals: number): string => {
  const text = value.toFixed(decimals);
  return Number(text) === 0 ? text.replace("-", "") : text;
};

const missing = (value: number | null | undefined): value is null | undefined =>
  value === null || value === undefined || !Number.isFinite(value);

/** A number with fixed decimals, or a dash. */
export const fixed = (value: number | null | undefined, decimals = 3): string =>
  missing(value) ? "–" : plain(value, decimals).replace("-", "−");

/** With its sign. */
export const signed = (value: number | null | undefined, decimals = 3): string =>
  missing(value) ? "–" : (plain(value, decimals).startsWith("-") ? "−" : "+") + plain(Math.abs(value), decimals);

export const percent = (share: number | null | undefined, decimals = 1): string =>
  missing(share) ? "–" : `${(100 * share).toFixed(decimals)} %`;

export const count = (n: number): string => n.toLocaleString("en").replaceAll(",", "\u00a0");

export const size = (mm: readonly number[], unit: "mm" | "inch"): string =>
  mm.map((v) => (unit === "mm" ? v.toFixed(1) : (v / 25.4).toFixed(2))).join(" × ");

export const moment = (iso: string): string => iso.slice(0, 16).replace("T", " ");

export const words = (kind: string): string => kind.replaceAll("-", " ");

export const plural = (n: number, noun: string): string => `${count(n)} ${noun}${n === 1 ? "" : "s"}`;

/** The first letter large, as a sentence begins. */
export const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

/** The largest of 1, 2 and 5 times a power of ten that is no more than a number above 0: what a scale bar shows. */
export const roundBelow = (n: number): number => {
  const power = 10 ** Math.floor(Math.log10(n));
  return Number((([5, 2].find((k) => k * power <= n) ?? 1) * power).toPrecision(6));
};
