import { expect, test, type Page } from "@playwright/test";
import { readFileSync } from "node:fs";
import { goTo, measuredTwice, notices, onStage, pick, pickFace, receive, runPlan, signIn, stageReady, stationIs } from "./steps";

// The ridge clamp's plan is made from nothing: three datums and eight characteristics, every face picked on the stage.
test.describe.serial("a plan made in the browser", () => {
  let page: Page;
  const look = (direction: string) => page.getByRole("button", { name: `Look from ${direction}` }).click();

  /** Turns the part a little, so that the walls of bores are seen. */
  const tilt = async () => {
    const at = await onStage(page, 0.3, 0.85);
    await page.mouse.move(at.x, at.y);
    await page.mouse.down();
    await page.mouse.move(at.x + 110, at.y - 70, { steps: 4 });
    await page.mouse.up();
  };

  test.beforeAll(async ({ browser }) => {
    page = await browser.newPage();
    await signIn(page);
  });
  test.afterAll(() => page.close());

  test("begins with two dropped files", async () => {
    await receive(page, ["RC-077.step", "RC-077-0001.ply"]);
    const dialog = page.getByRole("dialog", { name: "Receive files" });
    await pick(dialog.getByLabel("Part", { exact: true }), "a new part");
    await dialog.getByLabel("Part number").fill("RC-078");
    await dialog.getByLabel("Serial number").fill("0001");
    await dialog.getByRole("button", { name: "Receive", exact: true }).click();
    await expect(page.getByTestId("opened")).toContainText("RC-078 rev A · plan 1 · piece 0001");
    await stationIs(page, "receive", "done");
  });

  test("features become datums before anything is aligned", async () => {
    await goTo(page, "features");
    await stageReady(page);
    for (const [direction, face, letter] of [
      ["Z−", "face 6:", "A"],
      ["Y−", "face 0:", "B"],
      ["X+", "face 20:", "C"],
    ] as const) {
      await look(direction);
      await pickFace(page, face);
      await page.getByRole("button", { name: "Add to the plan" }).click();
      await page.getByRole("button", { name: `datum ${letter}` }).click();
      await expect(page.getByTestId("datums").getByRole("listitem")).toHaveCount("ABC".indexOf(letter) + 1);
    }

    await page.getByTestId("feature-editor").getByLabel("Name").fill("End face");
    await page.getByTestId("feature-editor").getByLabel("Name").press("Enter");
    await expect(page.getByTestId("datums")).toContainText("End face");
  });

  test("a removed datum comes back when undone", async () => {
    await page.getByRole("button", { name: "Remove datum B" }).click();
    await expect(page.getByTestId("datums").getByRole("listitem")).toHaveCount(2);
    await page.keyboard.press("Control+z");
    await expect(page.getByTestId("datums").getByRole("listitem")).toHaveCount(3);
  });

  test("another way of aligning shows what it would do, and is only kept when it is carried out", async () => {
    await goTo(page, "align");
    await page.getByRole("button", { name: /^Align( again)?$/ }).click();
    await stationIs(page, "align", "done");
    await pick(page.getByLabel("Way of aligning"), "Set from datums");
    await page.getByRole("button", { name: "+ A" }).click();
    const trial = page.getByTestId("trial");
    await expect(trial).toContainText("3 of six motions are free");
    await expect(trial.getByRole("row", { name: "turn z" })).toContainText("free");
    await page.getByRole("button", { name: "+ B" }).click();
    await page.getByRole("button", { name: "+ C" }).click();
    await expect(trial).toContainText("All six motions are held");
    await expect(trial).toContainText(/Moves the part by up to 0\.\d+ mm/);
    await expect(trial.getByRole("row", { name: "shift x" })).toContainText("datum C");
    await page.getByRole("group", { name: "Order of the datums" }).getByRole("button", { name: "C" }).press("ArrowLeft");
    await expect(trial.getByRole("row", { name: "shift x" })).toContainText("datum C");
    await expect(trial.getByTestId("steps").getByRole("row").nth(1)).toContainText("C");
    await pick(page.getByLabel("Way of aligning"), "Fit to all surfaces");
    await expect(trial).toHaveCount(0);
    await stationIs(page, "align", "done");
  });

  test("another alignment stands beside the plan's own under a name of its own", async () => {
    await page.getByRole("button", { name: "Another alignment" }).click();
    await pick(page.getByLabel("Way of aligning"), "Set by an axis system");
    await pick(page.getByLabel("First axis along"), "Plane");
    await pick(page.getByLabel("Second axis towards"), "End face");
    await pick(page.getByLabel("Origin on"), "End face");
    const trial = page.getByTestId("trial");
    await expect(trial.getByRole("row", { name: "turn x" })).toContainText("the two axes");
    await expect(trial).toContainText("2 of six motions are free");
    await expect(trial.getByRole("row", { name: "shift x" })).toContainText("the origin");
    await pick(page.getByLabel("and on"), "Plane");
    await expect(trial).toContainText("1 of six motions is free");
    await page.getByRole("button", { name: "Align this way" }).click();
    await expect(page.getByTestId("from-own")).toContainText(/It lies up to 0\.\d+ mm/);
    await page.getByLabel("Name of this alignment").fill("on its base");
    await page.getByLabel("Name of this alignment").press("Enter");
    await expect(page.getByRole("radio", { name: "on its base" })).toBeChecked();
    await page.getByRole("radio", { name: "the plan's own" }).click();
    await expect(page.getByLabel("Way of aligning")).toContainText("Fit to all surfaces");
    await stationIs(page, "align", "done");
  });

  test("by chosen faces, reference points, pairs and by hand the part is tried, and nothing is kept", async () => {
    const trial = page.getByTestId("trial");
    const way = (name: string) => pick(page.getByLabel("Way of aligning"), name);
    const click = async (x: number, y: number) => {
      const at = await onStage(page, x, y);
      await page.mouse.click(at.x, at.y);
    };
    await look("Z−");
    await way("Fit to chosen faces");
    await click(0.5, 0.5);
    await expect(trial).toContainText("3 of six motions are free");

    await way("Set from reference points");
    await page.getByText("Paste a table").click();
    const table = page.getByLabel(/^Name, x, y, z/);
    await table.fill("P1 0 0 zero 0 0 1");
    await expect(page.getByRole("button", { name: "Add the points" })).toBeDisabled();
    await table.fill("");
    for (const [direction, places] of [
      [
        "Z−",
        [
          [0.44, 0.45],
          [0.56, 0.45],
          [0.5, 0.56],
        ],
      ],
      [
        "Y−",
        [
          [0.44, 0.5],
          [0.56, 0.5],
        ],
      ],
      ["X+", [[0.5, 0.5]]],
    ] as const) {
      await look(direction);
      for (const [x, y] of places) {
        await click(x, y);
      }
    }

    await expect(page.getByRole("button", { name: "Remove P6" })).toBeVisible();
    await expect(trial).toContainText("All six motions are held");

    await look("Z−");
    await way("Set from point pairs");
    for (const [x, y] of [
      [0.5, 0.5],
      [0.42, 0.4],
      [0.58, 0.42],
    ]) {
      await click(x, y);
      await expect(page.getByText("Now click the place of the nominal it belongs to.")).toBeVisible();
      await click(x, y);
    }

    await expect(trial).toContainText("All six motions are held");

    await way("By hand, or a transform as it is");
    const box = (await page.getByTestId("handle-shift-x").boundingBox())!;
    const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
    await page.mouse.move(x, y);
    await page.mouse.down();
    await page.mouse.move(x + 12, y, { steps: 3 });
    await page.mouse.up();
    await expect(trial).toContainText(/Moves the part by up to [1-9]\d*\.\d+ mm/);
    await page.getByRole("button", { name: "Put it back" }).click();
    await expect(page.getByRole("button", { name: "Keep this pose" })).toHaveCount(0);
    await way("Fit to all surfaces");
    await stationIs(page, "align", "done");
  });

  test("what is asked is chosen from what fits the picked faces", async () => {
    await goTo(page, "compare");
    await page.getByRole("button", { name: /^Compare( again)?$/ }).click();
    await stationIs(page, "compare", "done");
    await goTo(page, "evaluate");
    await stageReady(page);
    // What the nominal proposes is a list to tick: one of it is taken, and undone.
    await page.keyboard.press("Escape");
    await page.getByRole("button", { name: "Propose from the nominal" }).click();
    const proposed = page.getByRole("list", { name: "Proposed" });
    await expect(proposed).toContainText("Profile all over");
    await page.getByRole("button", { name: "None", exact: true }).click();
    await proposed.getByRole("checkbox").first().click();
    await page.getByRole("button", { name: "Take 1 characteristic" }).click();
    await expect(page.getByTestId(/^row-/)).toHaveCount(1);
    await page.getByRole("button", { name: "Undo the last change of the plan" }).click();
    await expect(page.getByTestId(/^row-/)).toHaveCount(0);
    const ask = async (kind: string, ...faces: [string, string][]) => {
      await page.keyboard.press("Escape");
      for (const [i, [direction, face]] of faces.entries()) {
        await look(direction.slice(0, 2));
        if (direction.endsWith("tilted")) {
          await tilt();
        }

        await pickFace(page, face, i > 0);
      }

      const before = await page.getByTestId(/^row-/).count();
      await page.getByRole("button", { name: new RegExp(`^${kind} `) }).click();
      await expect(page.getByTestId(/^row-/)).toHaveCount(before + 1);
    };
    await ask("Flatness", ["Z−", "face 6:"]);
    await ask("Parallelism", ["Z+", "face 16:"]);
    await ask("Perpendicularity to A", ["Y−", "face 0:"]);
    await ask("Width", ["Z−", "face 6:"], ["Z+", "face 16:"]);
    await ask("Diameter", ["Y− tilted", "face 29:"]);
    await ask("Position", ["Y− tilted", "face 29:"]);
    await ask("Diameter", ["Z+", "face 33:"]);
    await ask("Distance", ["X−", "face 13:"], ["X−", "face 7:"]);
  });

  test("what follows from features is offered, made and asked of", async () => {
    await goTo(page, "features");
    const features = page.getByRole("table", { name: "Features" }).getByRole("row");
    await features.nth(2).click();
    await features.filter({ hasText: "End face" }).click({ modifiers: ["Shift"] });
    const offers = page.getByTestId("constructions");
    await expect(offers.getByRole("button")).toHaveCount(2);
    await offers.getByRole("button", { name: "Line where two planes meet through (70, 0" }).click();
    await page.getByTestId("construction-editor").getByLabel("Name").fill("Front edge");
    await page.getByTestId("construction-editor").getByLabel("Name").press("Enter");
    await expect(features.filter({ hasText: "Front edge" })).toBeVisible();
    await expect(page.getByTestId("measured-feature")).toContainText("U of the place");
    await page.getByRole("button", { name: /^Perpendicularity to A/ }).click();
    await page.getByRole("radio", { name: "Characteristics" }).click();
    await expect(page.getByTestId("row-9")).toContainText("Front edge perpendicularity");
    await goTo(page, "evaluate");
  });

  test("an edge is measured beside its face, and stands in the table of features", async () => {
    await goTo(page, "features");
    await page.getByRole("radio", { name: "Features" }).click();
    await look("Z+");
    await pickFace(page, "face 16:");
    await page.getByRole("button", { name: "Add Trim line, 31 long, edge, on face 1" }).click();
    await expect(page.getByTestId("measured-feature")).toContainText("coverage of the edge");
    const table = page.getByRole("table", { name: "Features" });
    await expect(table.getByRole("row", { name: /^Trim line, 31 long, edge/ })).toBeVisible();
    const saved = page.waitForEvent("download");
    await page.getByRole("button", { name: "Save as CSV" }).click();
    const lines = readFileSync((await (await saved).path())!, "utf8").trim().split("\r\n");
    expect(lines[0]).toContain("nominal mm,measured mm,deviation mm,U mm");
    expect(lines).toHaveLength(await table.getByRole("row").count());
    await page.getByRole("searchbox", { name: /words/ }).fill("trim LINE");
    await expect(table.getByRole("row")).toHaveCount(2);
    await goTo(page, "evaluate");
  });

  test("a region of the scan is picked, measured, made a feature and asked of", async () => {
    await goTo(page, "features");
    await page.getByRole("radio", { name: "the scan itself" }).click();
    await look("Z−");
    await stageReady(page);
    const middle = await onStage(page, 0.5, 0.5);
    await page.mouse.click(middle.x, middle.y);
    await expect(page.getByTestId("worksheet")).toContainText("Plane on the scan 1");
    await expect(page.getByTestId("measured-feature")).toContainText("coverage inside the margin");
    await page.getByRole("button", { name: "Add to the plan" }).click();
    const table = page.getByRole("table", { name: "Features" });
    await expect(table.getByRole("row", { name: /^Plane on the scan 1/ })).toBeVisible();
    await expect(page.getByTestId("feature-editor")).toContainText("A plane grown on the scan");
    await page.getByRole("button", { name: /^Flatness/ }).click();
    await page.getByRole("radio", { name: "Characteristics" }).click();
    await expect(page.getByTestId("row-10")).toContainText("flatness");
    await page.getByRole("radio", { name: "faces of the nominal" }).click();
    await goTo(page, "evaluate");
  });

  test("limits are typed, and the plan judges by them", async () => {
    await page.getByTestId("row-5").click();
    await page.getByLabel("Upper deviation").fill("0.05");
    await page.getByLabel("Upper deviation").press("Enter");
    await expect(page.getByTestId("row-5")).toContainText("7.800 … 8.050");
    await page.getByTestId("row-6").click();
    await expect(page.getByLabel("Primary datum")).toHaveText("A");
    await expect(page.getByLabel("Tertiary datum")).toHaveText("C");
    await pick(page.getByLabel("Rule"), "Simple acceptance");
    await runPlan(page);
    await expect(page.getByTestId("measured-4")).toContainText(/^2[78]\.\d/);
    await expect(page.getByTestId(/^measured-/).filter({ hasText: /\d/ })).toHaveCount(10);
  });

  test("a section is placed by dragging, seen square on, kept and saved", async () => {
    await goTo(page, "compare");
    await page.getByRole("radio", { name: "Sections" }).click();
    await page.getByRole("button", { name: "Cut a section" }).click();
    await expect(page.getByTestId("section-grip")).toBeVisible();
    const number = async () => Number(/plan (\d+)/.exec(await page.getByTestId("opened").innerText())![1]);
    const cut = await number();
    const at = page.getByLabel("At, mm");
    const before = Number(await at.inputValue());
    await look("Y−");
    const grip = (await page.getByTestId("section-grip").boundingBox())!;
    const [x, y] = [grip.x + grip.width / 2, grip.y + grip.height / 2];
    await page.mouse.move(x, y);
    await page.mouse.down();
    await page.mouse.move(x, y - 20, { steps: 4 });
    await page.mouse.up();
    await expect(async () => expect(Number(await at.inputValue())).toBeGreaterThan(before)).toPass();
    await page.getByRole("radio", { name: "square on" }).click();
    await expect(page.getByTestId("section-sheet")).toContainText(/strokes \d+ times as long/);
    await expect(page.getByTestId("worksheet")).toContainText("within the plan's band");

    // Kept: it is there again when the page is opened anew.
    const kept = await at.inputValue();
    await expect.poll(number).toBeGreaterThan(cut);
    await page.reload();
    await stageReady(page);
    await page.getByRole("radio", { name: "Sections" }).click();
    await expect(at).toHaveValue(kept);

    // A dimension of it, picked on the sheet: a row of the plan like any other.
    await page.getByRole("table", { name: "Arcs" }).getByRole("button").first().click();
    await page.getByRole("button", { name: /Radius in a section/ }).click();
    await expect(page.getByTestId("worksheet")).toContainText(/In the plan: no\. \d+ Section 1 radius/);

    // Three cuts 2 mm apart: each is cut on every piece like the first.
    await page.getByRole("textbox", { name: "Cuts" }).fill("3");
    await page.getByLabel("Step, mm").fill("-2");
    await page.getByLabel("Step, mm").press("Enter");
    await page.getByRole("button", { name: "Cut the series" }).click();
    await page.getByRole("button", { name: "Section 1 3", exact: true }).click();
    await expect(at).toHaveValue(String(Number((Number(kept) - 4).toFixed(3))));
    await page.getByRole("button", { name: "Section 1", exact: true }).click();
    await expect(at).toHaveValue(kept);
    const saved = page.waitForEvent("download");
    await page.getByRole("link", { name: "CSV" }).click();
    const lines = readFileSync((await (await saved).path())!, "utf8").trim().split("\n");
    expect(lines[0]).toBe("of,outline,closed,x,y,z,deviation");
    expect(lines.filter((l) => l.startsWith("scan")).every((l) => Math.abs(Number(l.split(",")[5]) - Number(kept)) < 1e-6)).toBe(true);

    // Along a line drawn on the part, from where it is picked to a little beside: begun and ended it is a plane of the plan.
    await page.getByRole("radio", { name: "on the part" }).click();
    await page.getByRole("button", { name: "Cut a section" }).click();
    await expect(page.getByRole("textbox", { name: "Name", exact: true })).toHaveValue("Section 2");
    await page.getByRole("radio", { name: "line", exact: true }).click();
    const drawing = page.getByText(/^Click where/);
    await expect(drawing).toContainText("begins");
    const begin = await pickFace(page, "face ");
    await expect(drawing).toContainText("ends");
    const drawn = await number();
    await page.mouse.click(begin.x + 14, begin.y + 6);
    await expect(drawing).toHaveCount(0);
    await expect.poll(number).toBeGreaterThan(drawn);
    await expect(page.getByTestId("section-grip")).toBeVisible();
    await runPlan(page);
  });

  test("other maps are added, limited, held to faces and kept; areas beyond the band are found and labelled", async () => {
    await goTo(page, "compare");
    const add = async (name: string) => {
      await page.getByRole("button", { name: "Add a map" }).click();
      await page.getByRole("menuitem", { name }).click();
      await expect(page.getByText("This piece, weighted by area")).toBeVisible();
      await stageReady(page);
    };
    await add("Wall thickness");
    await expect(page.getByTestId("ruler")).toContainText("no limits");
    await page.getByLabel("At least, mm").fill("0.5");
    await page.getByLabel("At least, mm").press("Enter");
    await expect(page.getByTestId("ruler")).toContainText("within");
    await expect(page.getByTestId("worksheet")).toContainText("within its limits");

    // Held to one face, by a click on the part, and kept so.
    const places = async () => {
      const said = /places\s+([\d\u00a0]+)/.exec(await page.getByTestId("worksheet").innerText());
      // Nothing is said while the map is made anew.
      return said ? Number(said[1].replace(/\D/g, "")) : Infinity;
    };
    const all = await places();
    await page.getByRole("checkbox", { name: "Only chosen faces" }).click();
    await pickFace(page, "face ");
    await page.getByRole("button", { name: "Keep the map to these faces" }).click();
    await expect(page.getByRole("button", { name: "Keep the map to these faces" })).toBeHidden();
    await expect.poll(places).toBeLessThan(all);
    await add("Nominal to scan: what is missing");
    await expect(page.getByTestId("worksheet")).toContainText("Deviation from the nominal to the scan.");

    // What is under the hand is told in the map's words; the deviation is there again when it is asked for.
    const box = (await page.getByTestId("stage").boundingBox())!;
    await page.mouse.move(box.x + box.width / 2 - 60, box.y + box.height / 2);
    await expect(page.getByTestId("hover-deviation")).toHaveText(/^(Nominal to scan [+−]\d\.\d{3} mm|no data|)$/);
    await pick(page.getByLabel("Map", { exact: true }), "Deviation, scan to nominal");
    await stageReady(page);

    // A tighter level at a click, the areas beyond it, and labels where they are farthest: none covers another.
    await page.getByRole("button", { name: "±0.01 mm" }).click();
    await expect(page.getByLabel("Upper limit, mm")).toHaveValue("0.01");
    await page.getByRole("radio", { name: "Areas" }).click();
    await expect(page.getByTestId("area").first()).toContainText(/[+−]0\.\d{3}/);
    await page.getByRole("button", { name: /^Label the \d worst$/ }).click();
    await expect(page.getByTestId("label")).toHaveCount(5);
    await page.getByRole("radio", { name: "Labels" }).click();
    await page.getByRole("checkbox", { name: "limits" }).click();
    await expect(page.getByTestId("label").first()).toContainText("−0.010 … +0.010");
    const boxes = await Promise.all((await page.getByTestId("label").all()).map(async (l) => (await l.boundingBox())!));
    boxes.forEach((a, i) =>
      boxes.slice(i + 1).forEach((b) => {
        const apart = a.x + a.width <= b.x || b.x + b.width <= a.x || a.y + a.height <= b.y || b.y + b.height <= a.y;
        expect(apart).toBe(true);
      }),
    );
    await page.getByRole("button", { name: "Remove 5 labels" }).click();
    await expect(page.getByTestId("label")).toHaveCount(0);

    // A perfect clamp with noise: nothing stands out, and that is said, on every piece.
    await page.getByRole("radio", { name: "Explained" }).click();
    await expect(page.getByText("Nothing stands out of its uncertainty", { exact: false })).toBeVisible();
    await page.getByLabel("In the report of every piece").click();
    await expect(page.getByLabel("In the report of every piece")).toBeChecked();
    await runPlan(page);
  });

  test("the saved plan gives the same numbers by the command line, to the last digit", async () => {
    const { here, byCommand, sections, maps, explained } = await measuredTwice(page, "RC-077.step", "RC-077-0001.ply");
    expect(here).toHaveLength(11);
    expect(here).toEqual(byCommand);
    expect(sections.here).toHaveLength(4);
    expect(sections.here).toEqual(sections.byCommand);
    expect(maps.here).toHaveLength(2);
    expect(maps.here).toEqual(maps.byCommand);
    expect(explained.here).toHaveLength(6);
    expect(explained.here).toEqual(explained.byCommand);
  });

  test("its revisions tell who changed what, are compared and gone back to", async () => {
    await page.getByRole("link", { name: "Plan and revisions" }).click();
    const revisions = page.getByTestId("revisions").getByRole("listitem");
    await expect(page.getByTestId("revisions")).toContainText("decision: ");
    await expect(page.getByTestId("revisions")).toContainText("characteristic 8 added");
    await expect(page.getByTestId("revisions")).toContainText("datum C added: ");

    // More than a page of them by now, or nearly.
    const earlier = page.getByRole("button", { name: "Earlier revisions" });
    if (await earlier.isVisible()) {
      await earlier.click();
    }

    const first = revisions.filter({ hasText: "The first." });
    await first.getByRole("button", { name: "Compare" }).click();
    await expect(first.getByRole("note")).toContainText("datum B added");
    await first.getByRole("button", { name: "Go back to it" }).click();
    await expect(page.getByRole("region", { name: "The plan in words" })).not.toContainText("datum A");
    await page.getByRole("button", { name: "Undo the last change of the plan" }).click();
    await expect(page.getByRole("region", { name: "The plan in words" })).toContainText("datum A");
  });

  test("a plan of another part is refused with the reason, and a file of this part is taken", async () => {
    const before = await page.getByTestId("opened").innerText();
    await pick(page.getByRole("button", { name: "Copy from part" }), "VH-310 Vent drive housing");
    await expect(notices(page)).toContainText("this nominal has faces 0 to 38");
    await expect(page.getByTestId("opened")).toHaveText(before);
    await page.getByLabel("Plan file").setInputFiles({ name: "broken.json", mimeType: "application/json", buffer: Buffer.from("{") });
    await expect(notices(page)).toContainText("broken.json");
  });
});
