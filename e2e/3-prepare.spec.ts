import { expect, test, type Page } from "@playwright/test";
import { copyFileSync, existsSync, mkdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { file, goTo, issue, onStage, open, pick, release, runPlan, signIn, stageReady, stationIs } from "./steps";

/** Drags over the stage from point to point, given in shares of its size. */
async function drag(page: Page, ...path: [number, number][]) {
  const points = await Promise.all(path.map((p) => onStage(page, ...p)));
  await page.mouse.move(points[0].x, points[0].y);
  await page.mouse.down();
  for (const p of points.slice(1)) {
    await page.mouse.move(p.x, p.y, { steps: 3 });
  }

  await page.mouse.up();
}

const selected = async (page: Page): Promise<number> => {
  await expect(page.getByTestId("selection")).toContainText(/\d of .* selected/);
  return Number((await page.getByTestId("selection").innerText()).split(" of ")[0].replace(/\D/g, ""));
};

// The hand wheel: its waiting piece was scanned on a turntable with strays about it.
test.describe.serial("preparing a scan, step by step", () => {
  let page: Page;
  let dropped = "";

  test.beforeAll(async ({ browser }) => {
    page = await browser.newPage();
    await signIn(page);
    await open(page, "HW-118", "0002");
    await goTo(page, "prepare");
    await stageReady(page);
    await expect(page.getByTestId("worksheet")).toContainText("after 2 steps");
  });
  test.afterAll(() => page.close());

  test("a step that is switched off leaves its strays, and one rule selects them all", async () => {
    await page.getByRole("button", { name: "Switch off" }).first().click();
    await expect(page.getByTestId("worksheet")).toContainText("after 1 step");
    await expect(page.getByRole("list", { name: "Advice" })).toContainText("4 loose pieces besides the part");
    await pick(page.getByRole("button", { name: "Select by rule" }), "all loose pieces");
    expect(await selected(page)).toBeGreaterThan(5000);
    await page.getByTestId("selection").getByRole("button", { name: "Drop" }).click();
    await page.getByRole("button", { name: "Try" }).click();
    await expect(page.getByTestId("tried")).toContainText(/selected triangles dropped/);
    dropped = await page.getByTestId("tried").innerText();
    await page.getByRole("button", { name: "Keep the step" }).click();
    await expect(page.getByRole("list", { name: "Steps" })).toContainText(dropped);
  });

  test("undo takes the step back and redo brings it again", async () => {
    await page.getByRole("button", { name: "Undo the last change of the plan" }).click();
    await expect(page.getByRole("list", { name: "Steps" })).not.toContainText("Drop the selection");
    await page.keyboard.press("Control+Shift+z");
    await expect(page.getByRole("list", { name: "Steps" })).toContainText("Drop the selection");
  });

  test("what is outlined on the stage is selected, more and less, and dropped on trial", async () => {
    await page.getByRole("radio", { name: "Outline" }).click();
    await drag(page, [0.02, 0.02], [0.98, 0.02], [0.98, 0.98], [0.02, 0.98]);
    const all = await selected(page);
    await page.getByRole("radio", { name: "take away" }).click();
    await page.getByRole("radio", { name: "Rectangle" }).click();
    await drag(page, [0.02, 0.02], [0.5, 0.98]);
    await expect.poll(() => selected(page)).toBeLessThan(0.9 * all);
    await page.getByRole("button", { name: "through the part" }).click();
    await page.getByRole("button", { name: "Invert" }).click();
    await expect(page.getByTestId("selection")).toContainText("the rest instead");
    await page.getByTestId("selection").getByRole("button", { name: "Drop" }).click();
    await page.getByRole("button", { name: "Try" }).click();
    await expect(page.getByTestId("tried")).toContainText(/selected triangles dropped/);
    await page.getByRole("button", { name: "Cancel" }).click();
    await expect(page.getByRole("list", { name: "Steps" }).getByRole("listitem")).toHaveCount(3);
  });

  test("holes are filled, and the patches are carried as not measured to the map and the report", async () => {
    await pick(page.getByRole("button", { name: "Add a step" }), "Fill holes");
    await page.getByLabel("Holes up to, mm across").fill("40");
    await page.getByRole("button", { name: "Try" }).click();
    await expect(page.getByTestId("tried")).toContainText(/holes? filled, the largest .* not measured/);
    await page.getByRole("button", { name: "Keep the step" }).click();
    await expect(page.getByRole("list", { name: "Steps" })).toContainText("not measured");
    await page.getByRole("button", { name: "Prepare", exact: true }).click();
    await stationIs(page, "prepare", "done");
    await runPlan(page);
    const id = /pieces\/([^/]+)/.exec(page.url())![1];
    const shown = (await (await page.request.get(`/api/pieces/${id}`)).json()) as { run: { compareStage: { deviationsKey: string } } };
    const deviation = await page.request.get(`/api/pieces/${id}/deviation?key=${shown.run.compareStage.deviationsKey}`);
    const floats = new Float32Array(Uint8Array.from(await deviation.body()).buffer);
    expect(floats.at(-1)).toBeNaN();
    await goTo(page, "issue");
    await expect(page.getByText("is not released: an approver releases it")).toBeVisible();
    await release(page);
    await issue(page);
    const report = page.getByTestId("issued").getByRole("link", { name: /^BR-/ });
    await expect(report).toBeVisible();
    const record = (await (await page.request.get(`/api/pieces/${id}`)).json()) as {
      run: { preparation: { steps: { said: string }[] } };
    };
    expect(record.run.preparation.steps.map((s) => s.said).join(" ")).toContain("not measured");
  });

  test("the same steps are carried out on the next piece by themselves", async () => {
    await page.getByRole("link", { name: "Bostel" }).first().click();
    await open(page, "HW-118", "0001");
    await goTo(page, "prepare");
    await expect(page.getByRole("list", { name: "Steps" })).toContainText("selected triangles dropped");
    await expect(page.getByRole("list", { name: "Steps" })).not.toContainText(dropped);
    await stationIs(page, "prepare", "outOfDate");
    await runPlan(page);
    await stationIs(page, "prepare", "done");
  });
});

test("files put into the intake folder become pieces or go aside with the reason", async ({ page }) => {
  await signIn(page);
  await page.getByRole("link", { name: "Devices" }).click();
  const section = page.getByRole("region", { name: "Intake folder" });
  const { folder } = (await (await page.request.get("/api/intake")).json()) as { folder: string };
  await expect(section).toContainText(folder);
  mkdirSync(folder, { recursive: true });
  copyFileSync(file("RC-077.stl"), join(folder, "VH-310-cad.stl"));
  writeFileSync(join(folder, "VH-310-broken.stl"), readFileSync(file("VH-310-cut.stl")));
  await expect(section.getByRole("row", { name: /VH-310-cad\.stl.*took a file in/ })).toBeVisible({ timeout: 60_000 });
  await expect(section.getByRole("row", { name: /VH-310-broken\.stl.*put a file aside.*cut off or damaged/ })).toBeVisible({ timeout: 60_000 });
  expect(existsSync(join(folder, "aside", "VH-310-broken.stl"))).toBe(true);
  expect(existsSync(join(folder, "taken", "VH-310-cad.stl"))).toBe(true);
  await page.getByRole("link", { name: "Bostel" }).first().click();
  await expect(page.getByRole("link", { name: /VH-310 · cad/ })).toBeVisible();
});
