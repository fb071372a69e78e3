import { eq } from "drizzle-orm";
import { simpleParser } from "mailparser";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { db } from "../../src/server/db/connection";
import * as t from "../../src/server/db/schema";
import { retryDelay, sendNextNotice } from "../../src/server/jobs/notify";
import { listNotices, readAlert } from "../../src/server/services/alerts";
import { sendTestMail } from "../../src/server/services/mailTest";
import { readMailSettings, saveMailSettings } from "../../src/server/services/settings";
import { freePort } from "./freePort";
import { mailServer, rule, withDatabase } from "./harness";

withDatabase();

let port = 0;
let server: Awaited<ReturnType<typeof mailServer>> | null = null;
const settings = () => ({
  host: "127.0.0.1",
  port,
  security: "none" as const,
  user: "",
  from: "lamp@example.org",
  publicUrl: "http://lamp.example.org/",
});

beforeEach(async () => {
  await db().delete(t.alerts);
  port = await freePort();
  await saveMailSettings(settings());
});
afterEach(async () => {
  await server?.close();
  server = null;
});

const START = Date.UTC(2026, 10, 23, 3, 12, 5);

async function alertWithNotices(events: ("raised" | "cleared")[] = ["raised"], to = "night@example.org") {
  const [alert] = await db()
    .insert(t.alerts)
    .values({
      ruleName: "Disk <filling>",
      rule: rule({ metric: "disk_used_bytes", value: 450 * 2 ** 30, advice: "Order space & purge." }),
      subject: "series:1",
      place: "berth-db",
      labels: { mount: "/bookings" },
      condition: "value",
      unit: "By",
      level: "now",
      phase: events.includes("cleared") ? "cleared" : "raised",
      since: START,
      raisedAt: START + 300_000,
      valueAtRaise: 460 * 2 ** 30,
      clearedAt: events.includes("cleared") ? START + 5_400_000 : null,
      lastTime: START + 5_400_000,
      lastValue: 430 * 2 ** 30,
      worstValue: 470 * 2 ** 30,
    })
    .returning();
  for (const event of events)
    await db().insert(t.notices).values({
      alertId: alert.id,
      event,
      recipient: "Night watch",
      address: to,
      nextAt: 1,
      createdAt: Date.now(),
    });
  return alert;
}

describe("notices", () => {
  it("say what, how much, against what, since when and where to look, as text and as HTML", async () => {
    server = await mailServer(port);
    const alert = await alertWithNotices(["raised", "cleared"]);
    while (await sendNextNotice());
    const [raised, cleared] = await Promise.all(server.mails.map((mail) => simpleParser(mail.raw)));
    const plain = (text = "") => text.replace(/\u202f/g, " ");
    expect(raised.subject).toBe("Act now: Disk <filling> (disk used (mount /bookings) on berth-db)");
    for (const part of [
      "460 GiB",
      "above 450 GiB",
      "after 5 min",
      "2026-11-23 03:12:05 UTC",
      "berth-db",
      "Order space & purge.",
      `http://lamp.example.org/respond/alerts/${alert.id}`,
    ])
      expect(plain(raised.text)).toContain(part);
    expect(raised.html).toContain("&#60;");
    expect(String(raised.html)).not.toContain("<filling>");
    expect(plain(cleared.text)).toMatch(
      /back within its limit[\s\S]*Lasted:\s+1 h 30 min[\s\S]*Worst value:\s+470 GiB/,
    );
    expect(raised.headers.get("auto-submitted")).toBe("auto-generated");
  });

  it("wait out a mail server that is down, each attempt written down, and are sent once", async () => {
    const alert = await alertWithNotices();
    const first = Date.now();
    expect(await sendNextNotice(first)).toBe(true);
    let [notice] = await listNotices("");
    expect(notice).toMatchObject({ state: "waiting", attempts: 1 });
    expect(notice.lastDetail).toMatch(/ECONNREFUSED/);
    expect(notice.nextAt - first).toBeGreaterThanOrEqual(5000);
    // Not due yet: nothing happens.
    expect(await sendNextNotice(first + 1000)).toBe(false);
    server = await mailServer(port);
    expect(await sendNextNotice(first + 60_000)).toBe(true);
    expect(await sendNextNotice(first + 6_000_000)).toBe(false);
    [notice] = await listNotices("");
    expect(notice).toMatchObject({ state: "sent", attempts: 2 });
    expect(server.mails).toHaveLength(1);
    expect((await readAlert(alert.id)).timeline.map((entry) => entry.kind)).toEqual([
      "notice failed",
      "notice sent",
    ]);
  });

  it("are sent once though many workers try at the same time", async () => {
    server = await mailServer(port);
    await alertWithNotices(["raised"], "a@example.org");
    await alertWithNotices(["raised", "cleared"], "b@example.org");
    await Promise.all(
      Array.from({ length: 6 }, async () => {
        while (await sendNextNotice());
      }),
    );
    expect(server.mails.map((mail) => mail.to[0]).sort()).toEqual([
      "a@example.org",
      "b@example.org",
      "b@example.org",
    ]);
  });

  it("are taken up by another worker when the one that had them died", async () => {
    server = await mailServer(port);
    const alert = await alertWithNotices();
    const now = Date.now();
    await db()
      .update(t.notices)
      .set({ state: "sending", leaseUntil: now + 60_000 })
      .where(eq(t.notices.alertId, alert.id));
    expect(await sendNextNotice(now + 30_000)).toBe(false);
    expect(await sendNextNotice(now + 61_000)).toBe(true);
    expect(server.mails).toHaveLength(1);
  });

  it("go out in order: nobody hears of an end before its beginning", async () => {
    await alertWithNotices(["raised", "cleared"]);
    const now = Date.now();
    await sendNextNotice(now);
    // The raise is put off; its end must wait, though it is due.
    expect(await sendNextNotice(now + 100)).toBe(false);
  });

  it("are given up after a day, and say so", async () => {
    await alertWithNotices();
    await db()
      .update(t.notices)
      .set({ createdAt: Date.now() - 90_000_000 });
    await sendNextNotice();
    expect((await listNotices(""))[0].state).toBe("given-up");
  });

  it("back off to five minutes at most", () => {
    expect([1, 2, 3].map(retryDelay)).toEqual([5000, 10_000, 20_000]);
    expect(retryDelay(50)).toBe(300_000);
  });
});

describe("mail settings", () => {
  it("keep the password sealed, and when it is left out", async () => {
    await saveMailSettings({ ...settings(), user: "u", password: "very secret" });
    await saveMailSettings({ ...settings(), user: "u" });
    expect(await readMailSettings()).toMatchObject({ hasPassword: true });
    expect(JSON.stringify(await db().select().from(t.settings))).not.toContain("very secret");
    await saveMailSettings({ ...settings(), password: "" });
    expect(await readMailSettings()).toMatchObject({ hasPassword: false });
  });
  it("are tested with what the server says", async () => {
    expect(await sendTestMail("a@example.org")).toMatchObject({ ok: false });
    server = await mailServer(port);
    expect((await sendTestMail("a@example.org")).detail).toMatch(/^250/);
  });
});
