import { desc, eq } from "drizzle-orm";
import { analyseGcLog } from "../../core/jvm/gcAnalysis";
import { db } from "../db/connection";
import { gcLogs, systems } from "../db/schema";
import { notFound, ServiceError } from "./serviceError";

const TEXT_BYTES = 64 * 2 ** 20;
const PAUSES = 5000;

/** A GC log's analysis, with its longest pauses for the picture. */
export type StoredGcLog = Omit<ReturnType<typeof analyseGcLog>, "events"> & {
  pausePoints: { uptime: number; ms: number; kind: string; cause: string; afterBytes: number | null }[];
};

export async function addGcLog(
  system: string,
  name: string,
  text: string,
  now = Date.now(),
): Promise<{ id: number }> {
  const [row] = await db().select().from(systems).where(eq(systems.name, system));
  if (!row) throw notFound(`system ${system}`);
  if (text.length > TEXT_BYTES)
    throw new ServiceError(422, `a log holds at most ${TEXT_BYTES / 2 ** 20} MiB; cut it`, "file");
  const { events, ...analysis } = analyseGcLog(text);
  if (events.length === 0)
    throw new ServiceError(
      422,
      `this is no GC log of the unified format: ${analysis.problems[0]?.message ?? "no pause in it"}`,
      "file",
    );
  const longest = [...events].sort((a, b) => b.ms - a.ms).slice(0, PAUSES);
  const stored: StoredGcLog = {
    ...analysis,
    pausePoints: longest
      .sort((a, b) => a.uptime - b.uptime)
      .map(({ uptime, ms, kind, cause, after }) => ({ uptime, ms, kind, cause, afterBytes: after })),
  };
  const [{ id }] = await db()
    .insert(gcLogs)
    .values({ systemId: row.id, name: name.slice(0, 200), uploadedAt: now, analysis: stored })
    .returning({ id: gcLogs.id });
  return { id };
}

export async function listGcLogs(system: string) {
  const rows = await db()
    .select({ log: gcLogs })
    .from(gcLogs)
    .innerJoin(systems, eq(systems.id, gcLogs.systemId))
    .where(eq(systems.name, system))
    .orderBy(desc(gcLogs.id))
    .limit(10);
  return rows.map(({ log: { id, name, uploadedAt, analysis } }) => ({
    id,
    name,
    uploadedAt,
    analysis: analysis as StoredGcLog,
  }));
}

export async function removeGcLog(id: number) {
  const removed = await db().delete(gcLogs).where(eq(gcLogs.id, id)).returning({ id: gcLogs.id });
  if (removed.length === 0) throw notFound(`GC log ${id}`);
}
