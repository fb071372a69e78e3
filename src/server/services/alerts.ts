import { and, asc, desc, eq, gte, inArray, isNull, lt, notInArray, or, sql } from "drizzle-orm";
import { z } from "zod";
import type { ResponseLevel } from "../../core/rules/rule";
import {
  type AlertFacts,
  alertSentence,
  subjectWords,
  thresholdWords,
  valueWords,
} from "../../core/rules/sentence";
import { db } from "../db/connection";
import { alertEvents, alerts, changeMarks, noticeAttempts, notices, systems } from "../db/schema";
import { factsOf } from "../notify/message";
import { systemIdsInScope } from "../store/series";
import { notFound, ServiceError } from "./serviceError";

type Row = typeof alerts.$inferSelect;

export const ALERT_STATES = ["open", "building", "raised", "acknowledged", "cleared"] as const;
export type AlertState = (typeof ALERT_STATES)[number];

export interface AlertSummary {
  id: number;
  ruleId: number | null;
  ruleName: string;
  system: string | null;
  place: string;
  metric: string;
  labels: Record<string, string>;
  condition: "value" | "silence";
  level: ResponseLevel;
  phase: Row["phase"];
  since: number;
  raisedAt: number | null;
  acknowledgedAt: number | null;
  acknowledgedBy: string | null;
  clearingSince: number | null;
  clearedAt: number | null;
  clearReason: string | null;
  lastTime: number;
  valueAtRaise: number | null;
  lastValue: number;
  worstValue: number;
  threshold: number;
  unit: string;
  /** The same in words. */
  words: { sentence: string; subject: string; limit: string; atRaise: string; last: string; worst: string };
}

function summary(row: Row, system: string | null): AlertSummary {
  const facts: AlertFacts = factsOf(row);
  const { rule: _rule, seriesId: _seriesId, systemId: _systemId, subject: _subject, ...rest } = row;
  return {
    ...rest,
    system,
    metric: facts.metric,
    threshold: facts.threshold,
    words: {
      sentence: alertSentence(facts, row.valueAtRaise ?? row.lastValue),
      subject: subjectWords(facts),
      limit: thresholdWords(facts),
      atRaise: valueWords(facts, row.valueAtRaise ?? row.lastValue),
      last: valueWords(facts, row.lastValue),
      worst: valueWords(facts, row.worstValue),
    },
  };
}

export interface AlertFilter {
  state?: AlertState;
  scope?: string;
  /** Alerts that were alive between these times. */
  from?: number;
  to?: number;
  limit?: number;
}

const OPEN = ["building", "raised", "acknowledged"] as const;

/** Alerts, the most urgent and newest first while open, the newest first otherwise. */
export async function listAlerts(filter: AlertFilter): Promise<AlertSummary[]> {
  const { state, scope = "", from, to } = filter;
  const ids = await systemIdsInScope(scope);
  if (ids?.length === 0) return [];
  const rows = await db()
    .select({ alert: alerts, system: systems.name })
    .from(alerts)
    .leftJoin(systems, eq(systems.id, alerts.systemId))
    .where(
      and(
        state === "open" ? inArray(alerts.phase, [...OPEN]) : state ? eq(alerts.phase, state) : undefined,
        // A combined alert over several systems belongs to every scope.
        ids ? or(inArray(alerts.systemId, ids), sql`${alerts.systemId} IS NULL`) : undefined,
        from === undefined ? undefined : sql`coalesce(${alerts.clearedAt}, ${alerts.lastTime}) >= ${from}`,
        to === undefined ? undefined : sql`${alerts.since} < ${to}`,
      ),
    )
    .orderBy(
      sql`${alerts.phase} = 'cleared'`,
      sql`CASE WHEN ${alerts.phase} <> 'cleared' THEN array_position(ARRAY['now','today','week'], ${alerts.level}) END`,
      desc(alerts.since),
    )
    .limit(filter.limit ?? 500);
  return rows.map(({ alert, system }) => summary(alert, system));
}

/** Alerts awaiting a person by level, for the top bar. */
export async function countRaised(): Promise<Record<ResponseLevel, number>> {
  const rows = await db()
    .select({ level: alerts.level, count: sql<number>`count(*)` })
    .from(alerts)
    .where(eq(alerts.phase, "raised"))
    .groupBy(alerts.level);
  const counts: Record<ResponseLevel, number> = { now: 0, today: 0, week: 0 };
  for (const { level, count } of rows) counts[level] = Number(count);
  return counts;
}

export interface TimelineEntry {
  key: string;
  at: number;
  kind: string;
  by: string | null;
  text: string;
}

export interface AlertDetail extends AlertSummary {
  advice: string;
  rule: Row["rule"];
  timeline: TimelineEntry[];
}

export async function readAlert(id: number): Promise<AlertDetail> {
  const [found] = await db()
    .select({ alert: alerts, system: systems.name })
    .from(alerts)
    .leftJoin(systems, eq(systems.id, alerts.systemId))
    .where(eq(alerts.id, id));
  if (!found) throw notFound(`alert ${id}`);
  const { alert, system } = found;
  const facts = factsOf(alert);
  const events = await db()
    .select()
    .from(alertEvents)
    .where(eq(alertEvents.alertId, id))
    .orderBy(asc(alertEvents.at), asc(alertEvents.id));
  const attempts = await db()
    .select({ attempt: noticeAttempts, notice: notices })
    .from(noticeAttempts)
    .innerJoin(notices, eq(notices.id, noticeAttempts.noticeId))
    .where(eq(notices.alertId, id));
  const timeline: TimelineEntry[] = [
    ...events.map((event) => ({
      key: `event ${event.id}`,
      at: event.at,
      kind: event.kind as string,
      by: event.by,
      text: [
        EVENT_WORDS[event.kind],
        event.value === null ? "" : `at ${valueWords(facts, event.value)}`,
        event.note ?? "",
      ]
        .filter((part) => part !== "")
        .join(event.note && event.value === null ? ": " : " "),
    })),
    ...attempts.map(({ attempt, notice }) => ({
      key: `attempt ${attempt.id}`,
      at: attempt.at,
      kind: `notice ${attempt.outcome ?? "under way"}`,
      by: null,
      text: noticeWords(notice, attempt),
    })),
  ];
  timeline.sort((a, b) => a.at - b.at);
  return { ...summary(alert, system), advice: alert.rule.advice, rule: alert.rule, timeline };
}

const EVENT_WORDS = {
  building: "the condition began to be met",
  raised: "raised",
  acknowledged: "acknowledged",
  cleared: "cleared",
} as const;

function noticeWords(
  notice: typeof notices.$inferSelect,
  attempt: typeof noticeAttempts.$inferSelect,
): string {
  const what = `mail "${notice.event}" to ${notice.recipient}`;
  if (attempt.outcome === "sent") return `${what} handed over: ${attempt.detail ?? ""}`;
  if (attempt.outcome === "failed") return `${what} not sent: ${attempt.detail ?? ""}`;
  return `${what} was being sent; how that ended is not known`;
}

export const acknowledgement = z.strictObject({
  by: z.string().trim().min(1, "say who you are").max(100),
  note: z.string().trim().max(2000).default(""),
});

/** A person takes an alert on. Doing so again adds a note. */
export async function acknowledgeAlert(id: number, input: z.infer<typeof acknowledgement>, now = Date.now()) {
  await db().transaction(async (tx) => {
    const [alert] = await tx.select().from(alerts).where(eq(alerts.id, id)).for("update");
    if (!alert) throw notFound(`alert ${id}`);
    if (alert.phase === "cleared")
      throw new ServiceError(409, "this alert has cleared already; there is nothing left to take on");
    if (alert.phase === "building")
      throw new ServiceError(
        409,
        "this alert is still building and was not raised; there is nothing to take on yet",
      );
    if (alert.phase === "raised")
      await tx
        .update(alerts)
        .set({ phase: "acknowledged", acknowledgedAt: now, acknowledgedBy: input.by })
        .where(eq(alerts.id, id));
    await tx
      .insert(alertEvents)
      .values({ alertId: id, at: now, kind: "acknowledged", by: input.by, note: input.note || null });
  });
  return readAlert(id);
}

export interface StripData {
  alerts: { id: number; from: number; to: number | null; level: ResponseLevel; words: string }[];
  marks: { at: number; kind: string; title: string; system: string | null }[];
}

const SMALL_MARKS = ["container-restart", "container-kill"];

/** What the time strip shows: when alerts were alive, and what was changed. */
export async function readStrip(from: number, to: number, scope: string): Promise<StripData> {
  const ids = await systemIdsInScope(scope);
  const listed = await listAlerts({ from, to, scope, limit: 2000 });
  const marks = await db()
    .select({
      at: changeMarks.at,
      kind: changeMarks.kind,
      title: changeMarks.title,
      system: systems.name,
    })
    .from(changeMarks)
    .leftJoin(systems, eq(systems.id, changeMarks.systemId))
    .where(
      and(
        gte(changeMarks.at, Math.floor(from)),
        lt(changeMarks.at, Math.ceil(to)),
        ids === null ? undefined : or(isNull(changeMarks.systemId), inArray(changeMarks.systemId, ids)),
        // What happens to single containers is told where one looks at them, not over everything.
        scope === "" || scope.startsWith("group:") ? notInArray(changeMarks.kind, SMALL_MARKS) : undefined,
      ),
    )
    .orderBy(asc(changeMarks.at))
    .limit(500);
  return {
    alerts: listed
      .filter((alert) => alert.phase !== "building")
      .map((alert) => ({
        id: alert.id,
        from: alert.since,
        to: alert.clearedAt,
        level: alert.level,
        words: `${alert.ruleName}: ${alert.words.subject}`,
      })),
    marks,
  };
}

export interface NoticeSummary {
  id: number;
  alertId: number;
  ruleName: string;
  place: string;
  level: ResponseLevel;
  event: "raised" | "cleared";
  recipient: string;
  address: string;
  state: "waiting" | "sending" | "sent" | "given-up";
  attempts: number;
  createdAt: number;
  sentAt: number | null;
  nextAt: number;
  lastDetail: string | null;
}

/** Notices, newest first, each with what the last attempt brought. */
export async function listNotices(scope: string, limit = 500): Promise<NoticeSummary[]> {
  const ids = await systemIdsInScope(scope);
  return db()
    .select({
      id: notices.id,
      alertId: notices.alertId,
      ruleName: alerts.ruleName,
      place: alerts.place,
      level: alerts.level,
      event: notices.event,
      recipient: notices.recipient,
      address: notices.address,
      state: notices.state,
      attempts: notices.attempts,
      createdAt: notices.createdAt,
      sentAt: notices.sentAt,
      nextAt: notices.nextAt,
      lastDetail: sql<
        string | null
      >`(SELECT detail FROM notice_attempt WHERE notice_id = ${notices.id} ORDER BY id DESC LIMIT 1)`,
    })
    .from(notices)
    .innerJoin(alerts, eq(alerts.id, notices.alertId))
    .where(
      ids
        ? or(inArray(alerts.systemId, ids.length ? ids : [-1]), sql`${alerts.systemId} IS NULL`)
        : undefined,
    )
    .orderBy(desc(notices.id))
    .limit(limit);
}
