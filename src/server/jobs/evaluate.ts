import { and, eq, inArray, ne, sql } from "drizzle-orm";
import type { AlertLife } from "../../core/rules/alertLife";
import { conditionOf, silenceCondition } from "../../core/rules/condition";
import { type JudgedLife, judge } from "../../core/rules/judge";
import { maxGap, observationsOf, rateWindow } from "../../core/rules/observations";
import type { RuleDefinition } from "../../core/rules/rule";
import { combine } from "../../core/series/combine";
import { lowerBound, NO_SAMPLES, type Samples, slice } from "../../core/series/samples";
import { db, type Executor } from "../db/connection";
import { alertEvents, alerts, contacts, notices, ruleProgress, rules } from "../db/schema";
import { log, reasonOf } from "../log";
import { newestTimes, readSamples } from "../store/read";
import { findSeries, type SeriesRow } from "../store/series";

const EVERY_MS = 5000;
/** A subject silent for so long is no subject any more, and what was open on it ends. */
const FORGET_AFTER_MS = 86_400_000;
/** Buckets of a combined rule are judged only when every collection that belongs to them had time to arrive. */
const ARRIVAL_GRACE_MS = 5000;

type Rule = typeof rules.$inferSelect;
type Alert = typeof alerts.$inferSelect;

interface Options {
  /** Judge up to here; the clock by default. */
  now?: number;
  /** False while history is written: alerts of the past are recorded, and nobody is told. */
  tell?: boolean;
  /** Interval of the samples, where it is another than the sources collect at today. */
  intervalMs?: number;
  /** From where to judge subjects that were never judged; a little before now by default. */
  from?: number;
}

/** One thing a rule judges: a series, or all of them together. */
interface Subject {
  key: string;
  place: string;
  systemId: number | null;
  seriesId: number | null;
  labels: Record<string, string>;
  intervalMs: number;
  members: SeriesRow[];
}

/**
 * Judges one rule that is due, if there is one no other worker is at: reads what arrived since the last time, steps
 * the alert machine through it, and writes states, events, notices and progress in one transaction. Killed at any
 * moment, the transaction did not happen, and the next worker does all of it again with the same outcome.
 *
 * @returns whether a rule was due
 */
export async function evaluateNextRule(now = Date.now()): Promise<boolean> {
  return db().transaction(async (tx) => {
    const [rule] = await tx
      .select()
      .from(rules)
      .where(and(eq(rules.enabled, true), sql`${rules.nextAt} <= ${now}`))
      .orderBy(rules.nextAt)
      .limit(1)
      .for("update", { skipLocked: true });
    if (!rule) return false;
    let lastError: string | null = null;
    try {
      // A savepoint: what one rule fails on must not keep it from being put off.
      await tx.transaction((inner) => evaluateRule(inner, rule, { now }));
    } catch (error) {
      lastError = reasonOf(error);
      log.error({ rule: rule.id, error: lastError }, "a rule could not be judged");
    }
    await tx
      .update(rules)
      .set({ nextAt: now + EVERY_MS, lastError })
      .where(eq(rules.id, rule.id));
    return true;
  });
}

/** Judges a rule whose row the caller has locked. */
export async function evaluateRule(tx: Executor, rule: Rule, options: Options = {}) {
  const now = options.now ?? Date.now();
  const definition = rule.definition;
  const subjects = await subjectsOf(definition, options.intervalMs);
  const open = await tx
    .select()
    .from(alerts)
    .where(and(eq(alerts.ruleId, rule.id), ne(alerts.phase, "cleared")))
    .for("update");
  const newest = await newestTimes(subjects.flatMap((subject) => subject.members.map((member) => member.id)));
  const judgedUntil = new Map(
    (await tx.select().from(ruleProgress).where(eq(ruleProgress.ruleId, rule.id))).map((row) => [
      row.subject,
      row.judgedUntil,
    ]),
  );

  const live = subjects.filter((subject) => now - newestOf(subject, newest) < FORGET_AFTER_MS);
  const plans = live.map((subject) => ({ subject, ...plan(subject, definition, judgedUntil, options, now) }));
  const samples = await readPlanned(plans);
  const writer = new AlertWriter(tx, rule, now, options.tell ?? true);

  for (const { subject, start, end } of plans) {
    const observations = observed(subject, definition, samples, start, end);
    const openValue = open.find((alert) => alert.subject === subject.key && alert.condition === "value");
    const judged = judge(
      openValue ? lifeOf(openValue) : null,
      observations,
      conditionOf(definition),
      maxGap(subject.intervalMs),
    );
    for (const life of judged) await writer.write(subject, "value", openValue, life);
    if (observations.times.length > 0)
      judgedUntil.set(subject.key, observations.times[observations.times.length - 1]);
    else if (!judgedUntil.has(subject.key)) judgedUntil.set(subject.key, start);

    if (definition.noDataMs !== null && definition.combine === null)
      await judgeSilence(subject, definition.noDataMs, newestOf(subject, newest), open, writer);
  }
  await forgetGone(tx, open, live, now);
  await saveProgress(tx, rule.id, live, judgedUntil);
}

async function subjectsOf(definition: RuleDefinition, intervalMs?: number): Promise<Subject[]> {
  const found = await findSeries(definition);
  const members = intervalMs === undefined ? found : found.map((member) => ({ ...member, intervalMs }));
  if (definition.combine === null)
    return members.map((member) => ({
      key: `series:${member.id}`,
      place: member.system,
      systemId: member.systemId,
      seriesId: member.id,
      labels: member.labels,
      intervalMs: member.intervalMs,
      members: [member],
    }));
  if (members.length === 0) return [];
  const systems = new Set(members.map((member) => member.systemId));
  return [
    {
      key: "all",
      place: systems.size === 1 ? members[0].system : definition.scope || "all systems",
      systemId: systems.size === 1 ? members[0].systemId : null,
      seriesId: null,
      labels: definition.labels,
      intervalMs: Math.max(...members.map((member) => member.intervalMs)),
      members,
    },
  ];
}

function newestOf(subject: Subject, newest: Map<number, number>): number {
  return Math.max(...subject.members.map((member) => newest.get(member.id) ?? Number.NEGATIVE_INFINITY));
}

/** The time to judge, `start < t <= end`, and from where samples must be read for it. */
function plan(
  subject: Subject,
  definition: RuleDefinition,
  judgedUntil: Map<string, number>,
  options: Options,
  now: number,
) {
  const window = rateWindow(subject.intervalMs, definition.windowMs);
  const lookback = subject.members[0].kind === "counter" ? window : 0;
  // A new rule looks back far enough to find a condition that has been holding already.
  const first = options.from ?? now - definition.holdMs - 2 * subject.intervalMs;
  const start = judgedUntil.get(subject.key) ?? first;
  const end =
    definition.combine === null
      ? now
      : Math.floor((now - ARRIVAL_GRACE_MS) / subject.intervalMs) * subject.intervalMs - subject.intervalMs;
  return { start, end, readFrom: start - lookback - (definition.combine === null ? 0 : subject.intervalMs) };
}

async function readPlanned(plans: { subject: Subject; readFrom: number; end: number }[]) {
  if (plans.length === 0) return new Map<number, Samples>();
  const ids = plans.flatMap(({ subject }) => subject.members.map((member) => member.id));
  const from = Math.min(...plans.map((p) => p.readFrom));
  const to = Math.max(...plans.map((p) => p.end + p.subject.intervalMs));
  return readSamples(ids, from, to + 1);
}

function observed(
  subject: Subject,
  definition: RuleDefinition,
  samples: Map<number, Samples>,
  start: number,
  end: number,
): Samples {
  const each = subject.members.map((member) =>
    observationsOf(samples.get(member.id) ?? NO_SAMPLES, member.kind, member.intervalMs, definition.windowMs),
  );
  const all = definition.combine === null ? each[0] : combine(each, subject.intervalMs, definition.combine);
  const from = lowerBound(all.times, start + 1);
  return slice(all, all.times[from] ?? Number.POSITIVE_INFINITY, end + 1);
}

/**
 * Silence is judged against the last time the source was asked, not against the clock: when Barn Lamp itself stood
 * still it knows nothing, and says nothing.
 */
async function judgeSilence(
  subject: Subject,
  noDataMs: number,
  newest: number,
  open: Alert[],
  writer: AlertWriter,
) {
  const knownUntil = subject.members[0].knownUntil;
  if (knownUntil === null || !Number.isFinite(newest)) return;
  const openSilence = open.find((alert) => alert.subject === subject.key && alert.condition === "silence");
  const observation: Samples = {
    times: Float64Array.of(knownUntil),
    values: Float64Array.of(Math.max(0, knownUntil - newest) / 1000),
  };
  const condition = silenceCondition(noDataMs);
  const judged = judge(
    openSilence ? lifeOf(openSilence) : null,
    observation,
    condition,
    Number.POSITIVE_INFINITY,
  );
  for (const life of judged) {
    if (!life.continued) life.life.since = newest;
    await writer.write(subject, "silence", openSilence, life);
  }
}

/** Ends what is open on subjects that are gone: the series was removed, or has been silent for a day. */
async function forgetGone(tx: Executor, open: Alert[], live: Subject[], now: number) {
  const keys = new Set(live.map((subject) => subject.key));
  for (const alert of open) {
    if (keys.has(alert.subject)) continue;
    await endWithoutNotice(tx, alert, now, "its series has sent nothing for a day or is gone");
  }
}

/** Ends an alert for a reason outside its condition. One that was never raised leaves no trace. */
export async function endWithoutNotice(tx: Executor, alert: Alert, now: number, reason: string) {
  if (alert.phase === "building") {
    await tx.delete(alerts).where(eq(alerts.id, alert.id));
    return;
  }
  await tx
    .update(alerts)
    .set({ phase: "cleared", clearedAt: now, clearReason: reason })
    .where(eq(alerts.id, alert.id));
  await tx.insert(alertEvents).values({ alertId: alert.id, at: now, kind: "cleared", note: reason });
}

async function saveProgress(tx: Executor, ruleId: number, live: Subject[], judgedUntil: Map<string, number>) {
  const keys = live.map((subject) => subject.key);
  if (keys.length === 0) return;
  await tx
    .insert(ruleProgress)
    .values(keys.map((subject) => ({ ruleId, subject, judgedUntil: Math.round(judgedUntil.get(subject)!) })))
    .onConflictDoUpdate({
      target: [ruleProgress.ruleId, ruleProgress.subject],
      set: { judgedUntil: sql`excluded.judged_until` },
    });
}

function lifeOf(alert: Alert): AlertLife {
  const { phase, since, raisedAt, valueAtRaise, clearingSince, clearedAt, lastTime, lastValue, worstValue } =
    alert;
  return { phase, since, raisedAt, valueAtRaise, clearingSince, clearedAt, lastTime, lastValue, worstValue };
}

/** Writes judged lives into alert rows, with their events and the notices these call for. */
class AlertWriter {
  private recipients: { contactId: number | null; recipient: string; address: string }[] | null = null;

  constructor(
    private readonly tx: Executor,
    private readonly rule: Rule,
    private readonly now: number,
    private readonly tell: boolean,
  ) {}

  async write(subject: Subject, condition: Alert["condition"], open: Alert | undefined, judged: JudgedLife) {
    if (judged.continued && open) {
      if (judged.dropped) {
        await this.tx.delete(alerts).where(eq(alerts.id, open.id));
        return;
      }
      if (judged.life.lastTime !== open.lastTime)
        await this.tx.update(alerts).set(judged.life).where(eq(alerts.id, open.id));
      await this.writeEvents(open.id, judged);
      return;
    }
    const { definition } = this.rule;
    const [{ id }] = await this.tx
      .insert(alerts)
      .values({
        ...judged.life,
        ruleId: this.rule.id,
        ruleName: this.rule.name,
        rule: definition,
        subject: subject.key,
        systemId: subject.systemId,
        seriesId: subject.seriesId,
        place: subject.place,
        labels: subject.labels,
        condition,
        unit: condition === "silence" ? "s" : ruleUnit(subject),
        level: definition.level,
      })
      .returning({ id: alerts.id });
    await this.writeEvents(id, judged);
  }

  private async writeEvents(alertId: number, { events }: JudgedLife) {
    if (events.length === 0) return;
    await this.tx.insert(alertEvents).values(events.map((event) => ({ alertId, ...event })));
    if (!this.tell) return;
    for (const { kind } of events) if (kind !== "building") await this.writeNotices(alertId, kind);
  }

  private async writeNotices(alertId: number, event: "raised" | "cleared") {
    const told = event === "raised" ? await this.contacts() : await this.toldOfRaise(alertId);
    for (const contact of told)
      await this.tx
        .insert(notices)
        .values({ ...contact, alertId, event, nextAt: this.now, createdAt: this.now })
        .onConflictDoNothing();
  }

  /** Who was told that it began is told that it is over, whatever became of the rule's contacts since. */
  private toldOfRaise(alertId: number) {
    return this.tx
      .select({ contactId: notices.contactId, recipient: notices.recipient, address: notices.address })
      .from(notices)
      .where(and(eq(notices.alertId, alertId), eq(notices.event, "raised")));
  }

  private async contacts() {
    const ids = this.rule.definition.contactIds;
    if (this.recipients === null)
      this.recipients =
        ids.length === 0
          ? []
          : await this.tx
              .select({ contactId: contacts.id, recipient: contacts.name, address: contacts.email })
              .from(contacts)
              .where(inArray(contacts.id, ids));
    return this.recipients;
  }
}

/** The unit of what is judged: that of the metric, and for a counter that of its rate. */
function ruleUnit(subject: Subject): string {
  const { kind, unit } = subject.members[0];
  return kind === "counter" ? `${unit}/s` : unit;
}
