/** A number with fixed decimals, or a dash. */
export const fixed = (value: number | null | undefined, decimals = 3): string =>
  value === null || value === undefined || !Number.isFinite(value) ? "–" : value.toFixed(decimals).replace("-", "−");

/** Fixed decimals without a minus before zero. */
const text = (value: number, decimals: number): string => {
  const t = value.toFixed(decimals);
  return Number(t) === 0 ? t.replace("-", "") : t;
};

/** With its sign. */
export const signed = (value: number | null | undefined, decimals = 3): string =>
  value === null || value === undefined || !Number.isFinite(value)
    ? "–"
    : (value >= 0 ? "+" : "−") + Math.abs(value).toFixed(decimals);

export const percent = (share: number | null | undefined, decimals = 1): string =>
  share === null || share === undefined ? "–" : `${(100 * share).toFixed(decimals)} %`;

export const count = (n: number): string => n.toLocaleString("en").replaceAll(",", " ");

export const size = (mm: readonly number[], unit: "mm" | "inch"): string =>
  mm.map((v) => (unit === "mm" ? v.toFixed(1) : (v / 25.4).toFixed(2))).join(" × ");

export const moment = (iso: string): string => iso.slice(0, 16).replace("T", " ");

export const words = (kind: string): string => kind.replaceAll("-", " ");
