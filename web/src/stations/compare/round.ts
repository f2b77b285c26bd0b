/** A limit as a person means it, after a hand dragged it. */
export const round = (v: number) => Math.round(v * 1e4) / 1e4;
