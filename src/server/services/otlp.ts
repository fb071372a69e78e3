import { promisify } from "node:util";
import { gunzip } from "node:zlib";
import { and, eq, sql } from "drizzle-orm";
import { z } from "zod";
import type { Problem } from "../../core/formats/openmetrics";
import { decodeExportRequest, encodeExportResponse, encodeStatus } from "../../core/formats/otlp/messages";
import { type OtlpPoint, type OtlpResource, readOtlp } from "../../core/formats/otlp/points";
import type { CollectedSample } from "../collect/collector";
import { db } from "../db/connection";
import { type LastRun, sources, systems } from "../db/schema";
import { takeIn } from "../intake/takeIn";
import { log, reasonOf } from "../log";
import { StoreBusyError } from "../store/append";
import { newestTimes, readSamples } from "../store/read";
import { ensureSeries, seriesKey } from "../store/series";
import { noteUse, tokenOf } from "./tokens";

const BODY_BYTES = 8 * 2 ** 20;
const UNPACKED_BYTES = 32 * 2 ** 20;
const RETRY_SECONDS = 5;
/** A system that pushes is asked for nothing; it is dark when it was silent for a few of these. */
const PUSH_INTERVAL_MS = 60_000;

const unpack = promisify(gunzip);

type Encoding = "protobuf" | "json";

/**
 * OTLP/HTTP for metrics (OpenTelemetry Protocol specification 1.x): what could be taken is durable when the answer
 * leaves; what could not is counted in the answer's partial success. A sender that is too fast, or a store that is
 * busy, gets a status that its exporter tries again on.
 */
export async function takeOtlp(request: Request, now = Date.now()): Promise<Response> {
  const type = request.headers.get("content-type")?.split(";")[0].trim().toLowerCase();
  const encoding: Encoding | null =
    type === "application/x-protobuf" ? "protobuf" : type === "application/json" ? "json" : null;
  if (!encoding) return refuse("json", 415, "send application/x-protobuf or application/json");
  try {
    const token = await tokenOf(request.headers.get("authorization"));
    if (!token)
      return refuse(
        encoding,
        401,
        "send a token that is known here: Authorization: Bearer TOKEN (Collect, Tokens)",
      );
    const body = await readBody(request);
    if (typeof body === "string")
      return refuse(encoding, body === "too large" ? 413 : 400, `the body is ${body}`);
    let read: ReturnType<typeof readOtlp>;
    try {
      read = readOtlp(
        encoding === "protobuf" ? decodeExportRequest(body) : JSON.parse(body.toString("utf8")),
      );
    } catch (error) {
      const why = error instanceof z.ZodError ? error.issues[0].message : (error as Error).message;
      return refuse(encoding, 400, `the body is no OTLP request for metrics: ${why}`);
    }
    const count = read.resources.reduce((sum, { points }) => sum + points.length, 0);
    const wait = tooFast(token.id, token.pointsAMinute, count, now);
    if (wait > 0)
      return refuse(
        encoding,
        429,
        `the token ${token.name} may send ${token.pointsAMinute} points a minute`,
        wait,
      );
    const problems = [...read.problems];
    let { rejected } = read;
    for (const resource of read.resources) {
      const taken = await takeResource(resource, now);
      rejected += taken.rejected;
      problems.push(...taken.problems.map((problem) => problem.message));
    }
    await noteUse(token, now);
    return answer(encoding, 200, rejected, rejected > 0 ? problems.join("; ").slice(0, 1000) : "");
  } catch (error) {
    if (error instanceof StoreBusyError)
      return refuse(encoding, 503, `the store is busy: ${error.message}`, RETRY_SECONDS);
    log.error({ error: reasonOf(error) }, "an OTLP request failed");
    // Whatever it was: what the exporter holds is not lost when it tries again.
    return refuse(encoding, 503, "it could not be stored just now", RETRY_SECONDS);
  }
}

function answer(encoding: Encoding, status: number, rejected: number, message: string): Response {
  if (encoding === "protobuf")
    return new Response(new Uint8Array(encodeExportResponse(rejected, message)), {
      status,
      headers: { "content-type": "application/x-protobuf" },
    });
  const json =
    rejected > 0 || message
      ? { partialSuccess: { rejectedDataPoints: String(rejected), errorMessage: message } }
      : {};
  return Response.json(json, { status });
}

function refuse(encoding: Encoding, status: number, message: string, retryAfter?: number): Response {
  const headers: Record<string, string> = {
    "content-type": encoding === "protobuf" ? "application/x-protobuf" : "application/json",
    ...(retryAfter ? { "retry-after": String(retryAfter) } : {}),
    ...(status === 401 ? { "www-authenticate": "Bearer" } : {}),
  };
  return new Response(
    encoding === "protobuf" ? new Uint8Array(encodeStatus(message)) : JSON.stringify({ message }),
    { status, headers },
  );
}

async function readBody(
  request: Request,
): Promise<Buffer | "too large" | "not gzip" | "in an encoding that is not known; use gzip"> {
  const chunks: Uint8Array[] = [];
  let size = 0;
  for (const reader = request.body?.getReader(); reader; ) {
    const { done, value } = await reader.read();
    if (done) break;
    size += value.length;
    if (size > BODY_BYTES) {
      await reader.cancel();
      return "too large";
    }
    chunks.push(value);
  }
  const body = Buffer.concat(chunks);
  const encoding = request.headers.get("content-encoding")?.toLowerCase() ?? "identity";
  if (encoding === "identity") return body;
  if (encoding !== "gzip") return "in an encoding that is not known; use gzip";
  try {
    // The limit holds while it unfolds: a small archive cannot fill the memory.
    return await unpack(body, { maxOutputLength: UNPACKED_BYTES });
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === "ERR_BUFFER_TOO_LARGE" ? "too large" : "not gzip";
  }
}

const spent = new Map<number, { minute: number; points: number }>();

/** Seconds to wait until a token may send so many points; zero when it may now. */
function tooFast(token: number, limit: number, points: number, now: number): number {
  const minute = Math.floor(now / 60_000);
  const own = spent.get(token);
  const used = own?.minute === minute ? own.points : 0;
  if (used > 0 && used + points > limit) return Math.max(1, Math.ceil(((minute + 1) * 60_000 - now) / 1000));
  spent.set(token, { minute, points: used + points });
  return 0;
}

/** Attributes of a resource that name the system; the rest of the interesting ones become its labels. */
const SYSTEM_LABELS = [
  "service_namespace",
  "service_version",
  "deployment_environment_name",
  "deployment_environment",
  "telemetry_sdk_language",
  "host_name",
  "k8s_namespace_name",
  "k8s_deployment_name",
  "process_runtime_name",
  "process_runtime_version",
];
/** Attributes that tell apart the instances of one service: labels of its series. */
const SERIES_LABELS = ["service_instance_id", "k8s_pod_name", "container_name"];

async function takeResource({ attributes, points }: OtlpResource, now: number) {
  const problems: Problem[] = [];
  if (points.length === 0) return { rejected: 0, problems };
  const name = (attributes.service_name || "unknown_service")
    .toLowerCase()
    .replace(/[^a-z0-9._-]+/g, "-")
    .slice(0, 60);
  const origin = await pushingSystem(name, attributes, points, now);
  const shared: Record<string, string> = {};
  for (const key of SERIES_LABELS) if (attributes[key]) shared[key.replace("service_", "")] = attributes[key];
  const labelled = points.map((point) => ({ ...point, labels: { ...point.labels, ...shared } }));
  const metrics = [
    ...new Map(
      labelled.map(({ metric, kind, unit, help }) => [metric, { name: metric, kind, unit, help }]),
    ).values(),
  ];
  const run = async () => {
    const samples = await cumulated(origin.systemId, origin.sourceId, metrics, labelled, now, problems);
    return takeIn(origin, { metrics, samples: samples.kept }, new Map(), now, problems).then((taken) => ({
      ...taken,
      rejected: taken.rejected + samples.rejected,
    }));
  };
  // Two requests that add up the same series come one after the other.
  const taken = labelled.some(({ delta }) => delta) ? await inTurn(origin.systemId, run) : await run();
  const lastRun: LastRun = {
    startedAt: now,
    durationMs: Date.now() - now,
    samples: taken.samples,
    series: taken.series,
    error: null,
    problems: problems.slice(0, 20),
    clockSkewMs: null,
  };
  await db()
    .update(sources)
    .set({ lastRun, lastGoodAt: now, knownUntil: now, failures: 0 })
    .where(eq(sources.id, origin.sourceId));
  return { rejected: taken.rejected, problems };
}

const turns = new Map<number, Promise<unknown>>();

function inTurn<T>(key: number, work: () => Promise<T>): Promise<T> {
  const turn = (turns.get(key) ?? Promise.resolve()).then(work, work);
  turns.set(
    key,
    turn.catch(() => {}),
  );
  return turn;
}

/** The system that sends, made at its first word. */
async function pushingSystem(
  name: string,
  attributes: Record<string, string>,
  points: OtlpPoint[],
  now: number,
) {
  const labels = Object.fromEntries(
    SYSTEM_LABELS.flatMap((key) => (attributes[key] ? [[key, attributes[key]]] : [])),
  );
  const find = () =>
    db()
      .select({
        systemId: systems.id,
        sourceId: sources.id,
        options: sources.options,
        labels: systems.labels,
      })
      .from(systems)
      .innerJoin(sources, and(eq(sources.systemId, systems.id), eq(sources.kind, "push")))
      .where(eq(systems.name, name));
  let [origin] = await find();
  if (!origin) {
    const kit = points.some(({ metric }) => metric.startsWith("jvm_")) ? "jvm" : "service";
    await db().insert(systems).values({ name, kit, labels, createdAt: now }).onConflictDoNothing();
    await db().execute(sql`
      INSERT INTO source (system_id, kind, address, interval_ms, timeout_ms, next_at)
      SELECT id, 'push', '', ${PUSH_INTERVAL_MS}::int, 5000, ${now}::bigint FROM system
      WHERE name = ${name} AND NOT EXISTS (SELECT 1 FROM source WHERE system_id = system.id AND kind = 'push')`);
    [origin] = await find();
  } else if (Object.entries(labels).some(([key, value]) => origin.labels[key] !== value))
    await db()
      .update(systems)
      .set({ labels: { ...origin.labels, ...labels } })
      .where(eq(systems.id, origin.systemId));
  return origin;
}

/**
 * Points as samples of the house: what came as a difference is added to the last value that is stored. A difference
 * that is not newer than that value was sent before, and is not added twice.
 */
async function cumulated(
  systemId: number,
  sourceId: number,
  metrics: Parameters<typeof ensureSeries>[2],
  points: OtlpPoint[],
  now: number,
  problems: Problem[],
): Promise<{ kept: CollectedSample[]; rejected: number }> {
  const kept: CollectedSample[] = [];
  const deltas: OtlpPoint[] = [];
  for (const point of points) {
    if (point.delta) deltas.push(point);
    else kept.push({ metric: point.metric, labels: point.labels, time: point.time, value: point.value });
  }
  if (deltas.length === 0) return { kept, rejected: 0 };
  const { ids } = await ensureSeries(systemId, sourceId, metrics, deltas);
  const newest = await newestTimes([...new Set(deltas.flatMap((point) => ids.get(seriesKey(point)) ?? []))]);
  const last = new Map<number, { time: number; value: number }>();
  if (newest.size > 0) {
    const newestAll = [...newest.values()];
    const stored = await readSamples([...newest.keys()], Math.min(...newestAll), Math.max(...newestAll) + 1);
    for (const [id, { times, values }] of stored)
      last.set(id, { time: times[times.length - 1], value: values[values.length - 1] });
  }
  let repeated = 0;
  for (const point of deltas.sort((a, b) => (a.time ?? now) - (b.time ?? now))) {
    const id = ids.get(seriesKey(point));
    if (id === undefined) continue;
    const time = point.time ?? now;
    const before = last.get(id);
    if (before && time <= before.time) {
      repeated++;
      continue;
    }
    const value = (before?.value ?? 0) + point.value;
    last.set(id, { time, value });
    kept.push({ metric: point.metric, labels: point.labels, time, value });
  }
  if (repeated > 0)
    problems.push({
      line: 0,
      message: `${repeated} differences are not newer than what is stored; sent before, or out of order`,
    });
  return { kept, rejected: 0 };
}
