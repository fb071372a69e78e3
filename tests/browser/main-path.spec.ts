import { expect, test } from "./demo";

test("from a sample to a message, and back to calm, all through the interface", async ({ page, request }) => {
  test.setTimeout(240_000);
  const { systems } = await (await request.get("/api/v1/systems?scope=pier-02")).json();

  // A source is connected: tested first, then saved.
  await page.goto("/collect");
  await page.getByRole("link", { name: "Add a system" }).click();
  await page.getByRole("radio", { name: /^Host/ }).click();
  await page.getByLabel("Address").fill(systems[0].source.address);
  await page.getByRole("button", { name: "Test" }).click();
  await expect(page.getByRole("status")).toContainText("It answers");
  await expect(page.getByRole("region", { name: "What would be collected" })).toContainText(
    "Share of all processors that was busy",
  );
  await page.getByLabel("Name").fill("pier-07");
  await page.getByLabel("Group").selectOption("hosts");
  await page.getByLabel("Collect every").fill("2 s");
  await page.getByLabel("Give up after").fill("2 s");
  await page.getByRole("button", { name: "Test" }).click();
  await page.getByRole("button", { name: "Save and collect" }).click();

  // Its samples are stored and drawn.
  await expect(page.getByRole("heading", { name: "pier-07", level: 1 })).toBeVisible();
  await expect(page.getByRole("group", { name: /^CPU utilization, last values: .*%/ })).toBeVisible();

  // A rule watches them.
  await page.getByRole("link", { name: "New rule" }).click();
  await page.getByLabel("Name").fill("pier-07 is taken");
  await page.getByLabel("Metric").fill("host_cpu_utilization_ratio");
  await expect(page.getByRole("combobox", { name: "Scope" })).toHaveValue("pier-07");
  await page.getByLabel("Value", { exact: true }).fill("90 apples");
  await expect(page.getByText('"apples" is not a unit known here')).toBeVisible();
  await page.getByLabel("Value", { exact: true }).fill("90 %");
  await page.getByLabel("Held for").fill("6 s");
  await page.getByLabel("Clears at").fill("80 %");
  await page.getByLabel("Clear for").fill("4 s");
  await page.getByLabel("Response level").selectOption("now");
  await page.getByText("Night watch (urgent)").click();
  await page.getByLabel("What to do").fill("See what runs there.");
  await expect(page.getByText("It would have raised no alert in the last day.")).toBeVisible();
  await expect(page.getByText(/limit 90.%/)).toBeVisible();
  await page.getByRole("button", { name: "Save the rule" }).click();
  await expect(page.getByRole("table", { name: "Rules" })).toContainText("pier-07 is taken");

  // The cause begins.
  await page.getByRole("link", { name: "Demo world" }).click();
  await page
    .getByRole("button", { name: "Empty the tray" })
    .click({ timeout: 2000 })
    .catch(() => {});
  await page.getByLabel("Fault").selectOption("cpu-storm");
  await page.getByLabel("Where").selectOption("pier-02");
  await page.getByRole("button", { name: "Let it loose" }).click();

  // An alert is raised, and a mail arrives.
  const tray = page.getByRole("button", { name: /pier-07 is taken/ });
  await expect(tray.first()).toBeVisible({ timeout: 60_000 });
  await tray.first().click();
  await expect(page.locator("pre")).toContainText("above 90");
  await expect(page.locator("pre")).toContainText("See what runs there.");

  // A person takes it on.
  await page
    .getByRole("navigation", { name: "Stations" })
    .getByRole("link", { name: /Respond/ })
    .click();
  const alerts = page.getByRole("table", { name: "Alerts" });
  await alerts.getByRole("link", { name: "pier-07 is taken" }).click();
  await expect(page.getByRole("heading", { name: "pier-07 is taken" })).toBeVisible();
  await expect(page.getByText("raised, nobody on it")).toBeVisible();
  await page.getByLabel("Your name").fill("Rona V.");
  await page.getByLabel("Note").fill("Looking at it.");
  await page.getByRole("button", { name: "Acknowledge" }).click();
  await expect(page.getByText("with Rona V.")).toBeVisible();
  await expect(page.getByText("acknowledged: Looking at it.")).toBeVisible();
  const alertPage = page.url();

  // The cause ends; the alert clears, and a second mail says so.
  await page.goto("/demo");
  await page.getByRole("button", { name: "End cpu-storm on pier-02" }).click();
  await expect(page.getByRole("button", { name: /^Cleared: pier-07 is taken/ })).toBeVisible({
    timeout: 60_000,
  });
  await expect(page.getByRole("button", { name: /pier-07 is taken/ })).toHaveCount(2);
  await page.goto(alertPage);
  await expect(page.getByText(/^cleared at/)).toBeVisible();
  await expect(page.getByText(/mail "cleared" to Night watch \(urgent\) handed over/)).toBeVisible();
  await expect(page.getByRole("button", { name: "Acknowledge" })).toHaveCount(0);

  // Everything is put away again.
  await page.goto("/tune");
  await page.getByRole("link", { name: "pier-07 is taken" }).click();
  await page.getByRole("button", { name: "Remove pier-07 is taken" }).click();
  await page.getByRole("alertdialog").getByRole("button", { name: "Remove" }).click();
  await expect(page).toHaveURL(/\/tune(\?|$)/);
  await page.goto("/collect?scope=pier-07");
  await page.getByRole("button", { name: "Remove pier-07" }).click();
  await page.getByRole("alertdialog").getByRole("button", { name: "Remove" }).click();
  await expect(page.getByText("Nothing is connected in this scope")).toBeVisible();
});
