import AxeBuilder from "@axe-core/playwright";
import { expect, test, type Page } from "@playwright/test";
import { goTo, open, signIn, stageReady } from "./steps";

const stations = ["receive", "prepare", "align", "features", "compare", "evaluate", "issue"];

/** Colours alone differ between the themes: in the dark one only they are looked at. */
async function sound(page: Page, where: string, part = "body") {
  for (const theme of ["light", "dark"]) {
    await page.evaluate((t) => (document.documentElement.dataset.theme = t), theme);
    const axe = new AxeBuilder({ page }).include(part);
    const { violations } = await (theme === "light" ? axe : axe.withRules("color-contrast")).analyze();
    const grave = violations.filter((v) => v.impact === "serious" || v.impact === "critical");
    expect(grave.map((v) => `${where}, ${theme}: ${v.id}: ${v.nodes[0].html}`)).toEqual([]);
  }
}

test("no serious accessibility problem on any page, light or dark", async ({ page }) => {
  test.setTimeout(400_000);
  await page.goto("/");
  await expect(page.getByRole("button", { name: "Sign in" })).toBeVisible();
  await sound(page, "sign in");
  await signIn(page, "administrator");
  await sound(page, "floor");
  for (const name of ["Reports", "Devices", "People", "Log", "Certificate"]) {
    await page.getByRole("link", { name, exact: true }).click();
    await expect(page.getByRole("heading", { level: 1 })).toBeVisible();
    await sound(page, name);
  }

  await page.getByRole("link", { name: "Bostel" }).first().click();
  await open(page, "VH-310", "0007");
  for (const station of stations) {
    await goTo(page, station);
    await stageReady(page);
    if (station === "evaluate") {
      await page.getByTestId("row-3").click();
    }

    // What frames a station is the same on all of them: once it is looked at with the rest.
    await sound(page, station, station === "evaluate" ? "body" : "[data-testid=worksheet]");
  }

  await page.getByRole("link", { name: "Plan and revisions" }).click();
  await expect(page.getByTestId("revisions")).toContainText("The first.");
  await sound(page, "plan");
  await page.keyboard.press("Control+k");
  await expect(page.getByPlaceholder("a command", { exact: false })).toBeVisible();
  await sound(page, "finder");
});

for (const width of [1024, 2560]) {
  test(`everything that is needed is on the screen at ${width} pixels`, async ({ page }) => {
    await page.setViewportSize({ width, height: width === 1024 ? 768 : 1440 });
    await signIn(page);
    await open(page, "VH-310", "0007");
    await goTo(page, "evaluate");
    await stageReady(page);
    for (const place of [page.getByTestId("worksheet"), page.getByTestId("row-1"), page.getByTestId("ruler"), page.getByTestId("job")]) {
      const box = (await place.boundingBox())!;
      expect(box.x).toBeGreaterThanOrEqual(0);
      expect(box.x + Math.min(box.width, 40)).toBeLessThanOrEqual(width);
    }

    expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(width);
  });
}

test("the whole walk goes by keyboard: a piece is opened, a station, a characteristic and an edit", async ({ page }) => {
  await signIn(page);
  await page.keyboard.press("Control+k");
  await page.keyboard.type("VH-310 piece 0007");
  // The list of pieces may come after the words.
  await expect(page.getByRole("option", { name: "VH-310 piece 0007" })).toBeVisible();
  await page.keyboard.press("Enter");
  await expect(page.getByTestId("opened")).toContainText("piece 0007");
  await page.keyboard.press("6");
  await expect(page.getByTestId("station-evaluate")).toHaveAttribute("aria-current", "step");
  await page.keyboard.press("Control+k");
  await page.keyboard.type("Counterbore depth");
  await expect(page.getByRole("option", { name: /Counterbore depth/ }).first()).toBeVisible();
  await page.keyboard.press("Enter");
  await expect(page.getByTestId("worksheet")).toContainText("Characteristic 6: Counterbore depth");
});
