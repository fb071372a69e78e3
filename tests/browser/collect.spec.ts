import fs from "node:fs";
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
  // The draft is kept on the server, a moment after the last key.
  await expect
    .poll(async () => (await (await page.request.get("/api/v1/drafts/add-system")).json()).value?.address)
    .toBe("127.0.0.1");
  await page.reload();
  await expect(address).toHaveValue("127.0.0.1");
  await page.getByRole("radio", { name: /^PostgreSQL server/ }).click();
  await page.getByLabel("Password").fill("never stored in the browser");
  await expect
    .poll(async () => (await (await page.request.get("/api/v1/drafts/add-system")).json()).value?.kit)
    .toBe("postgresql");
  expect(await page.evaluate(() => JSON.stringify({ ...sessionStorage, ...localStorage }))).not.toContain(
    "never stored",
  );
  expect(await (await page.request.get("/api/v1/drafts/add-system")).text()).not.toContain("never stored");
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

test("a broker is added in the guided flow: what was found, who is told, and its queues appear", async ({
  page,
  request,
}) => {
  const { systems } = await (await request.get("/api/v1/systems?scope=signal-box")).json();
  await page.goto("/collect/add");
  await page.getByRole("radio", { name: /^Queue broker/ }).click();
  await page.getByLabel("Address").fill(systems[0].source.address);
  await page.getByRole("button", { name: "Test" }).click();
  await expect(page.getByText(/6 parts: manifest/)).toBeVisible();
  await page.getByLabel("Name", { exact: true }).fill("second-box");
  await page.getByLabel("Night watch (urgent)").check();
  await page.getByRole("button", { name: "Save and collect" }).click();
  await expect(page.getByRole("heading", { level: 1, name: "second-box" })).toBeVisible();
  // The rail holds what is in sight: the filter brings both brokers' queues there.
  await page.getByLabel("Filter systems").fill("manifest");
  const queues = page.getByRole("navigation", { name: "Scope" }).getByTitle("manifest", { exact: true });
  await expect(queues).toHaveCount(2, { timeout: 30_000 });
  const { rules } = await (await request.get("/api/v1/rules?scope=second-box")).json();
  expect(rules.map((rule: { name: string }) => rule.name)).toContain(
    "Broker's memory near its limit: second-box",
  );
  await page.goto("/collect/system/second-box");
  await page.getByRole("button", { name: "Leave out //ticket-mail", exact: true }).click();
  await expect(page.getByRole("row", { name: /^ticket-mail / })).toContainText("left out");
});

test("a file is looked at, imported with its rejected rows, and drawn", async ({ page }) => {
  await page.goto("/collect/import");
  const minute = (i: number) => new Date(Date.now() - i * 60_000).toISOString();
  const rows = Array.from({ length: 30 }, (_, i) => `${minute(30 - i)},${20 + (i % 5)}`);
  await page.getByLabel("File").setInputFiles({
    name: "deck.csv",
    mimeType: "text/csv",
    buffer: Buffer.from(["time,car deck %", ...rows, "yesterday,5"].join("\r\n")),
  });
  await page.getByRole("button", { name: "Look at it" }).click();
  await expect(page.getByLabel("Metric of car deck %")).toHaveValue("car_deck_percent");
  await page.getByRole("button", { name: "Import it" }).click();
  await expect(page.getByRole("alert").filter({ hasText: "say which system" })).toBeVisible();
  await page.getByLabel("System, where the file names none").fill("car-deck");
  await page.getByRole("button", { name: "Import it" }).click();
  const table = page.getByRole("table", { name: "Imports" });
  await expect(table.getByRole("row", { name: /deck\.csv/ })).toContainText("done");
  const rejected = table.getByRole("link", { name: "1, as a file" });
  const text = await (await page.request.get((await rejected.getAttribute("href"))!)).text();
  expect(text).toContain("is no time");
  await page.goto("/watch?scope=car-deck&last=3600");
  await expect(page.locator("canvas").first()).toBeVisible();
});

test("a token is shown once, and a sender with it becomes a system", async ({ page, request }) => {
  await page.goto("/collect/tokens");
  await page.getByLabel("Name").fill("test sender");
  await page.getByRole("button", { name: "Make it" }).click();
  const token = await page.getByRole("status").locator("code").textContent();
  const sent = await request.post("/v1/metrics", {
    headers: { authorization: `Bearer ${token}`, "content-type": "application/json" },
    data: {
      resourceMetrics: [
        {
          resource: { attributes: [{ key: "service.name", value: { stringValue: "ramp-light" } }] },
          scopeMetrics: [
            {
              metrics: [
                {
                  name: "lamps.lit",
                  gauge: { dataPoints: [{ asInt: "7", timeUnixNano: `${Date.now()}000000` }] },
                },
              ],
            },
          ],
        },
      ],
    },
  });
  expect([sent.status(), await sent.json()]).toEqual([200, {}]);
  await page.goto("/watch?scope=ramp-light");
  await expect(page.getByRole("heading", { level: 2 }).first()).toBeVisible();
  await page.goto("/collect/tokens");
  await expect(page.getByRole("table", { name: "Tokens" })).toContainText("test sender");
  await expect(page.getByText(token!)).toHaveCount(0);
});

test("intervals are changed for many at once, with the cost before", async ({ page, request }) => {
  await page.goto("/collect?scope=group:hosts");
  for (const host of ["pier-01", "pier-02"]) await page.getByLabel(`Choose OpenMetrics of ${host}`).check();
  const bar = page.getByRole("region", { name: "Interval of the chosen sources" });
  await expect(bar).toContainText("Now 259,200 samples");
  await bar.getByLabel(/^Collect the 2 chosen sources every/).fill("20 s");
  await expect(bar).toContainText("Then 129,600 samples");
  await bar.getByRole("button", { name: "Change" }).click();
  await expect(bar).toHaveCount(0);
  const { systems } = await (await request.get("/api/v1/systems?scope=pier-02")).json();
  expect(systems[0].source.intervalMs).toBe(20_000);
  await request.post("/api/v1/source-intervals", {
    data: { sourceIds: [systems[0].source.id, systems[0].source.id - 1], intervalMs: 10_000 },
  });
});

test("the catalogue finds a metric by its meaning and says where its limit comes from; the store tells its cost", async ({
  page,
}) => {
  await page.goto("/collect/catalogue");
  await page.getByLabel("Search metrics").fill("kill decision");
  const row = page.getByRole("table", { name: "Metrics" }).getByRole("row").nth(1);
  await expect(row).toContainText("container_memory_working_set_bytes");
  await page.goto("/settings/store");
  await expect(page.getByText(/bytes each/)).toBeVisible();
  await page.getByLabel("Days to keep: five-minute figures").fill("10");
  await page.getByRole("button", { name: "Save" }).click();
  await expect(
    page.getByText("keep five-minute figures at least as long as the samples they come from"),
  ).toBeVisible();
});

// The log and the figures that `jstat -gc` told of the same run of OpenJDK 17: tests/reference/gc/make.sh.
test("a GC log is uploaded on the JVM's page, which tells what jstat told of the same run", async ({
  page,
}) => {
  const [head, row] = fs
    .readFileSync("tests/reference/gc/G1.jstat", "utf8")
    .trim()
    .split("\n")
    .map((line) => line.trim().split(/\s+/));
  const said = (column: string) => Number(row[head.indexOf(column)]);
  await page.goto("/watch?scope=fare-engine&tab=Collections");
  await page.getByLabel("Log in OpenJDK's unified format").setInputFiles("tests/reference/gc/G1.log");
  await page.getByRole("button", { name: "Read it" }).click();
  const analysis = page.getByRole("article", { name: "Analysis of G1.log" });
  await expect(analysis).toContainText("G1 Evacuation Pause");
  await expect(analysis.getByRole("img", { name: /Pauses over time/ })).toBeVisible();
  const text = (await analysis.textContent())!;
  const [, count, total, unit] = text.match(/Pauses(\d+), ([\d.]+)\s(ms|s)/)!;
  expect(Number(count)).toBe(said("YGC") + said("FGC") + said("CGC"));
  const seconds = Number(total) * (unit === "ms" ? 0.001 : 1);
  // jstat times a little less than the whole of each pause that the log tells.
  expect(seconds).toBeGreaterThan(said("GCT") * 0.95);
  expect(seconds).toBeLessThan(said("GCT") * 1.1 + 0.01);
  expect(text).toMatch(new RegExp(`Full collections${said("FGC")}Allocated`));
  expect(text).toMatch(/CollectorG1Spans/);
});
