import { expect, test, type Page } from "@playwright/test";
import { execFileSync } from "node:child_process";
import { mkdtempSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join, resolve } from "node:path";
import { file, goTo, jobDone, pick, receive, signIn, stageReady, stationIs } from "./steps";

const drawings = resolve("..", "demo", "drawings");

interface Plan {
  datums: { label: string }[];
  characteristics: { no: number; kind: string; tolerance?: number; datums?: string[]; upper?: number }[];
}

interface Firmness {
  tried: number;
  others: { what: string; measured?: number | null; verdict: string }[];
}

/** The command line leaves out what there is not. */
const said = ({ tried, others }: Firmness) => [tried, others.map((o) => [o.what, o.measured ?? null, o.verdict])];

async function planOf(page: Page) {
  const id = /pieces\/([^/]+)/.exec(page.url())![1];
  const { partId } = (await (await page.request.get(`/api/pieces/${id}`)).json()) as { partId: string };
  return (await (await page.request.get(`/api/parts/${partId}/plan/file`)).json()) as Plan;
}

const settled = (page: Page) => expect(page.getByTestId("opened")).toHaveText(/plan \d+/);

// A plan from the product information of a CAD file; the same file's part gets another from the table of its drawing.
test.describe.serial("a plan that the drawing proposes", () => {
  let page: Page;
  test.beforeAll(async ({ browser }) => {
    page = await browser.newPage();
    await signIn(page);
  });
  test.afterAll(() => page.close());

  test("all that a CAD file says becomes the plan, and the command line proposes the same", async () => {
    await receive(page, [join(drawings, "VH-310-vent-drive-housing.pmi.step"), "VH-310-drawn.ply"]);
    const dialog = page.getByRole("dialog", { name: "Receive files" });
    await pick(dialog.getByLabel("Part", { exact: true }), "a new part");
    await dialog.getByLabel("Part number").fill("VH-311");
    await dialog.getByLabel("Serial number").fill("0001");
    await dialog.getByRole("button", { name: "Receive", exact: true }).click();
    await expect(page.getByTestId("opened")).toContainText("VH-311 rev A · plan 1 · piece 0001");
    await stationIs(page, "receive", "done");
    await goTo(page, "evaluate");
    await stageReady(page);
    await page.getByRole("button", { name: "Propose from the nominal" }).click();
    await expect(page.getByRole("radio", { name: "CAD file" })).toBeChecked();
    await expect(page.getByRole("list", { name: "Proposed" }).getByRole("listitem")).toHaveCount(20);
    await expect(page.getByRole("img", { name: "Position ⌀0.3 M|A|B M|C" })).toBeVisible();
    await page.getByRole("button", { name: "Take 20 characteristics" }).click();
    await expect(page.getByTestId(/^row-/)).toHaveCount(20);

    const plan = await planOf(page);
    const said = JSON.parse(
      execFileSync(resolve("..", "bostel"), ["plan", "propose", "--nominal", join(drawings, "VH-310-vent-drive-housing.pmi.step")], {
        encoding: "utf8",
      }),
    ) as Plan;
    expect(plan.datums).toEqual(said.datums);
    expect(plan.characteristics).toEqual(said.characteristics);
  });

  test("a tolerance is changed by writing it as on the drawing; an error in it is said and changes nothing", async () => {
    await page.getByTestId("row-16").click();
    const written = page.getByLabel("As on the drawing");
    await expect(written).toHaveValue("⌀0.3 M|A|B M|C");
    await written.fill("⌀0.25 M|A|X");
    await written.press("Enter");
    await expect(page.getByTestId("worksheet")).toContainText("The plan has no datum X.");
    await written.fill("0.25 M|A|B");
    await written.press("Enter");
    await expect(written).toHaveValue("⌀0.25 M|A|B");
    await settled(page);
    const row = (await planOf(page)).characteristics.find((c) => c.no === 16)!;
    expect(row).toMatchObject({ tolerance: 0.25, datums: ["A", "B"], material: { limit: "maximum", size: 8.9 } });
    expect(row).not.toHaveProperty("boundary");

    await page.getByTestId("row-1").click();
    await written.fill("52 G8");
    await written.press("Enter");
    await expect(written).toHaveValue("⌀52 +0.056/+0.01");
  });

  test("what has no tolerance of its own takes the general one, until one is written", async () => {
    await page.getByRole("combobox", { name: "General tolerances" }).click();
    await page.getByRole("option", { name: "ISO 2768" }).click();
    await settled(page);
    const general = page.getByRole("checkbox", { name: "Limits of the general tolerances" });
    await general.click();
    await expect(general).toBeChecked();
    const written = page.getByLabel("As on the drawing");

    // ISO 2768-1, table 1: 30 to 120 mm, m.
    await expect(written).toHaveValue("⌀52 ±0.3");
    await page.getByRole("combobox", { name: "Sizes and angles" }).click();
    await page.getByRole("option", { name: "c, coarse" }).click();
    await expect(written).toHaveValue("⌀52 ±0.8");
    await expect(page.getByTestId("worksheet")).toContainText("1 characteristic takes its limits from it.");
    await settled(page);
    await written.fill("52 G8");
    await written.press("Enter");
    await expect(written).toHaveValue("⌀52 +0.056/+0.01");
    await expect(general).not.toBeChecked();
    await settled(page);
    const otherWays = page.getByRole("checkbox", { name: /^Try other ways on every piece/ });
    await otherWays.click();
    await expect(otherWays).toBeChecked();
  });

  test("the plan runs, its numbers are those of the command line, and every row has one", async () => {
    await page.getByRole("button", { name: "Evaluate", exact: true }).click();
    await jobDone(page, "evaluate");
    const id = /pieces\/([^/]+)/.exec(page.url())![1];
    const { run, partId } = (await (await page.request.get(`/api/pieces/${id}`)).json()) as {
      partId: string;
      run: { characteristics: { plan: { no: number }; measured: number | null; uncertainty: number; firmness: Firmness }[] };
    };
    expect(run.characteristics.every((c) => typeof c.measured === "number")).toBe(true);
    const folder = mkdtempSync(join(tmpdir(), "bostel-e2e-"));
    writeFileSync(join(folder, "plan.json"), await (await page.request.get(`/api/parts/${partId}/plan/file`)).body());
    let out = "";
    try {
      out = execFileSync(resolve("..", "bostel"), [
        "inspect", "--plan", join(folder, "plan.json"), "--nominal", join(drawings, "VH-310-vent-drive-housing.pmi.step"),
        "--scan", file("VH-310-drawn.ply"), "--out", join(folder, "out"),
      ], { encoding: "utf8" });
    } catch (e) {
      // Not everything conforms: the command says so by its exit code.
      out = (e as { stdout: string }).stdout;
    }

    const line = JSON.parse(out.split("\n")[0]) as {
      characteristics: { no: number; measured: number; uncertainty: number; firmness: Firmness }[];
    };
    expect(run.characteristics.map((c) => [c.plan.no, c.measured, c.uncertainty, said(c.firmness)])).toEqual(
      line.characteristics.map((c) => [c.no, c.measured, c.uncertainty, said(c.firmness)]),
    );

    // Rows whose verdict rests on a choice are marked, and no others.
    const resting = run.characteristics.filter((c) => c.firmness.others.length > 0).length;
    await expect(page.getByText("by choice", { exact: true })).toHaveCount(resting);
    expect(run.characteristics.filter((c) => c.firmness.tried > 0).length).toBeGreaterThan(10);
  });

  test("a table of the drawing adds what the plan has not; one with an error in it names its line", async () => {
    await page.getByRole("button", { name: "Close row" }).click();
    await page.getByRole("button", { name: "Propose from the nominal" }).click();
    await page.getByRole("radio", { name: "Table" }).click();
    const table = page.getByLabel("Table of the drawing");
    await table.setInputFiles({ name: "wrong.csv", mimeType: "text/csv", buffer: Buffer.from("kind,nominal\nwobble,1\n") });
    await expect(page.getByTestId("worksheet")).toContainText("wrong.csv, line 2: 'wobble' is no kind that is known");
    await table.setInputFiles({
      name: "more.csv",
      mimeType: "text/csv",
      buffer: Buffer.from("number,kind,requirement,feature,count\n41,roundness,0.03,Bore ø52,\n42,diameter,16 +0.2/0,,\n43,diameter,8 +0.02/0,,\n"),
    });
    const offered = page.getByRole("list", { name: "Proposed" }).getByRole("listitem");
    await expect(offered).toHaveCount(1);
    await expect(offered.first()).toContainText("Roundness");
    await page.getByRole("button", { name: "Take 1 characteristic" }).click();
    await expect(page.getByTestId("row-41")).toBeVisible();
  });
});
