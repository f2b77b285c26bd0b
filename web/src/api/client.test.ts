import { afterEach, describe, expect, it, vi } from "vitest";
import { ApiError, bytes, take, upload } from "./client";

const answer = (status: number, error?: unknown) =>
  Promise.resolve({ data: status < 300 ? { n: 7 } : undefined, error, response: new Response(null, { status }) });

describe("what the server answers", () => {
  it("is unwrapped when all went well", async () => expect(await take(answer(200))).toEqual({ n: 7 }));

  it("becomes an error with the server's own sentence", async () => {
    const refused = take(answer(422, { detail: "angle: must lie between 0 and 180." }));
    await expect(refused).rejects.toThrow("angle: must lie between 0 and 180.");
    await expect(take(answer(422))).rejects.toMatchObject({ status: 422 });
  });

  it("says what a bare refusal means", async () => {
    await expect(take(answer(401))).rejects.toThrow("sign in again");
    await expect(take(answer(500))).rejects.toThrow("The server answered 500.");
  });

  it("that never came is said to be out of reach, and what was saved safe", async () => {
    const lost = take(Promise.reject(new TypeError("fetch failed")));
    await expect(lost).rejects.toBeInstanceOf(ApiError);
    await expect(take(Promise.reject(new TypeError("fetch failed")))).rejects.toThrow("What was saved is safe");
  });
});

describe("binary content", () => {
  afterEach(() => vi.unstubAllGlobals());

  /** A server that sends its bytes in pieces. */
  const sends = (pieces: number[][], headers: Record<string, string> = {}) =>
    vi.stubGlobal("fetch", (...asked: unknown[]) => {
      requests.push(asked);
      const body = new ReadableStream<Uint8Array>({
        start(controller) {
          pieces.forEach((piece) => controller.enqueue(new Uint8Array(piece)));
          controller.close();
        },
      });
      return Promise.resolve(new Response(body, { headers }));
    });
  const requests: unknown[][] = [];

  it("comes whole, with its progress", async () => {
    sends([[1, 2, 3], [4], [5, 6]], { "Content-Length": "6" });
    const shares: number[] = [];
    const all = new Uint8Array(await bytes("/api/x", undefined, (share) => shares.push(share)));
    expect([...all]).toEqual([1, 2, 3, 4, 5, 6]);
    expect(shares.map((s) => Math.round(6 * s))).toEqual([3, 4, 6]);
  });

  it("comes whole where its length is not known", async () => {
    sends([[9], [8, 7]]);
    const shares: number[] = [];
    expect([...new Uint8Array(await bytes("/api/x", undefined, (s) => shares.push(s)))]).toEqual([9, 8, 7]);
    expect(shares).toEqual([]);
  });

  it("is asked for by what it describes", async () => {
    sends([[1]]);
    requests.length = 0;
    await bytes("/api/select", { terms: [1] });
    expect(requests[0][1]).toMatchObject({ method: "POST", body: '{"terms":[1]}' });
  });

  it("that is refused gives the server's sentence", async () => {
    vi.stubGlobal("fetch", () => Promise.resolve(Response.json({ detail: "There is no such scan." }, { status: 404 })));
    await expect(bytes("/api/x")).rejects.toThrow("There is no such scan.");
    vi.stubGlobal("fetch", () => Promise.resolve(new Response("<html>", { status: 502 })));
    await expect(bytes("/api/x")).rejects.toThrow("The server answered 502.");
  });
});

describe("an upload", () => {
  afterEach(() => vi.unstubAllGlobals());

  /** Stands in for the browser's request: what becomes of it is decided by the test. */
  class Request {
    static last: Request;
    upload: { onprogress?: (e: Partial<ProgressEvent>) => void } = {};
    onload?: () => void;
    onerror?: () => void;
    status = 0;
    responseText = "";
    url = "";
    sent: unknown;
    constructor() {
      Request.last = this;
    }
    open(_: string, url: string) {
      this.url = url;
    }
    setRequestHeader() {}
    send(what: unknown) {
      this.sent = what;
    }
  }

  const file = new File(["solid"], "Bügel 5 %.stl");

  it("sends the file under its name and reports the share sent", async () => {
    vi.stubGlobal("XMLHttpRequest", Request);
    const shares: number[] = [];
    const done = upload(file, (share) => shares.push(share));
    const request = Request.last;
    expect(request.url).toBe("/api/uploads?name=B%C3%BCgel%205%20%25.stl");
    expect(request.sent).toBe(file);
    request.upload.onprogress?.({ lengthComputable: true, loaded: 2, total: 8 });
    Object.assign(request, { status: 200, responseText: '{"sha":"abc"}' });
    request.onload?.();
    expect(await done).toEqual({ sha: "abc" });
    expect(shares).toEqual([0.25]);
  });

  it("that is refused or cut off says so and names the file", async () => {
    vi.stubGlobal("XMLHttpRequest", Request);
    const refused = upload(file, () => {});
    Object.assign(Request.last, { status: 507, responseText: '{"detail":"The disk is full."}' });
    Request.last.onload?.();
    await expect(refused).rejects.toThrow("The disk is full.");

    const garbled = upload(file, () => {});
    Object.assign(Request.last, { status: 502, responseText: "<html>" });
    Request.last.onload?.();
    await expect(garbled).rejects.toThrow("The server answered 502.");

    const cut = upload(file, () => {});
    Request.last.onerror?.();
    await expect(cut).rejects.toThrow("Bügel 5 %.stl: the upload was cut off");
  });
});
