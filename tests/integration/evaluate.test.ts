import { asc, eq } from "drizzle-orm";
import { beforeEach, describe, expect, it } from "vitest";
import type { RuleDefinition } from "../../src/core/rules/rule";
import { db } from "../../src/server/db/connection";
import * as t from "../../src/server/db/schema";
import { evaluateNextRule } from "../../src/server/jobs/evaluate";
import { acknowledgeAlert, listAlerts, readAlert, readStrip } from "../../src/server/services/alerts";
import { addContact, listContacts, removeContact } from "../../src/server/services/contacts";
import { addRule, changeRule, listRules, removeRule } from "../../src/server/services/rules";
import { removeSystem } from "../../src/server/services/systems";
import { rule, systemWithSeries, withDatabase } from "./harness";

withDatabase();

const S = 1000;
const START = 1_795_000_000_000;
/** Samples every ten seconds from the start. */
const points = (values: number[], from = 0): [number, number][] =>
  values.map((value, i) => [START + (from + i) * 10 * S, value]);
/** The clock at sample `i`. */
const at = (i: number) => START + i * 10 * S;

let contactId = 0;
beforeEach(async () => {
  await db().delete(t.alerts);
  await db().delete(t.rules);
  await db().delete(t.systems);
  await db().delete(t.contacts);
  contactId = (await addContact({ name: "Night watch", email: "night@example.org" })).id;
});

const make = (part: Partial<RuleDefinition> = {}, now = at(0)) =>
  addRule(
    { name: "too hot", enabled: true, definition: { ...rule(), contactIds: [contactId], ...part } },
    now,
  );

/** Judges every rule as a worker would at each of these moments. */
async function judgeAt(...moments: number[]) {
  for (const moment of moments) while (await evaluateNextRule(moment));
}

async function story() {
  const [alerts, events, notices] = await Promise.all([
    db().select().from(t.alerts).orderBy(asc(t.alerts.since)),
    db().select().from(t.alertEvents).orderBy(asc(t.alertEvents.at)),
    db().select().from(t.notices).orderBy(asc(t.notices.id)),
  ]);
  return {
    alerts: alerts.map(({ id: _, ruleId: __, ...alert }) => alert),
    events: events.map(({ kind, at: when, value }) => [kind, (when - START) / S, value]),
    notices: notices.map(({ event, address, state }) => [event, address, state]),
  };
}

const HOT = [50, 95, 96, 97, 98, 60, 60, 60];

describe("evaluation", () => {
  it("raises, tells once, clears, tells once", async () => {
    const system = await systemWithSeries();
    await make();
    await system.add(points(HOT));
    await judgeAt(at(3), at(3), at(4), at(20));
    const { alerts, events, notices } = await story();
    expect(alerts).toHaveLength(1);
    expect(alerts[0]).toMatchObject({
      phase: "cleared",
      since: at(1),
      raisedAt: at(3),
      valueAtRaise: 97,
      clearedAt: at(6),
      worstValue: 98,
    });
    expect(events).toEqual([
      ["building", 10, 95],
      ["raised", 30, 97],
      ["cleared", 60, 60],
    ]);
    expect(notices).toEqual([
      ["raised", "night@example.org", "waiting"],
      ["cleared", "night@example.org", "waiting"],
    ]);
  });

  it("comes to the same story wherever the worker was restarted in between", async () => {
    const once: Awaited<ReturnType<typeof story>>[] = [];
    for (const moments of [
      [at(20)],
      [at(1), at(20)],
      [at(2), at(3), at(20)],
      [at(3), at(5), at(20)],
      HOT.map((_, i) => at(i)).concat(at(20)),
    ]) {
      await db().delete(t.alerts);
      await db().delete(t.rules);
      await db().delete(t.systems);
      const system = await systemWithSeries({ name: "same" });
      await make({}, at(0));
      // Samples arrive as time goes on, as they would.
      let sent = 0;
      for (const moment of [at(0), ...moments]) {
        const until = HOT.findIndex((_, i) => at(i) > moment);
        const next = until < 0 ? HOT.length : until;
        await system.add(points(HOT.slice(sent, next), sent));
        sent = next;
        await judgeAt(moment);
      }
      once.push(await story());
    }
    const bare = (told: (typeof once)[number]) => ({
      ...told,
      alerts: told.alerts.map(({ subject: _, seriesId: __, systemId: ___, rule: ____, ...alert }) => alert),
    });
    for (const told of once.slice(1)) expect(bare(told)).toEqual(bare(once[0]));
  });

  it("by many workers at once doubles nothing", async () => {
    const system = await systemWithSeries();
    for (let i = 0; i < 5; i++)
      await addRule(
        { name: `rule ${i}`, enabled: true, definition: { ...rule(), contactIds: [contactId] } },
        at(0),
      );
    await system.add(points(HOT));
    await Promise.all([1, 2, 3, 4].map(() => judgeAt(at(4), at(20))));
    const { alerts, notices } = await story();
    expect(alerts).toHaveLength(5);
    expect(notices).toHaveLength(10);
  });

  it("forgets what broke off before it was raised, and tells nobody", async () => {
    const system = await systemWithSeries();
    await make();
    await system.add(points([95, 95]));
    await judgeAt(at(1));
    expect((await listAlerts({ state: "building" })).length).toBe(1);
    await system.add(points([50], 2));
    await judgeAt(at(2) + 6000);
    expect(await story()).toEqual({ alerts: [], events: [], notices: [] });
  });

  it("judges a counter by its rate, in the unit of the rate", async () => {
    const system = await systemWithSeries({ metric: "errors_total", kind: "counter", unit: "{count}" });
    await make({ metric: "errors_total", value: 5, holdMs: 0 });
    await system.add(points([0, 10, 20, 100, 180]));
    await judgeAt(at(5));
    const [alert] = await listAlerts({ state: "raised" });
    // (100 − 0) / 30 s is the first rate above nothing; (180 − 0) / 40 s = 4.5: never above 5.
    expect(alert).toBeUndefined();
    await system.add(points([400, 900], 5));
    await judgeAt(at(7));
    expect((await listAlerts({ state: "raised" }))[0]).toMatchObject({ unit: "{count}/s", valueAtRaise: 8 });
  });

  it("judges all series together once every one of them had time to report", async () => {
    const a = await systemWithSeries();
    const b = await systemWithSeries();
    await make({ combine: "sum", value: 90, holdMs: 0, clearHoldMs: 0 });
    await a.add(points([50, 50, 50, 50]));
    await judgeAt(at(1));
    await b.add(points([30, 45, 45, 30]));
    await judgeAt(at(6));
    const [alert] = (await story()).alerts;
    expect(alert).toMatchObject({ subject: "all", place: "all systems", valueAtRaise: 95, phase: "cleared" });
  });

  it("narrows by scope and labels", async () => {
    const one = await systemWithSeries({ name: "one" });
    const two = await systemWithSeries({ name: "two" });
    await make({ scope: "two", holdMs: 0 });
    await one.add(points([95]));
    await two.add(points([95]));
    await judgeAt(at(1));
    expect((await story()).alerts.map((alert) => alert.place)).toEqual(["two"]);
  });

  it("takes silence as a condition of its own, and is silent itself when it was blind", async () => {
    const system = await systemWithSeries();
    await make({ noDataMs: 30_000 });
    await system.add(points([50]));
    const asked = (moment: number) =>
      db().update(t.sources).set({ knownUntil: moment }).where(eq(t.sources.id, system.source.id));
    // The clock went on, but nobody asked the source: nothing is known, nothing is said.
    await asked(at(0));
    await judgeAt(at(30));
    expect((await story()).alerts).toEqual([]);
    await asked(at(31));
    await judgeAt(at(31));
    const [silent] = await listAlerts({ state: "raised" });
    expect(silent).toMatchObject({ condition: "silence", since: at(0), lastValue: 310, unit: "s" });
    await system.add([[at(32), 50]]);
    await asked(at(32));
    await judgeAt(at(33));
    expect((await story()).notices.map((notice) => notice[0])).toEqual(["raised", "cleared"]);
  });

  it("keeps a raised alert open while nothing is known, and ends it after a day", async () => {
    const system = await systemWithSeries();
    await make();
    await system.add(points([95, 95, 95]));
    await judgeAt(at(3), at(3) + 3_600_000);
    expect((await listAlerts({ state: "raised" })).length).toBe(1);
    await judgeAt(at(3) + 25 * 3_600_000);
    const [ended] = await listAlerts({ state: "cleared" });
    expect(ended.clearReason).toMatch(/nothing for a day/);
  });
});

describe("people and alerts", () => {
  async function raised() {
    const system = await systemWithSeries();
    const made = await make();
    await system.add(points([50, 95, 96, 97]));
    await judgeAt(at(4));
    const [alert] = await listAlerts({ state: "raised" });
    return { system, rule: made, alert };
  }

  it("an alert is taken on, with a note; it clears all the same", async () => {
    const { system, alert } = await raised();
    const taken = await acknowledgeAlert(alert.id, { by: "Rona", note: "looking" }, at(4));
    expect(taken).toMatchObject({ phase: "acknowledged", acknowledgedBy: "Rona" });
    await acknowledgeAlert(alert.id, { by: "Rona", note: "found it" }, at(4) + 1);
    await system.add(points([60, 60, 60], 4));
    await judgeAt(at(10));
    const detail = await readAlert(alert.id);
    expect(detail.phase).toBe("cleared");
    expect(detail.timeline.map((entry) => entry.kind)).toEqual([
      "building",
      "raised",
      "acknowledged",
      "acknowledged",
      "cleared",
    ]);
    expect(detail.timeline[3]).toMatchObject({ by: "Rona", text: "acknowledged: found it" });
    await expect(acknowledgeAlert(alert.id, { by: "Rona", note: "" })).rejects.toMatchObject({ status: 409 });
    await expect(acknowledgeAlert(999_999, { by: "Rona", note: "" })).rejects.toMatchObject({ status: 404 });
  });

  it("an alert ends with its rule, and says why", async () => {
    const { rule: made, alert } = await raised();
    await changeRule(made.id, { definition: { ...made.definition, value: 80, clearValue: null } });
    expect((await readAlert(alert.id)).threshold).toBe(80);
    await changeRule(made.id, { enabled: false });
    expect(await readAlert(alert.id)).toMatchObject({
      phase: "cleared",
      clearReason: "the rule was switched off",
    });
    await removeRule(made.id);
    expect((await readAlert(alert.id)).ruleId).toBeNull();
    expect(await listRules()).toEqual([]);
  });

  it("an alert ends with its system", async () => {
    const { system, alert } = await raised();
    await removeSystem(system.system.name);
    expect(await readAlert(alert.id)).toMatchObject({
      phase: "cleared",
      clearReason: "the system was removed",
    });
  });

  it("who was told of the raise is told of the end, though the rule names others by now", async () => {
    const { system, rule: made } = await raised();
    const { id } = await addContact({ name: "Other", email: "other@example.org" });
    await changeRule(made.id, { definition: { ...made.definition, contactIds: [id] } }, at(5));
    await system.add(points([60, 60, 60], 4));
    await judgeAt(at(10));
    expect((await story()).notices.map((notice) => notice[1])).toEqual([
      "night@example.org",
      "night@example.org",
    ]);
  });

  it("a contact that a rule tells cannot vanish silently", async () => {
    await raised();
    await expect(removeContact(contactId)).rejects.toThrow(/too hot/);
    expect((await listContacts())[0].rules).toEqual(["too hot"]);
  });

  it("the strip shows alerts that were alive in its time, and changes", async () => {
    const { alert } = await raised();
    await db()
      .insert(t.changeMarks)
      .values({ at: at(2), kind: "deploy", title: "deploy 1" });
    const strip = await readStrip(at(0), at(10), "");
    expect(strip.alerts).toMatchObject([{ id: alert.id, from: at(1), to: null, level: "now" }]);
    expect(strip.marks.map((mark) => mark.title)).toEqual(["deploy 1"]);
    expect((await readStrip(at(50), at(60), "")).alerts).toEqual([]);
  });

  it("refuses rules about things that do not exist", async () => {
    await raised();
    const definition = rule();
    const refused = (part: Partial<RuleDefinition>) =>
      addRule({ name: "x", enabled: true, definition: { ...definition, ...part } });
    await expect(refused({ metric: "nothing" })).rejects.toMatchObject({ field: "definition.metric" });
    await expect(refused({ scope: "nowhere" })).rejects.toMatchObject({ field: "definition.scope" });
    await expect(refused({ contactIds: [999] })).rejects.toMatchObject({ field: "definition.contactIds" });
    await expect(addRule({ name: "too hot", enabled: true, definition })).rejects.toMatchObject({
      status: 409,
      field: "name",
    });
  });
});
