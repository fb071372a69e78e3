import { expect, test } from "./demo";

test("a source that does not answer says why, and what was typed is kept", async ({ page }) => {
  await page.goto("/collect/add");
  await page.getByRole("radio", { name: /^Service/ }).click();
  const address = page.getByLabel("Address");
  const tryIt = async (text: string) => {
    await address.fill(text);
    await page.getByRole("button", { name: "Test" }).click();
  };
  // The ports between the demo's own and its stand-ins are free.
  const closed = Number(new URL(process.env.BARNLAMP_URL!).port) + 5;
  await tryIt(`http://127.0.0.1:${closed}/metrics`);
  await expect(page.getByText("refused the connection: nothing listens there")).toBeVisible();
  await tryIt(`${process.env.BARNLAMP_URL}/watch`);
  await expect(page.getByText("answered with a web page, not with metrics")).toBeVisible();
  await tryIt("127.0.0.1");
  await expect(page.getByText("write the whole address")).toBeVisible();
  await page.reload();
  await expect(address).toHaveValue("127.0.0.1");
  await page.getByRole("radio", { name: /^PostgreSQL server/ }).click();
  await page.getByLabel("Password").fill("never stored in the browser");
  expect(await page.evaluate(() => JSON.stringify({ ...sessionStorage, ...localStorage }))).not.toContain(
    "never stored",
  );
});

test("a name that is taken is refused at its field", async ({ page, request }) => {
  const { systems } = await (await request.get("/api/v1/systems?scope=pier-01")).json();
  await page.goto("/collect/add");
  await page.getByRole("radio", { name: /^Host/ }).click();
  await page.getByLabel("Address").fill(systems[0].source.address);
  await page.getByRole("button", { name: "Test" }).click();
  await page.getByLabel("Name").fill("pier-01");
  await page.getByRole("button", { name: "Save and collect" }).click();
  await expect(page.getByText("a system named pier-01 is there already")).toBeVisible();
  await expect(page.getByLabel("Name")).toHaveValue("pier-01");
});

test("an endpoint that is down turns the system dark and says why; it comes back by itself", async ({
  page,
  weather,
}) => {
  await weather.start("endpoint-down", "pier-06");
  await page.goto("/watch?scope=pier-06");
  await expect(page.getByText("refused the connection: nothing listens there")).toBeVisible({
    timeout: 90_000,
  });
  await page.goto("/collect?scope=pier-06");
  await expect(page.getByRole("table", { name: "Systems" })).toContainText(/failure/);
  await weather.clear();
  await page.getByRole("button", { name: "Collect from pier-06 now" }).click();
  await expect(page.getByRole("table", { name: "Systems" })).toContainText(/15 samples in/);
});

test("broken lines are told, and the good ones kept", async ({ page, weather }) => {
  await weather.start("malformed", "pier-05");
  await page.goto("/collect?scope=pier-05");
  const table = page.getByRole("table", { name: "Systems" });
  await expect(table).toContainText("4 lines could not be read", { timeout: 30_000 });
  await expect(table).toContainText("15 samples in");
});
