import fs from "node:fs";
import http from "node:http";
import type { AddressInfo } from "node:net";
import type { Page } from "@playwright/test";
import Papa from "papaparse";
import { chartsDrawn, expect, test } from "./demo";

/** Presses a key until what has the focus fits; fails after so many times. */
async function pressUntil(
  page: Page,
  key: string,
  fits: (focused: { text: string; walk: boolean; role: string | null; label: string }) => boolean,
  most = 120,
) {
  for (let i = 0; i < most; i++) {
    await page.keyboard.press(key);
    const focused = await page.evaluate(() => {
      const own = document.activeElement as HTMLElement;
      return {
        text: own.textContent ?? "",
        walk: own.hasAttribute("data-walk"),
        role: own.getAttribute("role"),
        label: own.getAttribute("aria-label") ?? "",
      };
    });
    if (fits(focused)) return;
  }
  throw new Error(`${key} pressed ${most} times in vain`);
}

test("from a red lantern to the slow query in four clicks, with when it began and what was done then", async ({
  page,
}) => {
  await page.goto("/watch");
  // One: the lantern that burns.
  const lantern = page
    .getByRole("region", { name: "Databases" })
    .getByRole("link")
    .filter({ has: page.locator('[data-state="now"]') });
  await lantern.first().click();
  await expect(page.getByRole("heading", { name: "berth-db", level: 1 })).toBeVisible();
  await expect(page.getByText(/sessions? on a processor|on a processor, of 8/).first()).toBeVisible();
  const picture = page.getByRole("img", { name: /sessions on a processor now/ });
  await expect(picture.getByText(/deploy \d+ of boarding-api/)).toBeVisible();
  // Two: the stretch in which the most sessions were at work.
  await page.getByRole("button", { name: "Mark the busiest" }).click();
  await expect(page.getByText(/Lanes by their share of/)).toBeVisible();
  await expect(page).toHaveURL(/mark=\d+-\d+/);
  // Three: the query whose lane made it.
  await page.getByRole("link", { name: /^SELECT s\.departs/ }).click();
  await expect(page.getByText("One query")).toBeVisible();
  const text = page.getByRole("region", { name: "Text of the query" });
  await expect(text).toContainText("LEFT JOIN seat_hold AS h");
  await expect(text.locator(".hljs-keyword").first()).toBeVisible();
  await chartsDrawn(page);
  await expect(
    page.getByRole("group", { name: /^Mean time of a call, last values: mean .*ms/ }),
  ).toBeVisible();
  await page.getByText("Which application calls it").scrollIntoViewIfNeeded();
  await expect(
    page.getByRole("group", { name: /^Which application calls it, last values: .*boarding-api/ }),
  ).toBeVisible();
  // Four: how it stands to the time before the deploy.
  await page.getByRole("button", { name: "All queries" }).click();
  const against = page.getByLabel("Set against");
  const mark = await against.locator("option", { hasText: "of boarding-api" }).last().getAttribute("value");
  await against.selectOption(mark!);
  const first = page.getByRole("region", { name: "Queries" }).getByRole("row").nth(1);
  await expect(first).toContainText("SELECT s.departs");
  await expect(first).toContainText(/\+.*\(\+/);
});

test("a query's plan is asked of the real server; where no source connects to one, the page says so", async ({
  page,
}) => {
  await page.goto("/watch?scope=barn-lamp-store&tab=Queries&last=3600");
  await page
    .getByText(/^SELECT .*wanted/)
    .first()
    .click();
  await expect(page.getByText(/None was asked for yet/)).toBeVisible();
  await page.getByRole("button", { name: "Ask the server" }).click();
  const steps = page.getByRole("region", { name: "Steps of the plan" });
  await expect(
    steps.getByRole("row").filter({ hasText: "Function Scan unnest as wanted" }).first(),
  ).toBeVisible();
  await expect(page.getByText(/Nothing was executed/)).toBeVisible();
  // It is kept.
  await page.reload();
  await expect(steps.getByRole("row").first()).toContainText("Rows expected");
  await page.goto("/watch?scope=berth-db&tab=Queries");
  await page.getByText("SELECT s.departs").first().click();
  await expect(page.getByText(/sources tell figures only/)).toBeVisible();
});

test("containers are narrowed step by step, and every chart follows", async ({ page }) => {
  await page.goto("/watch?scope=quay");
  const choice = page.getByRole("group", { name: "Which containers" });
  await expect(choice).toContainText(/39 containers/);
  await choice.getByLabel("Namespace").selectOption("boarding");
  await choice.getByLabel("Workload").selectOption("quay.gate-scan");
  await expect(choice).toContainText("3 containers");
  await expect(choice.getByLabel("Pod").locator("option")).toHaveCount(4);
  await chartsDrawn(page);
  await expect(
    page.getByRole("group", { name: /^Processors, share of the limit, last values: .*gate-scan/ }),
  ).toBeVisible();
  const pod = await choice.getByLabel("Pod").locator("option").nth(1).getAttribute("value");
  await choice.getByLabel("Pod").selectOption(pod!);
  await expect(choice).toContainText("1 container");
  await chartsDrawn(page);
  // The address alone shows the same to a colleague.
  await page.reload();
  await expect(page.getByRole("group", { name: "Which containers" })).toContainText("1 container");
  // Another namespace lets go of what is not in it.
  await page.getByRole("group", { name: "Which containers" }).getByLabel("Namespace").selectOption("booking");
  await expect(page.getByRole("group", { name: "Which containers" }).getByLabel("Workload")).toHaveValue("");
});

test("a new pod and a new queue appear without reloading", async ({ page, request }) => {
  const pods = ["ferry-0"];
  const queues = ["crates"];
  const server = http
    .createServer((asked, answer) => {
      const { pathname } = new URL(asked.url!, "http://x");
      if (pathname === "/metrics")
        return void answer
          .setHeader("content-type", "text/plain; version=0.0.4")
          .end(
            `# TYPE container_memory_working_set_bytes gauge\n${pods
              .map(
                (pod) =>
                  `container_memory_working_set_bytes{namespace="annex",pod="${pod}",container="app"} 5e6\n`,
              )
              .join("")}`,
          );
      const lists: Record<string, unknown> = {
        "/api/queues": queues.map((name) => ({ name, vhost: "/", messages_ready: 7, consumers: 1 })),
        "/api/bindings": [],
        "/api/overview": {},
        "/api/nodes": [],
      };
      answer.setHeader("content-type", "application/json").end(JSON.stringify(lists[pathname] ?? null));
    })
    .listen(0, "127.0.0.1");
  await new Promise((resolve) => server.once("listening", resolve));
  const base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  const add = (data: object) => request.post("/api/v1/systems", { data: { intervalMs: 5000, ...data } });
  try {
    const added = [
      await add({ name: "annex", kit: "container", kind: "openmetrics", address: `${base}/metrics` }),
      await add({ name: "annex-box", kit: "broker", kind: "amqp", address: base }),
    ];
    expect(added.map((one) => one.status())).toEqual([201, 201]);
    await page.goto("/watch?scope=annex");
    const choice = page.getByRole("group", { name: "Which containers" });
    await expect(choice).toContainText("1 container", { timeout: 30_000 });
    pods.push("ferry-1");
    await expect(choice).toContainText("2 containers", { timeout: 40_000 });
    await expect(choice.getByLabel("Pod").locator("option", { hasText: "ferry-1" })).toHaveCount(1);
    await expect(page.getByRole("group", { name: /^Working set, last values: .*ferry-1/ })).toBeVisible({
      timeout: 20_000,
    });
    await page.goto("/watch?scope=annex-box");
    const list = page.getByRole("region", { name: "Queues" }).last();
    await expect(list).toContainText("crates", { timeout: 30_000 });
    queues.push("kegs");
    await expect(list).toContainText("kegs", { timeout: 40_000 });
  } finally {
    for (const name of ["annex", "annex-box"]) await request.delete(`/api/v1/systems/${name}`);
    server.close();
  }
});

test("a chart is built without a query language: type-ahead, formula with units, a bucket that fits, working, CSV", async ({
  page,
}) => {
  await page.goto("/watch/chart?scope=group:hosts");
  const metric = page.getByRole("combobox", { name: "Metric" });
  await metric.fill("memory in use");
  await expect(page.getByRole("listbox", { name: "Metrics" }).getByRole("option").first()).toContainText(
    "host memory used",
  );
  await metric.press("Enter");
  await expect(page.getByRole("group", { name: /^Memory used, last values: pier-0/ })).toBeVisible();
  await page.getByRole("textbox", { name: "Name" }).fill("used");
  await page.getByRole("button", { name: "Add a line" }).click();
  const second = page.getByRole("group", { name: /^Line a$/ });
  await second.getByRole("combobox", { name: "Metric" }).fill("host_load1");
  await second.getByRole("combobox", { name: "Metric" }).press("Enter");
  await second.getByRole("textbox", { name: "Name" }).fill("load");
  await page.getByRole("button", { name: "Add a formula" }).click();
  await page.getByRole("textbox", { name: "Formula" }).fill("used + load");
  await expect(page.getByText(/used \+ load: bytes and .* cannot be added/)).toBeVisible();
  const load = page.getByRole("group", { name: /^Line load$/ });
  await load.getByRole("combobox", { name: "Metric" }).fill("host_memory_size");
  await load.getByRole("combobox", { name: "Metric" }).press("Enter");
  await page.getByRole("textbox", { name: "Formula" }).fill("used / load * 100");
  for (const line of ["used", "load"])
    await page
      .getByRole("group", { name: `Line ${line}` })
      .getByText("not drawn, for formulas only")
      .click();
  await expect(page.getByRole("group", { name: /last values: pier-0\d [\d.]+.%/ })).toBeVisible();
  await expect(page).toHaveURL(/chart=/);
  // Its working tells inputs, formula and units.
  await page.getByRole("button", { name: /^More about/ }).click();
  await page.getByRole("menuitem", { name: "Show its working" }).click();
  await expect(page.getByRole("dialog")).toContainText("used in By, load in By: the result is in 1");
  await page.keyboard.press("Escape");
  // Its points as a file that a CSV reader takes.
  await page.getByRole("button", { name: /^More about/ }).click();
  const [download] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("menuitem", { name: "Save as CSV" }).click(),
  ]);
  const { data, errors } = Papa.parse<Record<string, string>>(
    fs.readFileSync((await download.path())!, "utf8"),
    {
      header: true,
      skipEmptyLines: true,
    },
  );
  expect(errors).toEqual([]);
  expect(new Set(data.map((row) => row.system)).size).toBe(6);
  expect(data.every((row) => Number(row.value) > 0 && Number(row.value) < 1 && row.unit === "1")).toBe(true);
  // A bucket below four collections of a counter is told, with one that fits.
  await page.goto("/watch/metric/host_network_sent_bytes_total?scope=pier-01");
  await chartsDrawn(page);
  await page.getByLabel("Bucket", { exact: true }).selectOption("15");
  await expect(page.getByText(/sees fewer than 4 collections/)).toBeVisible();
  await page.getByRole("button", { name: /^Use 1/ }).click();
  await expect(page.getByText(/sees fewer than 4 collections/)).toHaveCount(0);
  // The same address, the same chart; as a picture too.
  await page.reload();
  await chartsDrawn(page);
  await page.getByRole("button", { name: /^More about/ }).click();
  const [picture] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("menuitem", { name: "Save as PNG" }).click(),
  ]);
  expect(
    fs
      .readFileSync((await picture.path())!)
      .subarray(1, 4)
      .toString(),
  ).toBe("PNG");
});

test("a board is built from nothing; what is chosen in one tile the others follow; two people lose nothing", async ({
  page,
  request,
}) => {
  await page.goto("/watch/boards");
  await page.getByLabel("Title", { exact: true }).fill("Friday sailings");
  await page.getByRole("button", { name: "Make it" }).click();
  await expect(page.getByText("Nothing stands here yet.")).toBeVisible();
  const add = async (name: string | RegExp) => {
    await page.getByRole("button", { name: "Add a tile" }).first().click();
    await page.getByRole("dialog").getByRole("button", { name }).first().click();
  };
  await add(/^Systems/);
  await add(/^Commits$/);
  await add(/^Blocked sessions$/);
  await expect(page.getByRole("status").filter({ hasText: "saved" })).toBeVisible();
  // One tile is pinned to a database of its own.
  await page.getByRole("button", { name: "Change Blocked sessions" }).click();
  await page.getByRole("dialog").getByLabel("Scope").first().selectOption("tariff-db");
  await page.getByRole("button", { name: "Use it" }).click();
  // A tile that went comes back.
  await page.getByRole("button", { name: "Remove Commits" }).click();
  await expect(page.getByRole("heading", { name: "Commits" })).toHaveCount(0);
  await page.keyboard.press("Control+z");
  await expect(page.getByRole("heading", { name: "Commits" })).toBeVisible();
  await expect(page.getByRole("status").filter({ hasText: "saved" })).toBeVisible();
  await page.getByRole("button", { name: "Done" }).click();
  // The focus.
  await page
    .getByRole("region", { name: "Systems" })
    .getByRole("button", { name: /berth-db / })
    .first()
    .click();
  await expect(page.getByRole("status").filter({ hasText: "In focus: berth-db" })).toContainText(
    "1 follow, 1 pinned",
  );
  await expect(page.locator('[data-standing="leads"]')).toHaveCount(1);
  await expect(page.locator('[data-standing="pinned"]')).toContainText("pinned to tariff-db");
  await expect(page.getByRole("group", { name: /^Commits, last values: berth-db [\d.]+/ })).toBeVisible();
  await page.reload();
  await expect(page.getByRole("status").filter({ hasText: "In focus: berth-db" })).toBeVisible();
  await page.getByRole("button", { name: "Clear the focus" }).click();
  await expect(page.locator('[data-standing="follows"]')).toHaveCount(0);
  // Two people: somebody saves meanwhile.
  const name = new URL(page.url()).pathname.split("/").at(-1)!;
  await page.getByRole("button", { name: "Change", exact: true }).click();
  await page.route("**/api/v1/boards/*", (route) =>
    route.request().method() === "GET" ? route.abort() : route.continue(),
  );
  const board = await (await request.get(`/api/v1/boards/${name}`)).json();
  const put = await request.put(`/api/v1/boards/${name}`, {
    data: { definition: { ...board.definition, title: "Theirs" }, version: board.version, by: "Anna" },
  });
  expect(put.status()).toBe(200);
  await page.unroute("**/api/v1/boards/*");
  await page.getByLabel("Title of the board").fill("Mine");
  const conflict = page.getByRole("alert").filter({ hasText: "Anna saved version" });
  await expect(conflict).toContainText("nothing was overwritten");
  await conflict.getByRole("button", { name: "Save mine as a copy" }).click();
  await expect(page).toHaveURL(/\/watch\/boards\/mine-copy/);
  expect((await (await request.get(`/api/v1/boards/${name}`)).json()).definition.title).toBe("Theirs");
  // Out as JSON, in again.
  await page.getByRole("button", { name: "More" }).click();
  const [file] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("menuitem", { name: "Save as JSON" }).click(),
  ]);
  await page.goto("/watch/boards");
  await page.getByLabel("A board as JSON").setInputFiles({
    name: "bad.json",
    mimeType: "application/json",
    buffer: Buffer.from(
      '{"title":"x","tiles":[{"id":"a","x":0,"y":0,"w":99,"h":1,"content":{"type":"clock"}}]}',
    ),
  });
  await expect(page.getByRole("alert").filter({ hasText: "tiles.0.w" })).toBeVisible();
  await page.getByLabel("A board as JSON").setInputFiles((await file.path())!);
  await expect(page.getByText(/3 tiles$/)).toBeVisible();
  await page.getByRole("button", { name: "Take it in" }).click();
  await expect(page.getByRole("heading", { name: "Blocked sessions" })).toBeVisible();
});

test("the keyboard alone leads from the fleet to a system, along its chart and onto a board", async ({
  page,
}) => {
  await page.goto("/watch");
  await expect(page.getByRole("region", { name: "Databases" })).toBeVisible();
  await pressUntil(page, "Tab", ({ walk }) => walk);
  await pressUntil(page, "ArrowRight", ({ text }) => text.includes("tariff-db"));
  await page.keyboard.press("Enter");
  await expect(page.getByRole("heading", { name: "tariff-db", level: 1 })).toBeVisible();
  await chartsDrawn(page);
  await pressUntil(page, "Tab", ({ label }) => label.startsWith("Transactions, last values"));
  await page.keyboard.press("ArrowLeft");
  await page.keyboard.press("Shift+ArrowLeft");
  await expect(page.locator("[aria-live=polite]").filter({ hasText: /committed [\d.]+/ })).toHaveCount(1);
  await page.keyboard.press("Shift+Tab");
  await pressUntil(page, "Shift+Tab", ({ label }) => label === "More about Transactions", 5).catch(
    async () => {
      await pressUntil(page, "Tab", ({ label }) => label === "More about Transactions", 8);
    },
  );
  await page.keyboard.press("Enter");
  await expect(page.getByRole("menuitem", { name: "Put on a board" })).toBeVisible();
  await page.keyboard.type("Put");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("dialog")).toContainText("Put on a board");
  await pressUntil(page, "Tab", ({ text }) => text === "Put it there", 12);
  await page.keyboard.press("Enter");
  await expect(page).toHaveURL(/\/watch\/boards\/my-board/);
  await expect(page.getByRole("heading", { name: "Transactions" })).toBeVisible();
  // Tiles move by arrow keys too.
  await page.goto(`${page.url().split("?")[0]}?edit=true`);
  const tile = page.getByRole("region", { name: "Transactions" });
  await tile.focus();
  const before = (await tile.boundingBox())!;
  await page.keyboard.press("ArrowRight");
  await expect.poll(async () => (await tile.boundingBox())!.x).toBeGreaterThan(before.x + 30);
});

test("a wall turns through boards without the frame, by key too", async ({ page }) => {
  await page.goto("/watch/wall?boards=kit-host,kit-postgresql&every=600");
  await expect(page.getByRole("heading", { name: "Hosts", level: 1 })).toBeVisible();
  await page.keyboard.press("ArrowRight");
  await expect(page.getByRole("heading", { name: "Databases", level: 1 })).toBeVisible();
  await expect(page.getByText(/2 of 2/)).toBeVisible();
  await page.keyboard.press("Escape");
  await expect(page.getByRole("heading", { name: "Boards", level: 1 })).toBeVisible();
});
