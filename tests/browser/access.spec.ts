import AxeBuilder from "@axe-core/playwright";
import { expect, test } from "./demo";

const PAGES: [name: string, url: string][] = [
  ["fleet", "/watch"],
  ["field of lanterns", "/watch?as=field&by=kit"],
  ["system", "/watch?scope=signal-box"],
  ["database", "/watch?scope=berth-db"],
  ["queries", "/watch?scope=berth-db&tab=Queries&against=day"],
  ["neighbours", "/watch?scope=berth-db&tab=Neighbours"],
  ["chart", "/watch/metric/host_load1?scope=group:hosts"],
  ["boards", "/watch/boards"],
  ["board", "/watch/boards/kit-postgresql?focus=systems!berth-db"],
  ["systems", "/collect"],
  ["add system", "/collect/add"],
  ["a system's sources", "/collect/system/signal-box"],
  ["catalogue", "/collect/catalogue"],
  ["push", "/collect/tokens"],
  ["files", "/collect/import"],
  ["runners", "/collect/runners"],
  ["store", "/settings/store"],
  ["alerts", "/respond?state=cleared"],
  ["notices", "/respond/notices"],
  ["contacts", "/respond/contacts"],
  ["rules", "/tune"],
  ["new rule", "/tune/rules/new?metric=host_load1"],
  ["mail settings", "/settings/mail"],
  ["demo world", "/demo"],
];

test("every main page is accessible in both themes (WCAG 2.2 A and AA, by axe)", async ({
  page,
  request,
}) => {
  test.setTimeout(400_000);
  const { alerts } = await (await request.get("/api/v1/alerts?state=cleared&limit=1")).json();
  const told: string[] = [];
  for (const [name, url] of [...PAGES, ["alert", `/respond/alerts/${alerts[0].id}`]])
    for (const scheme of ["light", "dark"] as const) {
      // Without motion: a colour on its way from disabled to enabled is neither.
      await page.emulateMedia({ colorScheme: scheme, reducedMotion: "reduce" });
      if (scheme === "light") await page.goto(url);
      await expect(page.locator("html")).toHaveClass(new RegExp(scheme));
      await expect(page.getByRole("heading", { level: 1 })).toBeVisible();
      await expect(page.locator(".chakra-spinner")).toHaveCount(0);
      // Without frames within frames one run is the whole, and needs no second page to gather its parts.
      const axe = new AxeBuilder({ page }).setLegacyMode();
      // The themes differ in colours alone: everything else was looked at by day.
      if (scheme === "dark") axe.withRules(["color-contrast", "link-in-text-block"]);
      else axe.withTags(["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]);
      for (const { id, nodes } of (await axe.analyze()).violations)
        told.push(
          `${name}, ${scheme}: ${id}: ${nodes
            .slice(0, 3)
            .map((node) => node.html.slice(0, 160))
            .join(" | ")}`,
        );
    }
  expect(told).toEqual([]);
});

test("other sites and unknown host names are kept out", async ({ request }) => {
  const body = { data: { name: "x", email: "x@example.org" } };
  const crossSite = await request.post("/api/v1/contacts", {
    ...body,
    headers: { "sec-fetch-site": "cross-site" },
  });
  expect(crossSite.status()).toBe(403);
  const rebound = await request.get("/api/v1/systems", { headers: { host: "evil.example" } });
  expect(rebound.status()).toBe(403);
  expect((await request.get("/api/v1/systems")).headers()["x-content-type-options"]).toBe("nosniff");
});
