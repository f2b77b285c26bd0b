import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
/** The server always sends all of a result. */
export type RunView = Omit<Schemas["RunView"], "characteristics"> & { characteristics: CharacteristicResult[] };
export type PieceView = Omit<Schemas["PieceView"], "run"> & { run: RunView | null };
/** A characteristic of the plan with what was measured of it. */
export type CharacteristicResult = Required<Schemas["CharacteristicResult"]>;
export type CharacteristicPlan = Schemas["CharacteristicPlan"];
export type Asked = Schemas["AskedView"];
export type CharacteristicKind = CharacteristicPlan["kind"];
export type AlignPlan = Schemas["AlignPlan"];
export type Motion = NonNullable<Extract<AlignPlan, { method: "faces" }>["locked"]>[number];
export type DecisionRule = Schemas["DecisionRule"];
export type GeneralTolerances = Schemas["GeneralTolerances"];
/** The server always sends all of it. */
export type MeasuredFeature = Required<Schemas["MeasuredFeature"]>;
export type FeaturePlan = Schemas["FeaturePlan"];
export type ConstructionPlan = Schemas["ConstructionPlan"];
export type ConstructionKind = ConstructionPlan["kind"];
export type FaceView = Schemas["FaceView"];
export type InspectionPlan = Schemas["InspectionPlan"];
export type PlanView = Schemas["PlanView"];
export type JobView = Schemas["JobView"];
export type Verdict = NonNullable<Schemas["Verdict"]>;
export type PrepareStep = Schemas["PrepareStep"];
export type SelectionTerm = Schemas["SelectionTerm"];
export type ReportBlock = Schemas["ReportBlock"];
export type ReportPlan = Schemas["ReportPlan"];
export type FigurePlan = Schemas["FigurePlan"];
export type LabelPlan = Schemas["LabelPlan"];
export type MapPlan = Schemas["MapPlan"];
export type JobKind = Schemas["JobKind"];
export type Role = NonNullable<Schemas["SessionView"]["role"]>;

export const api = createClient<paths>({ baseUrl: "" });

/** An answer that was not what was asked for, with the server's one sentence. */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    message: string,
  ) {
    super(message);
  }
}

interface Outcome<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

/** Unwraps an answer or throws the server's sentence. */
export async function take<T>(request: Promise<Outcome<T>>): Promise<T> {
  let outcome: Outcome<T>;
  try {
    outcome = await request;
  } catch {
    throw new ApiError(0, "The server cannot be reached. What was saved is safe; try again in a moment.");
  }

  if (!outcome.response.ok) {
    throw new ApiError(outcome.response.status, sentence(outcome.error, outcome.response.status));
  }

  return outcome.data as T;
}

const plain: Record<number, string> = {
  401: "You are signed out; sign in again.",
  403: "Your role does not allow this.",
  413: "That is larger than the server takes here.",
};

function sentence(error: unknown, status: number): string {
  const detail = (error as { detail?: string } | undefined)?.detail;
  return detail ?? plain[status] ?? `The server answered ${status}.`;
}

/** Fetches binary content; with a body, by asking for what it describes. */
export async function bytes(
  url: string,
  body?: unknown,
  onProgress?: (share: number) => void,
  task?: { headers: Record<string, string>; signal: AbortSignal },
): Promise<ArrayBuffer> {
  const response = await fetch(
    url,
    body === undefined
      ? undefined
      : {
          method: "POST",
          headers: { "Content-Type": "application/json", ...task?.headers },
          body: JSON.stringify(body),
          signal: task?.signal,
        },
  );
  if (!response.ok) {
    throw new ApiError(response.status, sentence(await response.json().catch(() => undefined), response.status));
  }

  const length = Number(response.headers.get("Content-Length"));
  if (!onProgress || !response.body || !(length > 0)) {
    return response.arrayBuffer();
  }

  const all = new Uint8Array(length);
  const reader = response.body.getReader();
  let at = 0;
  for (let part = await reader.read(); !part.done; part = await reader.read()) {
    all.set(part.value, at);
    at += part.value.length;
    onProgress(at / length);
  }

  return all.buffer;
}

/** Uploads a file as a stream, reporting the share sent. */
export function upload(file: File, onProgress: (share: number) => void): Promise<Schemas["Upload"]> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", `/api/uploads?name=${encodeURIComponent(file.name)}`);
    request.setRequestHeader("Content-Type", "application/octet-stream");
    request.upload.onprogress = (e) => onProgress(e.lengthComputable ? e.loaded / e.total : 0);
    request.onerror = () => reject(new ApiError(0, `${file.name}: the upload was cut off; nothing was kept.`));
    request.onload = () => {
      let answer: unknown;
      try {
        answer = JSON.parse(request.responseText);
      } catch {
        answer = undefined;
      }

      if (request.status >= 200 && request.status < 300) {
        resolve(answer as Schemas["Upload"]);
      } else {
        reject(new ApiError(request.status, sentence(answer, request.status)));
      }
    };
    request.send(file);
  });
}
