import { beforeEach, describe, expect, it } from "vitest";
import { cancelled, runTask, useTasks } from "./tasks";

const running = () => useTasks.getState().running;

describe("a task", () => {
  beforeEach(() => useTasks.setState({ running: [] }));

  it("names itself to the server, shows what it is told, and is gone when it ends", async () => {
    let end: (value: string) => void = () => undefined;
    let named = "";
    const result = runTask("Trying", (task) => {
      named = task.headers["Bostel-Task"];
      return new Promise<string>((resolve) => (end = resolve));
    });
    expect(running()).toMatchObject([{ id: named, what: "Trying", share: 0 }]);
    useTasks.getState().tell(named, 0.4, "Preparing: fill");
    useTasks.getState().tell("another", 0.9, "not ours");
    expect(running()).toMatchObject([{ id: named, what: "Preparing: fill", share: 0.4 }]);
    end("done");
    expect(await result).toBe("done");
    expect(running()).toEqual([]);
  });

  it.each([
    ["by its own button", () => running()[0].cancel()],
    ["from outside", undefined],
  ])("is cancelled %s: the request ends at once", async (_, press) => {
    const outer = new AbortController();
    const result = runTask(
      "Trying",
      ({ signal }) => new Promise((_, reject) => signal.addEventListener("abort", () => reject(new Error("aborted")))),
      outer.signal,
    );
    (press ?? (() => outer.abort()))();
    await expect(result).rejects.toThrow(cancelled);
    expect(running()).toEqual([]);
  });

  it("says what went wrong when it was not cancelled", async () => {
    await expect(runTask("Trying", () => Promise.reject(new Error("a hole too large")))).rejects.toThrow("a hole");
    expect(running()).toEqual([]);
  });
});
