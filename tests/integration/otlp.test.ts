/** OTLP, sent by the real OpenTelemetry SDK and its exporters, unmodified. */
import http from "node:http";
import type net from "node:net";
import { promisify } from "node:util";
import { gzip } from "node:zlib";
import { OTLPMetricExporter as JsonExporter } from "@opentelemetry/exporter-metrics-otlp-http";
import { OTLPMetricExporter as ProtoExporter } from "@opentelemetry/exporter-metrics-otlp-proto";
import { resourceFromAttributes } from "@opentelemetry/resources";
import {
  AggregationTemporality,
  AggregationType,
  InstrumentType,
  MeterProvider,
  PeriodicExportingMetricReader,
} from "@opentelemetry/sdk-metrics";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { decodeExportResponse, encodeExportRequest } from "../../src/core/formats/otlp/messages";
import { takeOtlp } from "../../src/server/services/otlp";
import { listMetrics, listSystems } from "../../src/server/services/systems";
import { addToken, revokeToken } from "../../src/server/services/tokens";
import { readSamples } from "../../src/server/store/read";
import { findSeries } from "../../src/server/store/series";
import { withDatabase } from "./harness";

withDatabase();

let server: http.Server;
let url: string;
let token: string;
/** Answers to give instead of taking what comes, first to last. */
const refusals: number[] = [];

beforeAll(async () => {
  token = (await addToken({ name: "test", pointsAMinute: 1_000_000 })).token;
  // Plain HTTP in front of the service, as Next.js stands in front of it in the product.
  server = http.createServer(async (request, response) => {
    const chunks: Buffer[] = [];
    for await (const chunk of request) chunks.push(chunk);
    const refused = refusals.shift();
    if (refused) return void response.writeHead(refused, { "retry-after": "1" }).end();
    const answer = await takeOtlp(
      new Request(`http://x${request.url}`, {
        method: "POST",
        headers: request.headers as Record<string, string>,
        body: Buffer.concat(chunks),
      }),
    );
    response
      .writeHead(answer.status, Object.fromEntries(answer.headers))
      .end(Buffer.from(await answer.arrayBuffer()));
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  url = `http://127.0.0.1:${(server.address() as net.AddressInfo).port}/v1/metrics`;
});
afterAll(() => {
  server.closeAllConnections();
  server.close();
});

async function latest(
  system: string,
  metric: string,
  labels: Record<string, string> = {},
): Promise<number | undefined> {
  const rows = await findSeries({ scope: system, metric, labels });
  expect(rows.length, `${metric} of ${system}`).toBeLessThanOrEqual(1);
  if (rows.length === 0) return undefined;
  return (await readSamples([rows[0].id], 0, 5e12)).get(rows[0].id)!.values.at(-1);
}

const EXPORTERS = {
  protobuf: ProtoExporter,
  JSON: JsonExporter,
} as const;

describe.each([
  ["protobuf", AggregationTemporality.CUMULATIVE],
  ["protobuf", AggregationTemporality.DELTA],
  ["JSON", AggregationTemporality.CUMULATIVE],
  ["JSON", AggregationTemporality.DELTA],
] as const)("the SDK's exporter by %s, temporality %i", (encoding, temporality) => {
  it("gauges, sums, histograms and exponential histograms arrive as they were measured", async () => {
    const name = `${encoding.toLowerCase()}-${temporality}`;
    const exporter = new EXPORTERS[encoding]({
      url,
      headers: { authorization: `Bearer ${token}` },
      temporalityPreference: temporality as never,
      compression: "gzip" as never,
    });
    const reader = new PeriodicExportingMetricReader({ exporter, exportIntervalMillis: 3_600_000 });
    const provider = new MeterProvider({
      resource: resourceFromAttributes({
        "service.name": name,
        "service.instance.id": "i-1",
        "service.namespace": "skerry",
        "process.runtime.name": "node",
      }),
      readers: [reader],
      views: [
        {
          instrumentName: "fine",
          instrumentType: InstrumentType.HISTOGRAM,
          aggregation: { type: AggregationType.EXPONENTIAL_HISTOGRAM },
        },
      ],
    });
    const meter = provider.getMeter("test");
    const booked = meter.createCounter("bookings", { unit: "{booking}", description: "Bookings made." });
    const open = meter.createUpDownCounter("connections.open");
    const duration = meter.createHistogram("http.server.request.duration", {
      unit: "s",
      advice: { explicitBucketBoundaries: [0.1, 1] },
    });
    const fine = meter.createHistogram("fine", { unit: "ms" });
    meter
      .createObservableGauge("jvm.memory.used", { unit: "By" })
      .addCallback((result) => result.observe(12_345, { "jvm.memory.pool.name": "G1 Eden Space" }));

    for (let round = 1; round <= 3; round++) {
      booked.add(5, { "route.name": "a" });
      open.add(2);
      duration.record(0.05);
      duration.record(0.5);
      duration.record(7);
      fine.record(1000);
      fine.record(3000);
      await reader.forceFlush();
      await new Promise((resolve) => setTimeout(resolve, 5));
    }
    await provider.shutdown();

    const own = { instance_id: "i-1" };
    // A total is a total whether it came as differences or not.
    expect(await latest(name, "bookings_total", { route_name: "a", ...own })).toBe(15);
    expect(await latest(name, "connections_open")).toBe(6);
    expect(await latest(name, "http_server_request_duration_seconds_count")).toBe(9);
    expect(await latest(name, "http_server_request_duration_seconds_sum")).toBeCloseTo(22.65, 9);
    expect(await latest(name, "http_server_request_duration_seconds_bucket", { le: "0.1" })).toBe(3);
    expect(await latest(name, "http_server_request_duration_seconds_bucket", { le: "1" })).toBe(6);
    expect(await latest(name, "http_server_request_duration_seconds_bucket", { le: "+Inf" })).toBe(9);
    expect(await latest(name, "jvm_memory_used_bytes", { jvm_memory_pool_name: "G1 Eden Space" })).toBe(
      12_345,
    );
    // 1000 ms lies in (512, 1024], 3000 ms in (2048, 4096]: bounds in seconds, powers of two in the sender's unit.
    expect(await latest(name, "fine_seconds_bucket", { le: "1.024" })).toBe(3);
    expect(await latest(name, "fine_seconds_bucket", { le: "4.096" })).toBe(6);
    expect(await latest(name, "fine_seconds_bucket", { le: "+Inf" })).toBe(6);
    expect(await latest(name, "fine_seconds_sum")).toBeCloseTo(12, 9);

    const [system] = await listSystems(name);
    expect(system).toMatchObject({
      kit: "jvm",
      state: "calm",
      labels: { service_namespace: "skerry", process_runtime_name: "node" },
    });
    const metrics = new Map(
      (await listMetrics(name)).map((metric) => [metric.metric, `${metric.kind} ${metric.unit}`]),
    );
    expect(metrics.get("bookings_total")).toBe("counter {booking}");
    expect(metrics.get("connections_open")).toBe("gauge {count}");
    expect(metrics.get("jvm_memory_used_bytes")).toBe("gauge By");
  });
});

it("an exporter that is refused for the moment tries again, and nothing is lost", async () => {
  refusals.push(503, 429);
  const exporter = new ProtoExporter({ url, headers: { authorization: `Bearer ${token}` } });
  const reader = new PeriodicExportingMetricReader({ exporter, exportIntervalMillis: 3_600_000 });
  const provider = new MeterProvider({
    resource: resourceFromAttributes({ "service.name": "patient" }),
    readers: [reader],
  });
  provider.getMeter("t").createCounter("c").add(4);
  await reader.forceFlush();
  expect(refusals).toEqual([]);
  expect(await latest("patient", "c_total")).toBe(4);
  await provider.shutdown();
}, 30_000);

const point = (value: number, time: number, more: object = {}) => ({
  asDouble: value,
  timeUnixNano: String(time * 1e6),
  ...more,
});
const request = (metrics: object[], service = "raw") => ({
  resourceMetrics: [
    {
      resource: { attributes: [{ key: "service.name", value: { stringValue: service } }] },
      scopeMetrics: [{ metrics }],
    },
  ],
});
const send = (body: BodyInit, headers: Record<string, string> = {}) =>
  takeOtlp(
    new Request("http://x/v1/metrics", {
      method: "POST",
      body,
      headers: { "content-type": "application/json", authorization: `Bearer ${token}`, ...headers },
    }),
  );

describe("what the specification asks for", () => {
  const now = Date.now();
  it("a full success is an empty object; a partial one counts the rejected points and says why", async () => {
    const whole = await send(
      JSON.stringify(request([{ name: "g", gauge: { dataPoints: [point(1, now)] } }])),
    );
    expect([whole.status, await whole.json()]).toEqual([200, {}]);
    const half = request([
      {
        name: "g",
        gauge: {
          dataPoints: [
            point(2, now + 1),
            { asDouble: "much", timeUnixNano: "1" },
            point(3, now + 3_600_000),
            point(4, 86_400_000),
          ],
        },
      },
      { name: "nothing" },
    ]);
    const answer = await send(JSON.stringify(half));
    expect(answer.status).toBe(200);
    const { partialSuccess } = await answer.json();
    expect(partialSuccess.rejectedDataPoints).toBe("4");
    expect(partialSuccess.errorMessage).toMatch(/is no number/);
    expect(partialSuccess.errorMessage).toMatch(/in the future/);
    expect(partialSuccess.errorMessage).toMatch(/older than samples are kept/);
    expect(await latest("raw", "g")).toBe(2);
  });
  it("protobuf is answered with protobuf", async () => {
    const bytes = encodeExportRequest(
      request([{ name: "p", gauge: { dataPoints: [point(9, now), point(8, now + 3_600_000)] } }]),
    );
    const answer = await send(new Uint8Array(bytes), { "content-type": "application/x-protobuf" });
    expect(answer.headers.get("content-type")).toBe("application/x-protobuf");
    const decoded = decodeExportResponse(new Uint8Array(await answer.arrayBuffer()));
    expect(decoded.partialSuccess?.rejectedDataPoints).toBe("1");
    expect(await latest("raw", "p")).toBe(9);
  });
  it("summaries, and points without a recorded value", async () => {
    await send(
      JSON.stringify(
        request([
          {
            name: "s",
            unit: "ms",
            summary: {
              dataPoints: [
                {
                  count: "4",
                  sum: 10,
                  timeUnixNano: String(now * 1e6),
                  quantileValues: [{ quantile: 0.5, value: 2 }],
                },
              ],
            },
          },
          { name: "none", gauge: { dataPoints: [point(1, now, { flags: 1 })] } },
        ]),
      ),
    );
    expect(await latest("raw", "s_seconds", { quantile: "0.5" })).toBe(0.002);
    expect(await latest("raw", "s_seconds_count")).toBe(4);
    expect(await latest("raw", "none")).toBeUndefined();
  });
  it("a request with differences that is sent again is not counted twice", async () => {
    const body = JSON.stringify(
      request([
        {
          name: "d",
          sum: {
            isMonotonic: true,
            aggregationTemporality: 1,
            dataPoints: [point(5, now - 2000), point(7, now - 1000)],
          },
        },
      ]),
    );
    expect(await (await send(body)).json()).toEqual({});
    expect((await send(body)).status).toBe(200);
    expect(await latest("raw", "d_total")).toBe(12);
  });
  it("refuses in the right words and with the right status", async () => {
    const status = async (body: BodyInit, headers: Record<string, string> = {}) =>
      (await send(body, headers)).status;
    expect(await status("{}", { authorization: "" })).toBe(401);
    expect(await status("{}", { authorization: "Bearer wrong" })).toBe(401);
    expect(await status("{}", { "content-type": "text/plain" })).toBe(415);
    expect(await status("{")).toBe(400);
    expect(await status('{"resourceMetrics":7}')).toBe(400);
    expect(await status("\xff\xfe", { "content-type": "application/x-protobuf" })).toBe(400);
    expect(await status("not gzip", { "content-encoding": "gzip" })).toBe(400);
    expect(await status("{}", { "content-encoding": "br" })).toBe(400);
    const bomb = await promisify(gzip)(Buffer.alloc(64 * 2 ** 20));
    expect(await status(bomb, { "content-encoding": "gzip" })).toBe(413);
    expect(await status(Buffer.alloc(9 * 2 ** 20))).toBe(413);
  });
  it("a token has its limit and can be revoked", async () => {
    const small = await addToken({ name: "small", pointsAMinute: 2 });
    const headers = { authorization: `Bearer ${small.token}` };
    const body = JSON.stringify(
      request([{ name: "g", gauge: { dataPoints: [point(1, now + 10), point(1, now + 11)] } }]),
    );
    expect((await send(body, headers)).status).toBe(200);
    const second = await send(body, headers);
    expect(second.status).toBe(429);
    expect(Number(second.headers.get("retry-after"))).toBeGreaterThan(0);
    await revokeToken(small.id);
    expect((await send(body, headers)).status).toBe(401);
  });
});
