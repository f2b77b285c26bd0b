import { create } from "zustand";

const cad = /\.(step|stp|iges|igs)$/i;
const scan = /\.(stl|obj|ply|off|3mf|glb|gltf|xyz|txt|csv|pts|asc)$/i;

/** Files waiting to be filed by the receive dialog. */
export const useReceiving = create<{ files: File[]; offer: (files: File[]) => void; clear: () => void }>((set) => ({
  files: [],
  offer: (files) => set({ files }),
  clear: () => set({ files: [] }),
}));

export type Role = "nominal" | "scan";

/** CAD is a nominal; a mesh or point file is a scan until told otherwise. */
export const guessRole = (name: string): Role => (cad.test(name) ? "nominal" : "scan");

export const isKnown = (name: string): boolean => cad.test(name) || scan.test(name);

export const canBeNominal = (name: string): boolean =>
  cad.test(name) || /\.(stl|obj|ply|off|3mf|glb|gltf)$/i.test(name);

/** "VH-310-0009.stl" of part VH-310 is piece 0009; otherwise the name without its suffix. */
export function guessSerial(name: string, partNumber: string | undefined): string {
  const stem = name.replace(/\.[^.]+$/, "");
  return partNumber && stem.toLowerCase().startsWith(partNumber.toLowerCase())
    ? stem.slice(partNumber.length).replace(/^[-_ ]+/, "") || stem
    : stem;
}

/** The part whose number the file name begins with. */
export const guessPart = <P extends { number: string }>(name: string, parts: readonly P[]): P | undefined =>
  parts.find((p) => name.toLowerCase().startsWith(p.number.toLowerCase()));
