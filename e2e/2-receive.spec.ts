import { expect, test } from "@playwright/test";
import { readFileSync } from "node:fs";
import { file, goTo, jobDone, pick, receive, signIn, stageReady, stationIs } from "./steps";

test.beforeEach(({ page }) => signIn(page));

test("a file in inches is noticed, mended with one click, and the plan runs by itself to the command line's numbers", async ({ page }) => {
  await receive(page, ["VH-310-0009.stl"]);
  await page.getByRole("button", { name: "Receive", exact: true }).click();
  await expect(page.getByTestId("opened")).toContainText("piece 0009");
  await stationIs(page, "receive", "needsLook");
  await expect(page.getByTestId("worksheet")).toContainText("The size does not fit the nominal");
  await page.getByRole("button", { name: "Read as inch" }).click();
  await stationIs(page, "receive", "done");
  await page.getByRole("button", { name: "Run plan" }).click();
  await jobDone(page, "run-plan");
  await expect(page).toHaveURL(/\/evaluate$/);
  await expect(page.getByTestId(/^row-/)).toHaveCount(26);

  const id = /pieces\/([^/]+)/.exec(page.url())![1];
  const piece = (await (await page.request.get(`/api/pieces/${id}`)).json()) as {
    run: { characteristics: { plan: { no: number }; measured: number; uncertainty: number }[] };
  };
  const line = JSON.parse(readFileSync(file("inspect.jsonl"), "utf8").split("\n")[0]) as {
    characteristics: { no: number; measured: number; uncertainty: number }[];
  };
  const numbers = (rows: { no: number; measured: number; uncertainty: number }[]) => rows.map((c) => [c.no, c.measured, c.uncertainty]);
  expect(numbers(piece.run.characteristics.map((c) => ({ ...c, no: c.plan.no })))).toEqual(numbers(line.characteristics));
});

test("a mesh nominal and its scan, dropped together, make a new part whose faces are recognised", async ({ page }) => {
  const transfer = await page.evaluateHandle(
    ([nominal, scan]) => {
      const data = new DataTransfer();
      const bytes = (text: string) => Uint8Array.from(atob(text), (c) => c.charCodeAt(0));
      data.items.add(new File([bytes(nominal)], "RC-077.stl"));
      data.items.add(new File([bytes(scan)], "RC-077-0001.ply"));
      return data;
    },
    [readFileSync(file("RC-077.stl")).toString("base64"), readFileSync(file("RC-077-0001.ply")).toString("base64")],
  );

  // Text that is dragged into a field is no file: the page leaves it to the field.
  const taken = await page.getByLabel("Search pieces").evaluate((field) => {
    const text = new DataTransfer();
    text.setData("text/plain", "0001");
    const how = { bubbles: true, cancelable: true, dataTransfer: text };
    return ["dragover", "drop"].filter((kind) => !field.dispatchEvent(new DragEvent(kind, how)));
  });
  expect(taken).toEqual([]);
  await page.dispatchEvent("main", "drop", { dataTransfer: transfer });
  const dialog = page.getByRole("dialog", { name: "Receive files" });
  await pick(dialog.getByLabel("Part", { exact: true }), "a new part");
  await pick(dialog.getByLabel("It is").first(), "the nominal");
  await dialog.getByLabel("Part number").fill("RC-079");
  await dialog.getByLabel("Serial number").fill("0001");
  await dialog.getByRole("button", { name: "Receive", exact: true }).click();
  await expect(page.getByTestId("opened")).toContainText("RC-079 rev A · plan 1 · piece 0001");
  await expect(page.getByTestId("worksheet")).toContainText("faces");
  await stationIs(page, "receive", "done");
  await goTo(page, "align");
  await page.getByRole("button", { name: "Align", exact: true }).click();
  await stationIs(page, "align", "done");
  await goTo(page, "compare");
  await page.getByRole("button", { name: "Compare", exact: true }).click();
  await stationIs(page, "compare", "done");
});

test("a cut-off scan says what is wrong at its piece, and nothing else is lost", async ({ page }) => {
  await receive(page, ["VH-310-cut.stl"]);
  await page.getByRole("button", { name: "Receive", exact: true }).click();
  await expect(page.getByTestId("worksheet")).toContainText("VH-310-cut.stl: the file is cut off or damaged");
  await stationIs(page, "receive", "needsLook");
  await expect(page.getByRole("button", { name: "Run plan" })).toBeDisabled();
});

test("two people edit one plan: each sees the other's change at once, and nothing is overwritten unseen", async ({ page, browser }) => {
  const other = await browser.newPage();
  await signIn(other, "approver");
  for (const p of [page, other]) {
    await p.getByRole("link", { name: /VH-310 · 0007/ }).click();
    await goTo(p, "evaluate");
    await p.getByTestId("row-1").click();
  }

  // One is typing while the other's change arrives: what was typed over gives way and is not kept.
  await other.getByLabel("Tolerance, mm").fill("0.09");
  await page.getByLabel("Tolerance, mm").fill("0.06");
  await page.getByLabel("Tolerance, mm").press("Enter");
  await expect(other.getByLabel("Tolerance, mm")).toHaveValue("0.06");
  await other.getByLabel("Name", { exact: true }).fill("Base face flat");
  await other.getByLabel("Name", { exact: true }).press("Enter");
  await expect(page.getByTestId("row-1")).toContainText("Base face flat");
  await expect(page.getByLabel("Tolerance, mm")).toHaveValue("0.06");
  await other.close();
});

test("a piece is captured with the simulated scanner", async ({ page }) => {
  await page.getByRole("link", { name: "Devices" }).click();
  await pick(page.getByLabel("Part", { exact: true }), "VH-310 rev C");
  await page.getByLabel("Serial number").fill("0042");
  await page.getByLabel("Point spacing, mm").fill("1.6");
  await page.getByRole("button", { name: "Capture a piece" }).click();
  await page.getByRole("link", { name: "Open piece 0042" }).click();
  await stageReady(page);
  await expect(page.getByTestId("opened")).toContainText("piece 0042");
});
