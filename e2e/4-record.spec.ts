import { expect, test, type Page } from "@playwright/test";
import { goTo, jobDone, open, pick, release, signIn, stageReady, stationIs } from "./steps";

test("a reader looks, and finds the work switched off", async ({ page }) => {
  await signIn(page, "reader");
  await open(page, "VH-310", "0007");
  await goTo(page, "compare");
  await stageReady(page);
  await expect(page.getByRole("button", { name: "Compare again" })).toBeDisabled();
  await goTo(page, "issue");
  await expect(page.getByRole("button", { name: "Issue report" })).toBeDisabled();
  const id = /pieces\/([^/]+)/.exec(page.url())![1];
  expect((await page.request.post(`/api/pieces/${id}/jobs`, { data: { kind: "run-plan" } })).status()).toBe(403);
});

test.describe.serial("people", () => {
  let password = "";

  test("an administrator adds a person, who chooses a password of their own first", async ({ page, browser }) => {
    await signIn(page, "administrator");
    await page.getByRole("link", { name: "People" }).click();
    await page.getByLabel("Name", { exact: true }).fill("grace");
    await pick(page.getByLabel("Role", { exact: true }), "approver");
    await page.getByRole("button", { name: "Add a person" }).click();
    password = await page.getByTestId("one-time").innerText();
    const theirs = await browser.newPage();
    await signInAs(theirs, "grace", password);
    await expect(theirs.getByRole("heading", { name: "A password of your own" })).toBeVisible();
    await choose(theirs, password, "graces-own-password");
    await expect(theirs.getByRole("heading", { name: "Floor" })).toBeVisible();
    await expect(theirs.getByRole("link", { name: "People" })).toHaveCount(0);

    // Disabled, the open page is shut at once.
    await page.getByTestId("person-grace").getByRole("button", { name: "Disable" }).click();
    await expect(page.getByTestId("person-grace")).toContainText("disabled");
    expect((await theirs.request.get("/api/floor")).status()).toBe(401);
    await page.getByTestId("person-grace").getByRole("button", { name: "Enable" }).click();
    await expect(page.getByTestId("person-grace")).toContainText("in use");
    await theirs.close();
  });

  test("an approver withdraws a report with a reason, and the register says so", async ({ page }) => {
    await signInAs(page, "grace", "graces-own-password");
    await page.getByRole("link", { name: "Reports" }).click();
    const row = page.getByRole("row", { name: /BR-1001/ });
    await row.getByRole("button", { name: "Withdraw" }).click();
    const dialog = page.getByRole("dialog", { name: "Withdraw BR-1001" });
    await expect(dialog.getByRole("button", { name: "Withdraw the report" })).toBeDisabled();
    await dialog.getByLabel("Reason").fill("made for practice");
    await dialog.getByLabel("Your password, to sign").fill("not the password");
    await dialog.getByRole("button", { name: "Withdraw the report" }).click();
    await expect(page.getByText("password: it is wrong; nothing was signed.", { exact: true })).toBeVisible();
    await dialog.getByLabel("Your password, to sign").fill("graces-own-password");
    await dialog.getByRole("button", { name: "Withdraw the report" }).click();
    await expect(row).toContainText("withdrawn: made for practice");

    // Opened by its number, as the code on paper leads to it, it carries the mark.
    await row.getByRole("link", { name: "BR-1001" }).click();
    await expect(page.getByText(/It does not hold\..*made for practice/)).toBeVisible();
    await expect(page.getByRole("list", { name: "What happened to it" })).toContainText(/issued by .*withdrawn by grace/);
    await page.goBack();

    // Another one she stands for, with her password again.
    const waiting = page.getByRole("row").filter({ hasText: "awaits a countersignature" }).first();
    const other = page.getByRole("row", { name: new RegExp(await waiting.getByRole("cell").first().innerText()) });
    await other.getByRole("button", { name: "Countersign" }).click();
    const signing = page.getByRole("dialog", { name: /Countersign BR-/ });
    await signing.getByLabel("Your password, to sign").fill("graces-own-password");
    await signing.getByRole("button", { name: "Countersign the report" }).click();
    await expect(other).toContainText("countersigned");
    await expect(other.getByRole("button", { name: "Countersign" })).toHaveCount(0);
    await page.getByRole("button", { name: "Check the whole register" }).click();
    await expect(page.getByText("The register is as it was entered:")).toBeVisible();

    // Countersigned it holds, and its copy goes out; the log tells of all of it.
    const number = await other.getByRole("cell").first().innerText();
    await page.getByRole("link", { name: "Devices" }).click();
    const sent = page.getByRole("region", { name: "Outbox" }).getByRole("row", { name: new RegExp(number) });
    await expect(sent).toContainText("Mail to shop@works.example");
    await expect(sent).toContainText("sent");
    await page.getByRole("link", { name: "Log" }).click();
    await page.getByLabel("Piece, report, person or word").fill(`grace ${number}`);
    await expect(page.getByText("1 line", { exact: true })).toBeVisible();
    await expect(page.getByRole("row", { name: /countersigned a report/ })).toContainText("VH-310 piece");
    const download = page.waitForEvent("download");
    await page.getByRole("link", { name: "Save as CSV" }).click();
    expect((await download).suggestedFilename()).toBe("log.csv");
  });
});

test("an approver keeps a layout under a name, and another part takes it", async ({ page }) => {
  await signIn(page, "approver");
  await open(page, "HW-118", "0001");
  await goTo(page, "issue");
  await page.getByLabel("Title", { exact: true }).fill("First article inspection");
  await page.getByLabel("Title", { exact: true }).press("Enter");
  await page.getByLabel("Keep this report's layout as").fill("House");
  await page.getByRole("button", { name: "Keep", exact: true }).click();
  await expect(page.getByLabel("Kept layout")).toHaveText("House");
  await page.getByRole("link", { name: "Bostel" }).first().click();
  await open(page, "VH-310", "0007");
  await goTo(page, "issue");
  await expect(page.getByLabel("Title", { exact: true })).toHaveValue("");
  await page.getByRole("button", { name: "Take it" }).click();
  await expect(page.getByLabel("Title", { exact: true })).toHaveValue("First article inspection");
  await page.getByRole("button", { name: "Undo the last change of the plan" }).click();
  await expect(page.getByLabel("Title", { exact: true })).toHaveValue("");
  await page.getByRole("button", { name: "Remove", exact: true }).click();
  await expect(page.getByText("None is kept yet.")).toBeVisible();
});

test("every next piece of a released plan runs by itself, and waiting reports are issued with one signature", async ({ page }) => {
  test.setTimeout(600_000);
  await signIn(page);
  await open(page, "HW-118", "0001");
  await release(page);
  await page.getByRole("link", { name: "Bostel" }).first().click();
  await page.getByRole("link", { name: "Devices" }).click();
  await pick(page.getByLabel("Part", { exact: true }), "HW-118 rev B");
  await page.getByLabel("Serial number").fill("0003");
  await page.getByRole("button", { name: "Capture a piece" }).click();
  await page.getByRole("link", { name: "Floor" }).click();
  await page.getByRole("radio", { name: "To issue" }).click();
  const captured = page.getByLabel("Issue HW-118 · 0003");
  await expect(captured).toBeVisible({ timeout: 300_000 });
  await captured.click();
  await page.getByLabel("Issue HW-118 · 0001").click();
  await page.getByRole("button", { name: "Issue 2 reports …" }).click();
  await page.getByLabel("Your password, to sign").fill("not the password");
  await page.getByRole("button", { name: "Sign and issue 2 reports" }).click();
  await expect(page.getByText("password: it is wrong; nothing was signed.", { exact: true })).toBeVisible();
  await page.getByLabel("Your password, to sign").fill("vent-drive-310");
  await page.getByRole("button", { name: "Sign and issue 2 reports" }).click();
  // What lies under an open dialog is hidden from roles: absence counts only after it.
  await expect(page.getByRole("dialog")).toHaveCount(0);
  await expect(page.getByRole("link", { name: /HW-118 · 0003/ })).toHaveCount(0, { timeout: 200_000 });
  await expect(page.getByRole("link", { name: /HW-118 · 0001/ })).toHaveCount(0, { timeout: 200_000 });
  await page.getByRole("radio", { name: "Judged" }).click();
  await expect(page.getByRole("link", { name: /HW-118 · 0003/ })).toContainText(/BR-\d+/);
});

test("a pose taken from a file is kept in the plan, repeated and undone", async ({ page }) => {
  await signIn(page);
  await open(page, "HW-118", "0001");
  await goTo(page, "align");
  await stageReady(page);
  await expect(page.getByTestId("align-method")).toHaveText("Best fit to all surfaces");
  const link = (await page.getByRole("link", { name: "Save transform" }).getAttribute("href"))!;
  const saved = (await (await page.request.get(link)).json()) as { transform: number[] };
  saved.transform[3] += 0.01;
  await page.getByLabel("Transform file").setInputFiles({
    name: "pose.json",
    mimeType: "application/json",
    buffer: Buffer.from(JSON.stringify({ transform: saved.transform })),
  });
  await jobDone(page, "align");
  await expect(page.getByTestId("align-method")).toHaveText("A given transform, taken as it is");
  await stationIs(page, "evaluate", "outOfDate");
  const plan = await planOf(page);
  expect(plan.align).toMatchObject({ method: "as-given", start: saved.transform });
  await page.keyboard.press("Control+z");
  await expect(page.getByTestId("align-method")).toHaveText("Best fit to all surfaces");
  await expect(page.getByTestId("station-evaluate")).not.toHaveAttribute("data-state", "outOfDate");
});

async function signInAs(page: Page, who: string, password: string) {
  await page.goto("/");
  await page.getByLabel("Name").fill(who);
  await page.getByLabel("Password").fill(password);
  await page.getByRole("button", { name: "Sign in" }).click();
}

async function choose(page: Page, old: string, next: string) {
  await page.getByLabel("Present password").fill(old);
  await page.getByLabel("New password", { exact: true }).fill(next);
  await page.getByLabel("New password again").fill(next);
  await page.getByRole("button", { name: "Change the password" }).click();
}

async function planOf(page: Page) {
  const id = /pieces\/([^/]+)/.exec(page.url())![1];
  const piece = (await (await page.request.get(`/api/pieces/${id}`)).json()) as { partId: string };
  return ((await (await page.request.get(`/api/parts/${piece.partId}/plan`)).json()) as { plan: { align: unknown } }).plan;
}
