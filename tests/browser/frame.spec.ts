import { chartsDrawn, expect, test } from "./demo";

test("the keyboard alone leads from the fleet to a system, a rule and back", async ({ page }) => {
  await page.goto("/watch");
  await expect(page.getByRole("heading", { name: "Fleet" })).toBeVisible();
  await page.keyboard.press("Control+k");
  await expect(page.getByRole("combobox")).toBeFocused();
  await page.keyboard.type("berth-db");
  await expect(page.getByRole("option").first()).toContainText("berth-db");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("heading", { name: "berth-db", level: 1 })).toBeVisible();
  expect(page.url()).toContain("scope=berth-db");
  await page.keyboard.press("g");
  await page.keyboard.press("t");
  await expect(page.getByRole("heading", { name: "Rules" })).toBeVisible();
  expect(page.url()).toContain("scope=berth-db");
  await page.keyboard.press("?");
  await expect(page.getByRole("dialog")).toContainText("follow now");
  await page.keyboard.press("Escape");
  await page.keyboard.press("/");
  await page.keyboard.type("tariff");
  await expect(page.getByRole("navigation", { name: "Scope" }).getByRole("link")).toHaveCount(2);
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("Enter");
  await expect(page).toHaveURL(/scope=tariff-db/);
  await page.keyboard.press("n");
  await expect(page.locator("html")).toHaveClass(/dark/);
});

test("the time strip selects the time of every view, and the URL keeps it", async ({ page }) => {
  await page.goto("/watch?scope=berth-db");
  await chartsDrawn(page);
  const strip = page.getByRole("contentinfo", { name: "Time" });
  const box = (await strip.getByRole("img", { name: /alerts and/ }).boundingBox())!;
  await page.mouse.move(box.x + box.width * 0.3, box.y + 30);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.5, box.y + 30, { steps: 5 });
  await page.mouse.up();
  await expect(page).toHaveURL(/from=\d+&to=\d+|to=\d+.*from=\d+/);
  await expect(strip.getByText("held still")).toBeVisible();
  const held = new URL(page.url());
  const length = Number(held.searchParams.get("to")) - Number(held.searchParams.get("from"));
  // A fifth of a strip of fourteen days.
  expect(Math.abs(length - 0.2 * 14 * 86_400)).toBeLessThan(12_000);
  await chartsDrawn(page);
  // The same address shows the same, and other stations keep it.
  await page.reload();
  await expect(strip.getByText("held still")).toBeVisible();
  await page.getByRole("link", { name: "Respond" }).click();
  await expect(page).toHaveURL(/\/respond\?.*from=\d+/);
  await page.keyboard.press("f");
  await expect(strip.getByText("following")).toBeVisible();
  await expect(page).not.toHaveURL(/from=/);
  // By keyboard: the start goes an hour back.
  const start = strip.getByRole("slider", { name: "Start of the time shown" });
  await start.focus();
  const before = Number(await start.getAttribute("aria-valuenow"));
  await page.keyboard.press("ArrowLeft");
  await expect
    .poll(async () => Math.round((before - Number(await start.getAttribute("aria-valuenow"))) / 60_000))
    .toBeGreaterThan(58);
});

test("a range dragged out on a chart is zoomed into", async ({ page }) => {
  await page.goto("/watch/metric/host_cpu_utilization_ratio?scope=group:hosts");
  await chartsDrawn(page);
  const box = (await page.locator("canvas").first().boundingBox())!;
  await page.mouse.move(box.x + box.width * 0.3, box.y + 100);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.5, box.y + 100, { steps: 5 });
  await page.mouse.up();
  await expect(page).toHaveURL(/from=\d+/);
  await chartsDrawn(page);
});

test("narrow and wide windows need no sideways scrolling", async ({ page }) => {
  for (const [width, height] of [
    [1024, 768],
    [2560, 1300],
  ]) {
    await page.setViewportSize({ width, height });
    await page.goto("/watch");
    await expect(page.getByRole("heading", { name: "Fleet" })).toBeVisible();
    const overflow = await page.evaluate(
      () => document.documentElement.scrollWidth - document.documentElement.clientWidth,
    );
    expect(overflow).toBeLessThanOrEqual(0);
  }
});
