import { expect, type Locator, type Page } from "@playwright/test";
import { execFileSync } from "node:child_process";
import { mkdtempSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join, resolve } from "node:path";

/** Files that ./test made with the simulated scanner. */
export const file = (name: string) => resolve(process.env.BOSTEL_FILES ?? "../var/test/files", name);

export async function signIn(page: Page, who = "inspector") {
  await page.goto("/");
  await page.getByLabel("Name").fill(who);
  await page.getByLabel("Password").fill("vent-drive-310");
  await page.getByRole("button", { name: "Sign in" }).click();
  await expect(page.getByRole("heading", { name: "Floor" })).toBeVisible();
}

/** Opens a list of choices or of things to do, and picks one by its name. */
export async function pick(control: Locator, name: string) {
  await control.click();
  await control.page().getByRole("listbox").or(control.page().getByRole("menu")).getByText(name, { exact: true }).click();
}

/** The messages. */
export const notices = (page: Page) => page.getByRole("region", { name: /Notifications/ });

/** The stage has its geometry. */
export const stageReady = (page: Page) => expect(page.locator("[data-testid=stage][data-ready=true]")).toBeVisible();

export const goTo = (page: Page, station: string) => page.getByTestId(`station-${station}`).click();

export const stationIs = (page: Page, station: string, state: string) =>
  expect(page.getByTestId(`station-${station}`)).toHaveAttribute("data-state", state, { timeout: 90_000 });

/** The last job of the piece is of this kind and has ended well. */
export async function jobDone(page: Page, kind: string) {
  const job = page.getByTestId("job");
  await expect(job).toHaveAttribute("data-job", kind);
  await expect(job).toHaveAttribute("data-job-state", "done", { timeout: 90_000 });
}

/** An approver releases the plan in force of the piece that is open. */
export async function release(page: Page) {
  const approver = await page.context().browser()!.newContext({ baseURL: new URL(page.url()).origin });
  const id = /pieces\/([^/]+)/.exec(page.url())![1];
  const { request } = approver;
  expect((await request.post("/api/session", { data: { user: "approver", password: "vent-drive-310" } })).ok()).toBe(true);
  const { partId } = (await (await request.get(`/api/pieces/${id}`)).json()) as { partId: string };
  const { number } = (await (await request.get(`/api/parts/${partId}/plan`)).json()) as { number: number };
  expect((await request.post(`/api/parts/${partId}/plan/release`, { data: { number } })).ok()).toBe(true);
  await approver.close();
}

/** Issues the report of the piece that is open, signed. */
export async function issue(page: Page) {
  await page.getByRole("button", { name: "Issue report" }).click();
  await page.getByLabel("Your password, to sign").fill("vent-drive-310");
  await page.getByRole("button", { name: "Sign and issue" }).click();
  await jobDone(page, "issue");
}

/** Runs the plan anew and waits for that run: one of before is done already. */
export async function runPlan(page: Page) {
  await goTo(page, "receive");
  const job = page.getByTestId("job");
  const before = (await job.getAttribute("data-job-id")) ?? "";
  await page.getByRole("button", { name: "Run plan" }).click();
  await expect(job).not.toHaveAttribute("data-job-id", before);
  await jobDone(page, "run-plan");
}

export async function receive(page: Page, names: string[]) {
  await page.getByRole("link", { name: "Bostel" }).first().click();
  await page.getByLabel("Files to receive").setInputFiles(names.map(file));
  await expect(page.getByRole("dialog", { name: "Receive files" })).toBeVisible();
}

/** Where on the screen a share of the stage lies. */
export async function onStage(page: Page, x: number, y: number) {
  const box = (await page.getByTestId("stage").boundingBox())!;
  return { x: box.x + x * box.width, y: box.y + y * box.height };
}

/** Opens a piece from the floor. */
export async function open(page: Page, part: string, serial: string) {
  await page.getByRole("link", { name: new RegExp(`${part} · ${serial}`) }).click();
  await expect(page.getByTestId("opened")).toContainText(`piece ${serial}`);
}

/** What the readout names under the cursor, once the page has drawn so often that it follows. */
const hovered = (page: Page, draws = 3) =>
  page.evaluate(async (n) => {
    for (let i = 0; i < n; i++) {
      await new Promise((done) => requestAnimationFrame(done));
    }

    return document.querySelector("[data-testid=hover-face]")?.textContent ?? "";
  }, draws);

/** Where faces were seen, in shares of the stage: looked at first when they are picked again. */
const seen = new Map<string, { x: number; y: number }>();

/**
 * Clicks a face of the nominal where it is seen on the stage: the cursor goes over the stage until the readout names it.
 * @param face As the readout begins, as "face 6:".
 * @returns Where it was clicked.
 */
export async function pickFace(page: Page, face: string, extend = false) {
  await stageReady(page);
  const box = (await page.getByTestId("stage").boundingBox())!;
  const fractions = [0.5, 0.42, 0.58, 0.34, 0.66, 0.26, 0.74, 0.18, 0.82, 0.46, 0.54, 0.38, 0.62, 0.3, 0.7];
  const places = fractions.flatMap((y) => fractions.map((x) => ({ x, y })));
  for (const place of [...(seen.has(face) ? [seen.get(face)!] : []), ...places]) {
    const at = { x: box.x + place.x * box.width, y: box.y + place.y * box.height };
    await page.mouse.move(at.x, at.y);
    if ((await hovered(page)).startsWith(face)) {
      seen.set(face, place);
      if (extend) {
        await page.keyboard.down("Shift");
      }

      await page.mouse.click(at.x, at.y);
      await page.keyboard.up("Shift");
      return at;
    }
  }

  throw new Error(`${face} is not seen on the stage`);
}

type Row = [no: number, measured: number, uncertainty: number];

interface Twice<T> {
  here: T[];
  byCommand: T[];
}

type Measured = Twice<Row> & { sections: Twice<number>; maps: Twice<object>; explained: Twice<number> };

interface Explained {
  rms: number;
  usual: number;
  steps: { left: number }[];
}

/** What the piece on the screen measures, and what the command line does on the same files with the plan as it is saved here. */
export async function measuredTwice(page: Page, nominal: string, scan: string): Promise<Measured> {
  const id = /pieces\/([^/]+)/.exec(page.url())![1];
  const piece = (await (await page.request.get(`/api/pieces/${id}`)).json()) as {
    partId: string;
    run: { characteristics: { plan: { no: number }; measured: number; uncertainty: number }[] };
  };
  const saved = await page.request.get(`/api/parts/${piece.partId}/plan/file`);
  const planned = (await saved.json()) as { compare: { sections?: object[]; maps?: object[]; explain?: boolean } };
  const folder = mkdtempSync(join(tmpdir(), "bostel-plan-"));
  const plan = join(folder, "plan.json");
  writeFileSync(plan, await saved.body());
  const lines = bostel(["inspect", "--plan", plan, "--nominal", file(nominal), "--scan", file(scan), "--out", folder]);
  const line = JSON.parse(lines.split("\n")[0]) as {
    characteristics: { no: number; measured: number; uncertainty: number }[];
    sections: { statistics: { rms: number } }[];
    maps: { statistics: object }[];
    explained: Explained | null;
  };
  const told = planned.compare.explain ? ((await (await page.request.get(`/api/pieces/${id}/explanation`)).json()) as Explained) : null;
  const numbers = (e: Explained | null) => (e ? [e.rms, e.usual, ...e.steps.map((s) => s.left)] : []);
  const made = (planned.compare.maps ?? []).map(async (data) => {
    const map = (await (await page.request.post(`/api/pieces/${id}/map`, { data })).json()) as { statistics: object };
    return map.statistics;
  });
  const cut = (planned.compare.sections ?? []).map(async (data) => {
    const sheet = (await (await page.request.post(`/api/pieces/${id}/section?parts=true`, { data })).json()) as { statistics: { rms: number } };
    return sheet.statistics.rms;
  });
  return {
    here: piece.run.characteristics.map((c) => [c.plan.no, c.measured, c.uncertainty]),
    byCommand: line.characteristics.map((c) => [c.no, c.measured, c.uncertainty]),
    explained: { here: numbers(told), byCommand: numbers(line.explained) },
    maps: { here: await Promise.all(made), byCommand: line.maps.map((m) => m.statistics) },
    sections: { here: await Promise.all(cut), byCommand: line.sections.map((s) => s.statistics.rms) },
  };
}

function bostel(args: string[]): string {
  try {
    const cli = process.env.BOSTEL_CLI ?? "../src/Bostel.Cli/bin/Release/net10.0/bostel.dll";
    return execFileSync("dotnet", [cli, ...args], { encoding: "utf8" });
  } catch (e) {
    // Exit code 1 says that something does not conform.
    const ended = e as { status: number; stdout: string };
    if (ended.status !== 1) {
      throw e;
    }

    return ended.stdout;
  }
}
