import fs from "node:fs";
import fsp from "node:fs/promises";
import path from "node:path";
import readline from "node:readline";
import { and, desc, eq } from "drizzle-orm";
import Papa from "papaparse";
import { z } from "zod";
import { isZone, TIME_FORMATS, type TimeFormat } from "../../core/formats/localTime";
import {
  csvRecord,
  previewTable,
  type TablePlan,
  type TablePreview,
  TableReader,
  type TableSample,
} from "../../core/formats/sampleTable";
import { parseUnit } from "../../core/units/ucum";
import { db } from "../db/connection";
import { imports, systems } from "../db/schema";
import { log, reasonOf } from "../log";
import { load } from "../store/seal";
import { ensureSeries, seriesKey } from "../store/series";
import { notFound, ServiceError } from "./serviceError";

const FILE_BYTES = 512 * 2 ** 20;
const HEAD_BYTES = 64 * 1024;
const ROWS_A_STEP = 20_000;
const SERIES = 20_000;
const LINE_CHARACTERS = 1_000_000;

type Job = typeof imports.$inferSelect;
export type ImportJob = Job;

const nonEmpty = (what: string) => z.string().trim().min(1, `${what} is missing`).max(200);

export const importPlan: z.ZodType<TablePlan> = z.strictObject({
  format: z.enum(["csv", "ndjson"]),
  delimiter: z.string().max(1),
  shape: z.enum(["long", "wide"]),
  timeColumn: nonEmpty("the column of times"),
  timeFormat: z.enum(Object.keys(TIME_FORMATS) as [TimeFormat, ...TimeFormat[]]),
  zone: z.string().refine(isZone, "name a time zone, such as Europe/Oslo or UTC"),
  decimal: z.enum([".", ","]),
  system: z.string().max(120),
  metricColumn: z.string().nullable(),
  systemColumn: z.string().nullable(),
  valueColumn: z.string().nullable(),
  columns: z
    .array(
      z.strictObject({
        column: z.string(),
        metric: z
          .string()
          .regex(
            /^[A-Za-z_:][A-Za-z0-9_:]{0,199}$/,
            "letters, digits and underscores, such as disk_used_bytes",
          ),
        labels: z.record(z.string().max(200), z.string().max(1000)),
        system: z.string().max(120).nullable(),
        unit: z
          .string()
          .refine((unit) => parseUnit(unit) !== null, "a UCUM unit, such as By, ms, % or {count}"),
        kind: z.enum(["gauge", "counter"]),
      }),
    )
    .max(2000),
});

/** Where uploaded files and rejected rows lie: beside the key, outside the database. */
function folder(): string {
  const file = process.env.BARNLAMP_KEY_FILE;
  if (!file) throw new Error("BARNLAMP_KEY_FILE is not set");
  const made = path.join(path.dirname(file), "imports");
  fs.mkdirSync(made, { recursive: true, mode: 0o700 });
  return made;
}

const fileOf = (id: number) => path.join(folder(), `${id}.data`);
export const rejectedFileOf = (id: number) => path.join(folder(), `${id}.rejected.csv`);

/** Keeps an uploaded file and says how it would be read. */
export async function uploadImport(
  name: string,
  body: ReadableStream<Uint8Array> | null,
  zone: string,
  now = Date.now(),
): Promise<{ id: number; preview: TablePreview }> {
  if (!isZone(zone)) throw new ServiceError(422, "name a time zone, such as Europe/Oslo or UTC", "zone");
  const [{ id }] = await db()
    .insert(imports)
    .values({ name: name.slice(0, 200), state: "uploaded", bytes: 0, createdAt: now })
    .returning({ id: imports.id });
  try {
    let bytes = 0;
    const out = await fsp.open(fileOf(id), "w", 0o600);
    try {
      for (const reader = body?.getReader(); reader; ) {
        const { done, value } = await reader.read();
        if (done) break;
        bytes += value.length;
        if (bytes > FILE_BYTES)
          throw new ServiceError(422, `a file holds at most ${FILE_BYTES / 2 ** 20} MiB; split it`, "file");
        await out.write(value);
      }
    } finally {
      await out.close();
    }
    const head = Buffer.alloc(Math.min(HEAD_BYTES, bytes));
    const file = await fsp.open(fileOf(id), "r");
    await file.read(head, 0, head.length, 0);
    await file.close();
    let text = head.toString("utf8");
    // The last line of the head may be cut.
    if (bytes > HEAD_BYTES) text = text.slice(0, text.lastIndexOf("\n") + 1);
    let preview: TablePreview;
    try {
      preview = previewTable(text, zone);
    } catch (error) {
      throw new ServiceError(422, `this is no table of samples: ${(error as Error).message}`, "file");
    }
    await db().update(imports).set({ bytes }).where(eq(imports.id, id));
    return { id, preview };
  } catch (error) {
    await fsp.rm(fileOf(id), { force: true });
    await db().delete(imports).where(eq(imports.id, id));
    throw error;
  }
}

/** Starts to read an uploaded file by a plan; `readImport` tells how far it is. */
export async function startImport(id: number, plan: TablePlan) {
  const job = await readImport(id);
  if (job.state === "running") throw new ServiceError(409, "it is running already");
  if (!fs.existsSync(fileOf(id))) throw new ServiceError(409, "its file is gone; upload it again");
  const needsSystem =
    plan.shape === "long" ? plan.systemColumn === null : plan.columns.some(({ system }) => system === null);
  if (needsSystem && plan.system === "")
    throw new ServiceError(422, "say which system the samples belong to", "system");
  if (plan.shape === "wide" && plan.columns.length === 0)
    throw new ServiceError(422, "choose at least one column", "columns");
  await db()
    .update(imports)
    .set({ state: "running", message: null, bytesDone: 0, rows: 0, samples: 0, rejected: 0, endedAt: null })
    .where(eq(imports.id, id));
  void run(id, plan).catch((error) =>
    log.error({ import: id, error: reasonOf(error) }, "an import could not be recorded"),
  );
}

export async function cancelImport(id: number) {
  await readImport(id);
  await db().update(imports).set({ state: "cancelled", endedAt: Date.now() }).where(eq(imports.id, id));
}

export async function readImport(id: number): Promise<ImportJob> {
  const [job] = await db().select().from(imports).where(eq(imports.id, id));
  if (!job) throw notFound(`import ${id}`);
  return job;
}

export async function listImports(): Promise<ImportJob[]> {
  return db().select().from(imports).orderBy(desc(imports.id)).limit(50);
}

async function run(id: number, plan: TablePlan) {
  const rejects = fs.createWriteStream(rejectedFileOf(id), { mode: 0o600 });
  const progress = { bytesDone: 0, rows: 0, samples: 0, rejected: 0 };
  /** Writes how far it is; false when somebody stopped it in the meantime, maybe through another process. */
  const save = async (more: Partial<Job> = {}) => {
    const written = await db()
      .update(imports)
      .set({ ...progress, ...more })
      .where(and(eq(imports.id, id), eq(imports.state, "running")))
      .returning({ id: imports.id });
    return written.length > 0;
  };
  try {
    rejects.write(csvRecord(["line", "why", "row"]));
    const writer = new ImportWriter();
    for await (const { line, text, samples } of rowsOf(fileOf(id), plan, (bytes) => {
      progress.bytesDone = bytes;
    })) {
      progress.rows++;
      if (typeof samples === "string") {
        progress.rejected++;
        rejects.write(csvRecord([String(line), samples, text]));
        continue;
      }
      writer.add(samples);
      if (writer.held < ROWS_A_STEP) continue;
      progress.samples += await writer.flush();
      if (!(await save())) return;
    }
    progress.samples += await writer.flush();
    await save({ state: "done", endedAt: Date.now() });
    await fsp.rm(fileOf(id), { force: true });
  } catch (error) {
    log.warn({ import: id, error: reasonOf(error) }, "an import failed");
    await save({ state: "failed", message: (error as Error).message.slice(0, 500), endedAt: Date.now() });
  } finally {
    rejects.end();
  }
}

async function* rowsOf(file: string, plan: TablePlan, at: (bytes: number) => void) {
  const stream = fs.createReadStream(file, "utf8");
  if (plan.format === "ndjson") {
    const reader = new TableReader(plan, []);
    let line = 0;
    for await (const text of readline.createInterface({
      input: stream,
      crlfDelay: Number.POSITIVE_INFINITY,
    })) {
      line++;
      at(stream.bytesRead);
      if (text.trim() === "") continue;
      yield {
        line,
        text: text.slice(0, 500),
        samples: text.length > LINE_CHARACTERS ? "the line is too long" : reader.line(text),
      };
    }
    return;
  }
  // Papa Parse keeps quoted line breaks together over the chunks of the stream.
  const parser = stream.pipe(
    Papa.parse(Papa.NODE_STREAM_INPUT, { delimiter: plan.delimiter, skipEmptyLines: true }),
  );
  let reader: TableReader | null = null;
  let line = 0;
  for await (const cells of parser as AsyncIterable<string[]>) {
    line++;
    at(stream.bytesRead);
    if (!reader) {
      reader = new TableReader(plan, cells);
      continue;
    }
    yield { line, text: cells.join(plan.delimiter).slice(0, 500), samples: reader.row(cells) };
  }
}

/** Gathers samples by series and writes them into the store, in base units. */
class ImportWriter {
  private series = new Map<string, { sample: TableSample; times: number[]; values: number[] }>();
  private readonly systems = new Map<string, number>();
  held = 0;

  add(samples: TableSample[]) {
    for (const sample of samples) {
      const key = `${sample.system}\n${seriesKey(sample)}`;
      let entry = this.series.get(key);
      if (!entry) {
        if (this.series.size >= SERIES) throw new Error(`the file holds more than ${SERIES} series`);
        entry = { sample, times: [], values: [] };
        this.series.set(key, entry);
      }
      entry.times.push(sample.time);
      entry.values.push(sample.value * (sample.unit === null ? 1 : (parseUnit(sample.unit)?.factor ?? 1)));
      this.held++;
    }
  }

  async flush(): Promise<number> {
    const batch = [];
    for (const { sample, times, values } of this.series.values()) {
      if (times.length === 0) continue;
      const systemId = await this.systemId(sample.system);
      const unit = baseUnit(sample.unit);
      const { ids } = await ensureSeries(
        systemId,
        null,
        [
          {
            name: sample.metric,
            kind: sample.kind ?? (sample.metric.endsWith("_total") ? "counter" : "gauge"),
            unit,
            help: "Imported.",
          },
        ],
        [sample],
        { describeNewOnly: true },
      );
      batch.push({
        seriesId: ids.get(seriesKey(sample))!,
        times: Float64Array.from(times),
        values: Float64Array.from(values),
      });
    }
    const written = await load(batch);
    for (const entry of this.series.values()) {
      entry.times = [];
      entry.values = [];
    }
    this.held = 0;
    return written;
  }

  private async systemId(name: string): Promise<number> {
    if (name === "") throw new Error("a row names no system, and none was chosen");
    let id = this.systems.get(name);
    if (id === undefined) {
      const clean = name
        .toLowerCase()
        .replace(/[^a-z0-9._-]+/g, "-")
        .slice(0, 120);
      await db()
        .insert(systems)
        .values({ name: clean, kit: "service", createdAt: Date.now() })
        .onConflictDoNothing();
      const [row] = await db().select({ id: systems.id }).from(systems).where(eq(systems.name, clean));
      id = row.id;
      this.systems.set(name, id);
    }
    return id;
  }
}

/** The base unit that a unit of a file becomes: kilobytes are stored as bytes. */
function baseUnit(unit: string | null): string {
  const parsed = unit === null ? null : parseUnit(unit);
  if (!parsed) return "{count}";
  const rate = parsed.perSecond ? "/s" : "";
  switch (parsed.dimension) {
    case "data":
      return `By${rate}`;
    case "time":
      return `s${rate}`;
    case "ratio":
      return "1";
    default:
      return parsed.code;
  }
}
