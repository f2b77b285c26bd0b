import { defineConfig } from "@playwright/test";

// ./test starts a server with the demo data and names it here.
export default defineConfig({
  testDir: ".",
  workers: 1,
  // What waits does so on conditions; a busy machine may take its time.
  timeout: 240_000,
  expect: { timeout: 60_000 },
  reporter: [["list"]],
  use: {
    baseURL: process.env.BOSTEL_URL ?? "http://127.0.0.1:5310",
    viewport: { width: 1280, height: 800 },
    reducedMotion: "reduce",
    // What cannot be clicked or filled is named, before the time of the whole walk is up.
    actionTimeout: 60_000,
    launchOptions: {
      executablePath: process.env.BOSTEL_CHROMIUM ?? "/usr/bin/chromium",
      args: [
        "--no-sandbox",
        "--disable-gpu",
        "--disable-quic",
        "--no-first-run",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
        "--use-gl=angle",
        "--use-angle=swiftshader",
        "--enable-unsafe-swiftshader",
      ],
    },
  },
});
