import type { Schemas } from "../../api/client";

/** As the server has it: larger ones would swell every revision of the plan. */
const MOST_BYTES = 400_000;

/** A file as a picture of a layout; what it really is, the server tells by its first bytes. */
export async function pictureOf(file: File): Promise<Schemas["ReportPicture"]> {
  if (file.size > MOST_BYTES) {
    throw new Error(`${file.name}: a picture in a report has at most ${MOST_BYTES / 1000} kB.`);
  }

  const bytes = new Uint8Array(await file.arrayBuffer());
  let text = "";
  for (let i = 0; i < bytes.length; i += 0x8000) {
    text += String.fromCharCode(...bytes.subarray(i, i + 0x8000));
  }

  return { base64: btoa(text) };
}
