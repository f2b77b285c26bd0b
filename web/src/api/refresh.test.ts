import { QueryClient, QueryObserver } from "@tanstack/react-query";
import { describe, expect, it } from "vitest";
import { refresh } from "./refresh";

/** A server whose answers are given when the test says so, each with the state at the time it was asked. */
class Server {
  state = "reading";
  private waiting: (() => void)[] = [];
  asked = 0;
  ask = () => {
    this.asked++;
    const seen = this.state;
    return new Promise<string>((resolve) => this.waiting.push(() => resolve(seen)));
  };
  answer() {
    this.waiting.splice(0).forEach((go) => go());
  }
}

const settle = () => new Promise((resolve) => setTimeout(resolve, 0));

const watched = (server: Server) => {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  const observer = new QueryObserver(client, { queryKey: ["piece", "7"], queryFn: server.ask });
  observer.subscribe(() => {});
  return { client, observer };
};

describe("looking again at what changed", () => {
  it("does not stop at an answer from before the change", async () => {
    const server = new Server();
    const { client, observer } = watched(server);

    // The first question is on its way with the old state when the change is told.
    server.state = "done";
    const refreshed = refresh(client, ["piece", "7"]);
    for (let round = 0; round < 4; round++) {
      server.answer();
      await settle();
    }

    await refreshed;
    expect(observer.getCurrentResult().data).toBe("done");
    expect(server.asked).toBe(2);
  });

  it("asks once when nothing was under way", async () => {
    const server = new Server();
    const { client, observer } = watched(server);
    server.answer();
    await settle();
    expect(observer.getCurrentResult().data).toBe("reading");
    server.state = "done";
    const refreshed = refresh(client, ["piece"]);
    await settle();
    server.answer();
    await refreshed;
    expect(observer.getCurrentResult().data).toBe("done");
    expect(server.asked).toBe(2);
  });

  it("leaves alone what did not change", async () => {
    const server = new Server();
    const { client } = watched(server);
    server.answer();
    await settle();
    await refresh(client, ["floor"]);
    expect(server.asked).toBe(1);
  });
});
