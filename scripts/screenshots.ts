/**
 * Pictures of the main views, made from the running demo: `npx tsx scripts/screenshots.ts [FOLDER] [NAME…]`.
 * Without a folder they go to docs/screenshots. BARNLAMP_URL names another address than the demo's default.
 */
import fs from "node:fs";
import path from "node:path";
import { chromium, type Page } from "@playwright/test";

const [folder = "docs/screenshots", ...wanted] = process.argv.slice(2);
const base = process.env.BARNLAMP_URL ?? "http://127.0.0.1:4600";

interface View {
  name: string;
  url: string | ((page: Page) => Promise<string>);
  theme?: "dark" | "light";
  prepare?(page: Page): Promise<void>;
}

async function newestAlert(page: Page): Promise<string> {
  const { alerts } = await (await page.request.get(`${base}/api/v1/alerts?limit=200`)).json();
  const queue =
    alerts.find((alert: { metric: string }) => alert.metric === "broker_queue_messages") ?? alerts[0];
  return `/respond/alerts/${queue.id}`;
}

async function ruleNamed(page: Page, name: string): Promise<string> {
  const { rules } = await (await page.request.get(`${base}/api/v1/rules`)).json();
  return `/tune/rules/${rules.find((rule: { name: string }) => rule.name === name).id}`;
}

const VIEWS: View[] = [
  { name: "fleet-day", url: "/watch" },
  { name: "fleet-night", url: "/watch", theme: "dark" },
  { name: "database", url: "/watch?scope=berth-db" },
  {
    name: "queries",
    url: "/watch?scope=berth-db&tab=Queries&against=length&rank=added",
    prepare: (page) => page.getByRole("region", { name: "Queries" }).waitFor(),
  },
  { name: "containers", url: "/watch?scope=quay&part=namespace%3Dboarding" },
  { name: "board", url: "/watch/boards/kit-postgresql?focus=systems!berth-db" },
  { name: "neighbours", url: "/watch?scope=boarding-api&tab=Neighbours" },
  { name: "system-night", url: "/watch?scope=pier-03&last=172800", theme: "dark" },
  { name: "chart", url: "/watch/metric/host_cpu_utilization_ratio?scope=group:hosts" },
  { name: "collect", url: "/collect" },
  { name: "catalogue", url: "/collect/catalogue" },
  { name: "store", url: "/settings/store" },
  {
    name: "add-system",
    url: "/collect/add",
    prepare: async (page) => {
      await page.getByRole("radio", { name: /^Host/ }).click();
      const { systems } = await (await page.request.get(`${base}/api/v1/systems`)).json();
      const host = systems.find((system: { name: string }) => system.name === "pier-01");
      await page.getByLabel("Address").fill(host.source.address);
      await page.getByRole("button", { name: "Test" }).click();
      await page.getByText("It answers:").waitFor();
    },
  },
  { name: "alerts", url: "/respond?state=cleared" },
  { name: "alert", url: newestAlert, prepare: (page) => page.locator("canvas").first().waitFor() },
  { name: "notices", url: "/respond/notices" },
  { name: "rules", url: "/tune" },
  { name: "rule", url: (page) => ruleNamed(page, "Queue is backing up") },
  { name: "demo-world", url: "/demo" },
];

const browser = await chromium.launch({
  executablePath: "/usr/bin/chromium",
  args: [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
  ],
});
fs.mkdirSync(folder, { recursive: true });
for (const view of VIEWS.filter(({ name }) => wanted.length === 0 || wanted.includes(name))) {
  const context = await browser.newContext({
    viewport: { width: 1280, height: 800 },
    colorScheme: view.theme ?? "light",
    timezoneId: "Europe/Oslo",
    locale: "en-GB",
  });
  const page = await context.newPage();
  page.on(
    "console",
    (message) => message.type() === "error" && console.error(`${view.name}: ${message.text()}`),
  );
  page.on("pageerror", (error) => console.error(`${view.name}: ${error.message}`));
  const url = typeof view.url === "string" ? view.url : await view.url(page);
  await page.goto(base + url);
  await page.waitForLoadState("networkidle").catch(() => {});
  await view.prepare?.(page);
  await page.waitForFunction(() => {
    const drawn = [...document.querySelectorAll("[data-chart]")].filter(
      (one) => one.getBoundingClientRect().top < 714,
    );
    return drawn.every((one) => one.getAttribute("data-chart") === "drawn");
  });
  // Alert activity on the strip and figures on the cards come last.
  await page.waitForFunction(() => document.querySelectorAll("footer svg title").length > 0);
  if (url === "/watch") await page.getByText("commits").first().waitFor();
  await page.waitForTimeout(400);
  await page.screenshot({ path: path.join(folder, `${view.name}.png`) });
  await context.close();
}
await browser.close();
