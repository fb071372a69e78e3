import { describe, expect, it } from "vitest";
import * as health from "../../src/app/api/health/route";
import * as openapi from "../../src/app/api/openapi.json/route";
import * as acknowledge from "../../src/app/api/v1/alerts/[id]/acknowledge/route";
import * as alerts from "../../src/app/api/v1/alerts/route";
import * as query from "../../src/app/api/v1/query/route";
import * as oneRule from "../../src/app/api/v1/rules/[id]/route";
import * as rules from "../../src/app/api/v1/rules/route";
import * as series from "../../src/app/api/v1/series/route";
import * as systems from "../../src/app/api/v1/systems/route";
import * as own from "../../src/app/metrics/route";
import { parseOpenMetrics } from "../../src/core/formats/openmetrics";
import { systemWithSeries, withDatabase } from "./harness";

withDatabase();

type Handler = (request: Request, context: { params: Promise<Record<string, string>> }) => Promise<Response>;

async function call(
  handler: Handler,
  path: string,
  body?: unknown,
  params: Record<string, string> = {},
  init: RequestInit = {},
) {
  const request = new Request(`http://127.0.0.1${path}`, {
    method: body === undefined ? "GET" : "POST",
    ...(body === undefined
      ? {}
      : {
          body: typeof body === "string" ? body : JSON.stringify(body),
          headers: { "content-type": "application/json" },
        }),
    ...init,
  });
  const response = await handler(request, { params: Promise.resolve(params) });
  const text = await response.text();
  return {
    status: response.status,
    type: response.headers.get("content-type"),
    // biome-ignore lint/suspicious/noExplicitAny: answers are checked member by member
    body: (text ? JSON.parse(text) : null) as any,
  };
}

const FROM = "2026-11-23T16:00:00Z";
const TO = "2026-11-23T17:00:00+00:00";
const start = Date.parse(FROM);

describe("POST /api/v1/query", () => {
  it("gives samples as they are, in buckets, and counters as rates", async () => {
    const gauge = await systemWithSeries({ metric: "temp", unit: "Cel", name: "kiln" });
    await gauge.add([
      [start, 1],
      [start + 10_000, Number.NaN],
      [start + 70_000, 5],
      [start + 3_600_000, 9],
    ]);
    const counter = await systemWithSeries({
      metric: "jobs_total",
      kind: "counter",
      unit: "{count}",
      name: "press",
      labels: { line: "a" },
    });
    await counter.add(
      Array.from({ length: 40 }, (_, i): [number, number] => [start + (i - 10) * 10_000, i * 20]),
    );

    const raw = await call(query.POST, "/api/v1/query", { metric: "temp", from: FROM, to: TO });
    expect(raw.body.series).toEqual([
      {
        id: gauge.seriesId,
        metric: "temp",
        system: "kiln",
        labels: {},
        unit: "Cel",
        times: [start, start + 10_000, start + 70_000],
        values: [1, "NaN", 5],
      },
    ]);
    const bucketed = await call(query.POST, "/api/v1/query", {
      metric: "temp",
      system: "kiln",
      from: FROM,
      to: TO,
      step: 60,
      agg: "max",
    });
    expect(bucketed.body.series[0]).toMatchObject({ times: [start, start + 60_000], values: [1, 5] });
    const rate = await call(query.POST, "/api/v1/query", {
      metric: "jobs_total",
      labels: { line: "a" },
      from: FROM,
      to: TO,
      step: 60,
      rate: true,
    });
    expect(rate.body.series[0].unit).toBe("{count}/s");
    for (const value of rate.body.series[0].values) expect(value).toBeCloseTo(2);
    const plain = await call(query.POST, "/api/v1/query", {
      metric: "jobs_total",
      from: FROM,
      to: TO,
      rate: true,
    });
    expect(plain.body.series[0].times[0]).toBe(start);
    expect(
      (await call(query.POST, "/api/v1/query", { metric: "jobs_total", system: "kiln", from: FROM, to: TO }))
        .body.series,
    ).toEqual([]);
  });

  it("answers bad input with a problem document that names the field (RFC 9457)", async () => {
    const refused = async (body: unknown) => {
      const answer = await call(query.POST, "/api/v1/query", body);
      expect(answer.type).toBe("application/problem+json");
      expect(answer.body).toMatchObject({
        type: "about:blank",
        status: answer.status,
        title: expect.any(String),
        detail: expect.any(String),
      });
      return [answer.status, answer.body.errors?.[0]?.field];
    };
    const good = { metric: "temp", from: FROM, to: TO };
    expect(await refused({ ...good, from: "yesterday" })).toEqual([422, "from"]);
    expect(await refused({ ...good, from: TO, to: FROM })).toEqual([422, "to"]);
    expect(await refused({ ...good, step: 60, agg: "median" })).toEqual([422, "agg"]);
    expect(await refused({ ...good, agg: "mean" })).toEqual([422, "agg"]);
    expect(await refused({ ...good, step: 0 })).toEqual([422, "step"]);
    expect(await refused({ ...good, colour: "red" })).toEqual([422, "colour"]);
    expect(await refused({ from: FROM, to: TO })).toEqual([422, "metric"]);
    expect(await refused("{not json")).toEqual([400, undefined]);
    expect(
      (await call(query.POST, "/", good, {}, { headers: { "content-type": "text/plain" } })).status,
    ).toBe(415);
  });
});

describe("the rest of the API", () => {
  it("lists systems and series", async () => {
    const listed = await call(systems.GET, "/api/v1/systems");
    expect(listed.body.systems.map((system: { name: string }) => system.name)).toEqual(
      expect.arrayContaining(["kiln", "press"]),
    );
    const found = await call(series.GET, "/api/v1/series?system=press&metric=jobs_total");
    expect(found.body.series[0]).toMatchObject({
      labels: { line: "a" },
      kind: "counter",
      newestSampleAt: start + 290_000,
    });
    expect((await call(series.GET, "/api/v1/series?sytem=press")).body.errors[0].field).toBe("sytem");
  });

  it("makes, changes and removes rules", async () => {
    const definition = {
      metric: "temp",
      comparison: ">",
      value: 90,
      holdMs: 0,
      clearHoldMs: 0,
      level: "week",
    };
    const made = await call(rules.POST, "/api/v1/rules", { name: "hot", definition });
    expect(made).toMatchObject({ status: 201, body: { name: "hot", unit: "Cel", enabled: true } });
    const id = String(made.body.id);
    expect((await call(rules.POST, "/api/v1/rules", { name: "hot", definition })).status).toBe(409);
    expect(
      (await call(rules.POST, "/api/v1/rules", { name: "x", definition: { ...definition, value: "90 %" } }))
        .body.errors[0].field,
    ).toBe("definition.value");
    expect((await call(oneRule.PATCH, "/", { enabled: false }, { id })).body.enabled).toBe(false);
    expect((await call(oneRule.GET, "/", undefined, { id })).body.enabled).toBe(false);
    expect((await call(oneRule.DELETE, "/", undefined, { id }, { method: "DELETE" })).status).toBe(204);
    expect((await call(oneRule.GET, "/", undefined, { id })).status).toBe(404);
    expect((await call(oneRule.GET, "/", undefined, { id: "1; DROP TABLE rule" })).status).toBe(404);
  });

  it("lists alerts by state and refuses to acknowledge what is not there", async () => {
    expect((await call(alerts.GET, "/api/v1/alerts?state=raised")).body).toEqual({
      alerts: [],
      raised: { now: 0, today: 0, week: 0 },
    });
    expect((await call(alerts.GET, "/api/v1/alerts?state=")).status).toBe(200);
    expect((await call(alerts.GET, "/api/v1/alerts?state=red")).body.errors[0].field).toBe("state");
    expect((await call(acknowledge.POST, "/", { by: "me" }, { id: "5" })).status).toBe(404);
    expect((await call(acknowledge.POST, "/", { by: "  " }, { id: "5" })).body.errors[0].field).toBe("by");
  });

  it("describes itself: OpenAPI 3.1 with every operation, health, and metrics of its own", async () => {
    const document = await (openapi.GET() as Response).json();
    expect(document.openapi).toBe("3.1.0");
    for (const path of [
      "/api/v1/systems",
      "/api/v1/series",
      "/api/v1/query",
      "/api/v1/alerts",
      "/api/v1/rules/{id}",
      "/api/v1/alerts/{id}/acknowledge",
      "/api/health",
    ])
      expect(document.paths[path], path).toBeDefined();
    expect(
      document.paths["/api/v1/query"].post.requestBody.content["application/json"].schema.required,
    ).toEqual(["metric", "from", "to"]);
    expect(document.paths["/api/v1/rules/{id}"].get.parameters[0]).toMatchObject({
      name: "id",
      in: "path",
      required: true,
    });
    expect(await (await health.GET()).json()).toMatchObject({ ok: true, runners: 0, lastRunnerAt: null });
    const { families, problems } = parseOpenMetrics(await (await own.GET()).text());
    expect(problems).toEqual([]);
    expect(families.find((family) => family.name === "barnlamp_systems")?.samples[0].value).toBe(2);
  });
});
