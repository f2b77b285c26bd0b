import { expect, test } from "@playwright/test";
import { goTo, onStage, pick, receive, signIn, stageReady, stationIs } from "./steps";

// A part without CAD: its scan becomes the reference, and axes are laid along its surfaces.
test("a part without a drawing is given coordinates of its own", async ({ page }) => {
  await signIn(page);
  await receive(page, ["RC-077-0001.ply"]);
  const dialog = page.getByRole("dialog", { name: "Receive files" });
  await pick(dialog.getByLabel("Part", { exact: true }), "a new part");
  await dialog.getByLabel("Part number").fill("RC-092");
  await dialog.getByLabel("Serial number").fill("0001");
  await dialog.getByRole("button", { name: "Receive", exact: true }).click();
  await expect(page.getByTestId("opened")).toContainText("RC-092 rev A · plan 1 · piece 0001");
  await stationIs(page, "receive", "done");
  await goTo(page, "align");
  await page.getByRole("button", { name: "Take this scan as the reference" }).click();
  const form = page.getByTestId("coordinates");
  await expect(form).toBeVisible({ timeout: 60_000 });
  await stageReady(page);

  // Whatever flat face is seen in the middle gives the first axis; the clamp is the same on both sides of its middle.
  await form.getByRole("button", { name: "Pick" }).first().click();
  const middle = await onStage(page, 0.5, 0.5);
  await page.mouse.move(middle.x, middle.y);
  await expect(page.getByTestId("hover-face")).toContainText("plane");
  const face = Number(/face (\d+):/.exec(await page.getByTestId("hover-face").innerText())![1]);
  await page.mouse.click(middle.x, middle.y);
  await expect(form.getByLabel("First axis along")).toContainText(`face ${face}: plane`);
  await pick(form.getByLabel("Origin on"), "the plane of symmetry");
  await form.getByRole("button", { name: "Set these coordinates" }).click();
  await stationIs(page, "align", "done");

  const opened = page.url().split("/pieces/")[1].split("/")[0];
  const { partId } = (await (await page.request.get(`/api/pieces/${opened}`)).json()) as { partId: string };
  const nominal = (await (await page.request.get(`/api/parts/${partId}/nominal`)).json()) as {
    isReference: boolean;
    faces: { numbers: number[] }[];
    remarks: string[];
  };
  expect(nominal.isReference).toBe(true);
  nominal.faces[face].numbers.slice(3, 6).forEach((v, k) => expect(v).toBeCloseTo([0, 0, 1][k], 9));
  await goTo(page, "receive");
  await expect(page.getByRole("link", { name: "save the reference" })).toBeVisible();
});
