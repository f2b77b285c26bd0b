import { expect, test, type Page } from "@playwright/test";
import { mkdtempSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { goTo, issue, onStage, pick, pickFace, release, signIn, stageReady, stationIs } from "./steps";

// One walk along the path with the waiting demo piece; each test goes on where the one before ended.
test.describe.serial("from a waiting scan to an issued report", () => {
  let page: Page;

  test.beforeAll(async ({ browser }) => {
    page = await browser.newPage();
    await signIn(page);
  });
  test.afterAll(() => page.close());

  test("the floor shows the part, a finished piece and a waiting one", async () => {
    await expect(page.getByRole("list", { name: "Parts" })).toContainText("VH-310");
    await expect(page.getByRole("link", { name: /0007.*BR-\d+.*conforming/ })).toBeVisible();
    const card = page.getByRole("list", { name: "Parts" }).getByRole("listitem").filter({ hasText: "VH-310" });
    await card.getByRole("button", { name: "Only its pieces" }).click();
    const trend = page.getByRole("region", { name: "Trend of VH-310" });
    await expect(trend).toContainText("the last 2 pieces; too few to tell whether a number moves");
    await trend.getByRole("button", { name: "All 26" }).click();
    // The bore was planted within its limits, 52 to 52.03, on every piece judged so far.
    const bore = trend.getByRole("listitem").filter({ hasText: "Main bore diameter" }).first();
    await expect(bore).toContainText(/0007: 52\.0[0-3]\d, conforming/);
    await page.getByRole("link", { name: /0008/ }).click();
    await expect(page.getByTestId("opened")).toContainText("VH-310 rev C · plan 1 · piece 0008");
  });

  test("receive shows the size beside the nominal's, in mm and inches", async () => {
    await goTo(page, "receive");
    await stageReady(page);
    await expect(page.getByTestId("worksheet")).toContainText("160.0 × 120.0 × 85.0");
    await expect(page.getByTestId("worksheet")).toContainText("6.30 × 4.72 × 3.35");
    await stationIs(page, "receive", "done");
  });

  test("prepare lists loose pieces and drops all but the part", async () => {
    await goTo(page, "prepare");
    await expect(page.getByTestId("worksheet")).toContainText("4 of 5 pieces dropped");
    await expect(page.getByTestId("worksheet")).toContainText("Pieces of the raw scan: 5");
    await page.getByRole("button", { name: "Prepare", exact: true }).click();
    await stationIs(page, "prepare", "done");
    await expect(page.getByTestId("worksheet")).toContainText("4 of 5");
  });

  test("align brings the scan on and its outcome survives a reload", async () => {
    await goTo(page, "align");
    await page.getByRole("button", { name: "Align", exact: true }).click();
    await stationIs(page, "align", "done");
    const shown = await page.getByTestId("transform").innerText();
    await page.reload();
    await stageReady(page);
    await stationIs(page, "align", "done");
    expect(await page.getByTestId("transform").innerText()).toBe(shown);
    const saved = await page.request.get((await page.getByRole("link", { name: "Save transform" }).getAttribute("href"))!);
    expect(((await saved.json()) as { transform: number[] }).transform).toHaveLength(16);
  });

  test("compare colours the scan, and the deviation under the cursor is shown at once", async () => {
    await goTo(page, "compare");
    await page.getByRole("button", { name: "Compare", exact: true }).click();
    await stationIs(page, "compare", "done");
    await stageReady(page);
    const at = await onStage(page, 0.5, 0.78);
    await page.mouse.move(at.x, at.y);
    await expect(page.getByTestId("hover-deviation")).toHaveText(/deviation [+−]\d\.\d{3} mm/);
  });

  test("a handle of the ruler recolours and counts live", async () => {
    const before = await page.getByTestId("ruler-within").innerText();
    const handle = page.getByRole("slider", { name: "upper limit" });
    await handle.focus();
    for (let i = 0; i < 3; i++) {
      await page.keyboard.press("Shift+ArrowDown");
    }

    await expect(page.getByTestId("ruler-within")).not.toHaveText(before);
    await page.getByLabel("Upper limit, mm").fill("0.1");
    await page.getByLabel("Upper limit, mm").press("Enter");
    await expect(page.getByTestId("ruler-within")).toHaveText(before);
  });

  test("labels are pinned where the part is clicked", async () => {
    await page.getByRole("radio", { name: "Labels" }).click();
    await page.getByRole("button", { name: "Pin labels" }).click();
    const at = await onStage(page, 0.5, 0.78);
    await page.mouse.click(at.x, at.y);
    await expect(page.getByRole("button", { name: /^Remove label [+−]\d\.\d{3}$/ })).toHaveCount(1);
    await expect(page.getByTestId("opened")).toContainText("plan 2");
    // Kept in the plan: there after a reload, gone when undone, back when redone. It puts nothing out of date.
    const label = await page.getByRole("button", { name: /^Remove label [+−]/ }).getAttribute("aria-label");
    await page.reload();
    await stageReady(page);
    await expect(page.getByRole("button", { name: label! })).toHaveCount(1);
    await page.keyboard.press("Control+z");
    await expect(page.getByRole("button", { name: /^Remove label [+−]/ })).toHaveCount(0);
    await page.keyboard.press("Control+Shift+z");
    await expect(page.getByRole("button", { name: label! })).toHaveCount(1);
    await stationIs(page, "compare", "done");
  });

  test("two places are told by their distance, on the scan and on the nominal", async () => {
    await page.getByRole("radio", { name: "Distances" }).click();
    for (const x of [0.45, 0.55]) {
      const at = await onStage(page, x, 0.78);
      await page.mouse.click(at.x, at.y);
    }

    const sheet = page.getByTestId("worksheet");
    await expect(sheet).toContainText("straight, on the nominal");
    const told = await sheet.innerText();
    const number = (name: string) => {
      const [, written] = new RegExp(`${name}\\s+([+−]?\\d+\\.\\d+) mm`).exec(told)!;
      return Number(written.replace("−", "-"));
    };
    // Each is rounded to a micrometre.
    const along = ["along x", "along y", "along z"].map(number);
    expect(Math.abs(Math.hypot(...along) - number("straight, on the scan"))).toBeLessThan(0.002);
    expect(number("straight, on the scan")).toBeGreaterThan(1);
    await expect(page.getByTestId("distance").locator("circle")).toHaveCount(2);
    await page.getByRole("button", { name: "Clear" }).click();
    await expect(page.getByTestId("distance")).toHaveCount(0);
    await page.getByRole("radio", { name: "Labels" }).click();
  });

  test("clicking a bore of the nominal measures it", async () => {
    await goTo(page, "features");
    await stageReady(page);
    await page.getByRole("button", { name: "Show everything" }).click();
    await pickFace(page, "face 128:");
    // The recipe made the bore 0.048 mm larger than nominal; the device's error is 0.008 mm.
    const measured = page.getByTestId("measured-feature");
    await expect(measured).toContainText("diameter");
    const diameter = Number((await measured.locator("tr", { hasText: "diameter" }).first().locator("td").nth(1).innerText()).trim());
    expect(Math.abs(diameter - 52.048)).toBeLessThan(0.003);
  });

  test("the ledger has all rows of the drawing with the planted faults found, and a row leads to its evidence", async () => {
    await goTo(page, "evaluate");
    await page.getByRole("button", { name: "Evaluate", exact: true }).click();
    await expect(page.getByTestId(/^row-/)).toHaveCount(26);
    await expect(page.getByTestId("row-2")).toContainText("non-conforming");
    await expect(page.getByTestId("row-9")).toContainText("non-conforming");
    await page.getByTestId("row-9").click();
    await expect(page.getByTestId("worksheet")).toContainText("Flange hole 1 position");
    await expect(page.getByTestId("worksheet")).toContainText("length error of the device");
    await expect(page.getByTestId("worksheet")).toContainText("points used (dots)");
    await page.getByTestId("row-9").focus();
    await page.keyboard.press("ArrowDown");
    await expect(page.getByTestId("worksheet")).toContainText("Mounting hole 1 position");
  });

  test("a change of the plan is undone and redone, and says what it made out of date", async () => {
    await page.getByLabel("Tolerance, mm").fill("0.05");
    await page.getByLabel("Tolerance, mm").press("Enter");
    await expect(page.getByTestId("opened")).toContainText("plan 3");
    await stationIs(page, "evaluate", "outOfDate");
    for (const station of ["prepare", "align", "features", "compare"]) {
      await stationIs(page, station, "done");
    }

    // Undone, the verdicts of before are in date again by themselves.
    await page.keyboard.press("Control+z");
    await expect(page.getByTestId("opened")).toContainText("plan 2");
    await stationIs(page, "evaluate", "needsLook");
    await page.keyboard.press("Control+Shift+z");
    await expect(page.getByTestId("opened")).toContainText("plan 3");
    await stationIs(page, "evaluate", "outOfDate");
    await page.getByRole("button", { name: "Evaluate again" }).click();
    await expect(page.getByTestId("row-10")).toContainText("non-conforming");
    await page.getByRole("button", { name: "Undo the last change of the plan" }).click();
    await expect(page.getByTestId("opened")).toContainText("plan 2");
    await expect(page.getByTestId("row-10")).not.toContainText("non-conforming");
    await stationIs(page, "evaluate", "needsLook");
  });

  test("the device's stated error enters every uncertainty, and no more than the judging is done again", async () => {
    await page.getByTestId("row-2").click();
    await expect(page.getByTestId("worksheet")).toContainText("points used (dots)");
    const uncertainty = page.getByTestId("worksheet").locator("dl > div", { hasText: "expanded uncertainty" }).locator("dd");
    const before = parseFloat(await uncertainty.innerText());
    await page.getByText("Length error up to", { exact: false }).click();
    await page.getByLabel("Length error, mm").fill("0.1");
    await page.getByLabel("Length error, mm").press("Enter");
    await stationIs(page, "evaluate", "outOfDate");
    await stationIs(page, "compare", "done");
    await page.getByRole("button", { name: "Evaluate again" }).click();
    await expect(page.getByTestId("row-2")).not.toContainText("non-conforming");
    // 0.1 uniform, for 95 %: twice 0.1/√3.
    expect(parseFloat(await uncertainty.innerText())).toBeCloseTo(0.1155, 3);
    expect(before).toBeLessThan(0.02);
    await page.getByRole("button", { name: "Undo the last change of the plan" }).click();
    await expect(page.getByTestId("opened")).toContainText("plan 2");
    await stationIs(page, "evaluate", "needsLook");
  });

  test("what the deviation is made of is told as it was planted, and what is left has a map of its own", async () => {
    await goTo(page, "compare");
    await page.getByRole("radio", { name: "Explained" }).click();
    const told = page.getByRole("list", { name: "What the deviation is made of" });
    await expect(told).toContainText("Flange face stands");
    const said = await told.innerText();
    // The simulated scanner planted: the flange face 0.03 high, one bore moved by (0.14, 0.06), one by (0.05, 0.02).
    for (const [of, truth] of [
      ["Flange face stands", 0.03],
      ["Flange hole 1 is moved by", Math.hypot(0.14, 0.06)],
      ["Mounting hole 1 is moved by", Math.hypot(0.05, 0.02)],
    ] as const) {
      const [, value, u] = new RegExp(`${of} ([0-9.]+) ± ([0-9.]+) mm`).exec(said)!.map(Number);
      expect(Math.abs(value - truth), of).toBeLessThanOrEqual(u);
    }

    expect(said).not.toContain("The part is");
    await page.getByLabel("Errors of single faces").click();
    await page.getByRole("button", { name: "Map of what is left" }).click();
    await expect(page.getByRole("combobox", { name: "Map", exact: true })).toContainText("Left over");
    await expect(page.getByTestId("ruler-within")).toContainText("%");
    await page.getByRole("radio", { name: "Explained" }).click();
    // The plan of this part asks for it in the report.
    await expect(page.getByLabel("In the report of every piece")).toBeChecked();
    // It is of what is compared: nothing is out of date by the map.
    await stationIs(page, "compare", "done");
  });

  test("the report has the kept figure, is composed beside its page, and what was issued can be told from what was not", async () => {
    await goTo(page, "issue");
    await stageReady(page);
    await page.getByLabel("Caption").fill("The whole housing");
    await page.getByRole("button", { name: "Add figure" }).click();
    await expect(page.getByRole("img", { name: /Figure 1: The whole housing/ })).toBeVisible();

    // The page as it would be issued, beside what it is made of; an edit shows there, and is undone.
    await page.getByRole("button", { name: "Show the page" }).click();
    const draft = page.frameLocator("iframe[title='The report as it would be issued']");
    await expect(draft.getByText(/^✕ 3 of 26 characteristics do not conform: 2 Main bore diameter/)).toBeVisible();
    await expect(draft.getByRole("heading", { name: "What does not conform" })).toBeVisible();
    await page.getByRole("button", { name: "Evidence out of the report" }).click();
    await expect(draft.getByRole("heading", { name: "What does not conform" })).toHaveCount(0);
    await expect(draft.getByRole("heading", { name: "Overview" })).toBeVisible();
    await page.getByRole("button", { name: "Verdict further down" }).click();
    await expect(page.getByRole("list", { name: "Parts of the report" }).getByRole("listitem").nth(1)).toContainText("Verdict");
    await page.getByRole("button", { name: "Undo the last change of the plan" }).click();
    await page.getByRole("button", { name: "Undo the last change of the plan" }).click();
    await expect(draft.getByRole("heading", { name: "What does not conform" })).toBeVisible();
    // The plan asks for a second person: what is issued does not hold alone.
    await page.getByLabel("Holds only once somebody else has countersigned it").click();
    await expect(page.getByLabel("Holds only once somebody else has countersigned it")).toBeChecked();
    // A copy goes out by mail once it holds; mail needs an address, a folder none.
    const addCopy = page.getByRole("button", { name: "Add copy" });
    await pick(page.getByLabel("By", { exact: true }), "Folder");
    await expect(addCopy).toBeEnabled();
    await pick(page.getByLabel("By", { exact: true }), "Mail");
    await expect(addCopy).toBeDisabled();
    await page.getByRole("textbox", { name: "Address", exact: true }).fill("shop@works.example");
    await addCopy.click();
    await expect(page.getByRole("list", { name: "Copies that go out" })).toContainText("Mail to shop@works.example");
    await release(page);
    await issue(page);
    const issued = page.getByTestId("issued");
    const pdf = await page.request.get((await issued.getByRole("link", { name: "PDF", exact: true }).getAttribute("href"))!);
    const content = await pdf.body();
    expect(content.subarray(0, 4).toString()).toBe("%PDF");
    const number = await issued.getByRole("link", { name: /^BR-/ }).innerText();
    await page.getByRole("link", { name: "Bostel" }).first().click();
    await page.getByRole("link", { name: "Reports" }).click();
    const row = page.getByRole("row", { name: new RegExp(number) });
    await expect(row).toContainText("non-conforming");
    await page.getByLabel("File to verify").setInputFiles({ name: "report.pdf", mimeType: "application/pdf", buffer: content });
    await expect(page.getByText(`report.pdf is the PDF of ${number}, but it does not hold.`)).toBeVisible();
    content[content.length >> 1] ^= 1;
    await page.getByLabel("File to verify").setInputFiles({ name: "other.pdf", mimeType: "application/pdf", buffer: content });
    await expect(page.getByText("other.pdf was not issued here")).toBeVisible();
    await page.getByRole("button", { name: "Check the whole register" }).click();
    await expect(page.getByText("The register is as it was entered:")).toBeVisible();
    await expect(row).toContainText("awaits a countersignature");
  });

  test("the report's own file works alone: the map is turned and read with the network cut off", async ({ browser }) => {
    const link = page.getByRole("row", { name: /non-conforming/ }).first().getByRole("link", { name: "HTML" });
    const file = join(mkdtempSync(join(tmpdir(), "bostel-e2e-")), "report.html");
    writeFileSync(file, await (await page.request.get((await link.getAttribute("href"))!)).body());
    const alone = await (await browser.newContext({ offline: true })).newPage();
    const asked: string[] = [];
    alone.on("request", (r) => !/^(file|data|blob):/.test(r.url()) && asked.push(r.url()));
    await alone.goto(`file://${file}`);
    const map = alone.getByRole("region", { name: "The map in 3D" });
    await expect(map).toHaveAttribute("data-drawn", "true");
    await expect(map.getByRole("status")).toContainText("µm");

    // The flange face stands in the middle of what is seen, and was planted 0.03 high.
    const box = (await map.locator("canvas").boundingBox())!;
    await alone.mouse.move(box.x + box.width * 0.5, box.y + box.height * 0.56);
    await expect(map.getByRole("status")).toContainText(/^[+−]0\.\d{3} mm at /);
    expect(asked).toEqual([]);
    await alone.close();
  });
});
