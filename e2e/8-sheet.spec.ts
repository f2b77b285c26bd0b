import { expect, test, type Page } from "@playwright/test";
import { goTo, measuredTwice, notices, onStage, pick, receive, runPlan, signIn, stageReady, stationIs } from "./steps";

// The louvre bracket's plan is made from nothing, on a cloud: its sides, all their edges, what follows from them, what is asked.
test.describe.serial("a plan of a sheet part", () => {
  let page: Page;
  const table = () => page.getByRole("table", { name: "Features" });
  const row = (name: string) => table().getByRole("row").filter({ has: page.getByRole("cell", { name, exact: true }) });

  /** Picks features in the table, the others with Shift. */
  const choose = async (...names: string[]) => {
    for (const [i, name] of names.entries()) {
      await row(name).click({ modifiers: i > 0 ? ["Shift"] : [] });
    }
  };

  let asked = 0;
  const ask = async (kind: string, ...names: string[]) => {
    await choose(...names);
    await page.getByTestId("worksheet").getByRole("button", { name: new RegExp(`^${kind} `) }).click();
    asked++;
    await expect(notices(page)).toContainText(`Characteristic ${asked} is in the plan`);
  };

  /** The side of the sheet at a place of the stage becomes a feature under a name. */
  const side = async (direction: string, x: number, y: number, name: string) => {
    await page.getByRole("button", { name: `Look from ${direction}` }).click();
    await stageReady(page);
    const at = await onStage(page, x, y);
    await page.mouse.click(at.x, at.y);
    await page.getByRole("button", { name: "Add to the plan" }).click();
    const field = page.getByTestId("feature-editor").getByLabel("Name");
    await field.fill(name);
    await field.press("Enter");
    await expect(row(name)).toBeVisible();
  };

  const edges = async (count: number) => {
    const before = await table().getByRole("row").count();
    await page.getByRole("button", { name: `Add its ${count} edges to the plan` }).click();
    await expect(table().getByRole("row")).toHaveCount(before + count);
  };

  test.beforeAll(async ({ browser }) => {
    page = await browser.newPage();
    await signIn(page);
  });
  test.afterAll(() => page.close());

  test("begins with two dropped files, aligned as they are", async () => {
    await receive(page, ["LB-045.step", "LB-045-0001.ply"]);
    const dialog = page.getByRole("dialog", { name: "Receive files" });
    await pick(dialog.getByLabel("Part", { exact: true }), "a new part");
    await dialog.getByLabel("Part number").fill("LB-046");
    await dialog.getByLabel("Serial number").fill("0001");
    await dialog.getByRole("button", { name: "Receive", exact: true }).click();
    await stationIs(page, "receive", "done");
    await page.getByRole("button", { name: "Run plan" }).click();
    await stationIs(page, "compare", "done");
  });

  test("sides are picked, and give all their edges at once", async () => {
    await goTo(page, "features");
    await page.getByRole("radio", { name: "Features" }).click();
    await side("Z+", 0.3, 0.3, "Base");
    await edges(13);
    await side("Z+", 0.68, 0.3, "Flange");
    await edges(7);
    await side("X+", 0.4, 0.3, "Web");
    await edges(5);
    await side("Z−", 0.6, 0.3, "Base, below");
    await side("Z−", 0.3, 0.3, "Flange, below");
    await side("X−", 0.4, 0.3, "Web, inside");
    await row("Base").click();
    await page.getByRole("button", { name: "Make “Base” datum A" }).click();
    await expect(page.getByTestId("datums").getByRole("listitem")).toHaveCount(1);
    await row("Web").click();
    await page.getByRole("button", { name: "Make “Web” datum B" }).click();
    await expect(page.getByTestId("datums").getByRole("listitem")).toHaveCount(2);
  });

  test("bend lines, the middle of the sheet and a corner follow from them", async () => {
    const make = async (what: RegExp, name: string, ...from: string[]) => {
      await choose(...from);
      await page.getByTestId("constructions").getByRole("button", { name: what }).click();
      const field = page.getByTestId("construction-editor").getByLabel("Name");
      await field.fill(name);
      await field.press("Enter");
      await expect(row(name)).toBeVisible();
    };
    await make(/^Line where two planes meet/, "Bend, base and web", "Base, below", "Web");
    await make(/^Line where two planes meet/, "Bend, web and flange", "Web, inside", "Flange");
    await make(/^Middle plane/, "Middle of the base", "Base", "Base, below");
    await make(/^Point nearest to two axes/, "Corner", "Trim line, 51.3 long, edge", "Trim line, 40 long, edge");
  });

  test("what the drawing asks is asked of picked features", async () => {
    await ask("Flatness", "Base");
    await ask("Width", "Base", "Base, below");
    await ask("Width", "Web", "Web, inside");
    await ask("Distance", "Base", "Flange");
    await ask("Angle", "Web", "Base");
    await ask("Parallelism to A", "Flange");
    await ask("Distance", "Bend, base and web", "Bend, web and flange");
    await ask("Diameter", "Hole ø6.5, edge");
    await ask("Diameter", "Hole ø6.5, edge (2)");
    await ask("Distance", "Hole ø6.5, edge", "Hole ø6.5, edge (2)");
    await ask("Position", "Hole ø6.5, edge");
    await ask("Width .* width", "Slot 14 × 6, edge");
    await ask("Width .* length", "Slot 14 × 6, edge");
    await ask("Width .* width", "Slot 14 × 6, edge (2)");
    await ask("Width .* length", "Slot 14 × 6, edge (2)");
    await ask("Diameter", "Hole ø4.2, edge");
    await ask("Diameter", "Hole ø4.2, edge (2)");
    await ask("Diameter", "Hole ø4.2, edge (3)");
    await ask("Distance", "Trim line, 12 long, edge", "Trim line, 12 long, edge (2)");
    await ask("Distance", "Web", "Trim line, 40 long, edge");
    await ask("Distance", "Web", "Trim line, 44 long, edge");
    await ask("Distance", "Corner", "Hole ø6.5, edge");
  });

  test("it is run, and the command line measures the same to the last digit", async () => {
    await runPlan(page);
    await page.getByRole("radio", { name: "Characteristics" }).click();
    await expect(page.getByTestId(/^measured-/).filter({ hasText: /\d/ })).toHaveCount(asked);
    const { here, byCommand } = await measuredTwice(page, "LB-045.step", "LB-045-0001.ply");
    expect(here).toHaveLength(asked);
    expect(here).toEqual(byCommand);
  });
});
