import { eq, sql } from "drizzle-orm";
import { db } from "../db/connection";
import { alerts, noticeAttempts, notices } from "../db/schema";
import { log } from "../log";
import { sendMail } from "../notify/mail";
import { alertMessage } from "../notify/message";
import { mailSettingsForSending } from "../services/settings";

const LEASE_MS = 60_000;
const FIRST_RETRY_MS = 5000;
const LONGEST_RETRY_MS = 300_000;
const GIVE_UP_AFTER_MS = 86_400_000;

type Notice = typeof notices.$inferSelect;

/**
 * Sends one notice that is due. The lease is committed before the mail server is spoken to, so a worker that dies
 * leaves a notice that another takes up when the lease ends. Notices of one alert to one address go out in order.
 *
 * One window cannot be closed: a worker that dies after the mail server took the message and before that is
 * written down leaves a notice that is sent again (RFC 1047 describes this of SMTP itself). It then carries the same
 * Message-ID. Losing a notice would be worse than repeating one.
 *
 * @returns whether a notice was due
 */
export async function sendNextNotice(now = Date.now()): Promise<boolean> {
  const leased = await db().transaction(async (tx) => {
    const { rows } = await tx.execute<{ id: number }>(sql`
      UPDATE notice SET state = 'sending', attempts = attempts + 1, lease_until = ${now} + ${LEASE_MS}::bigint
      WHERE id = (
        SELECT id FROM notice AS due
        WHERE ((state = 'waiting' AND next_at <= ${now}) OR (state = 'sending' AND lease_until <= ${now}))
          AND NOT EXISTS (SELECT 1 FROM notice AS earlier
                          WHERE earlier.alert_id = due.alert_id AND earlier.address = due.address
                            AND earlier.id < due.id AND earlier.state IN ('waiting', 'sending'))
        ORDER BY next_at LIMIT 1 FOR UPDATE SKIP LOCKED)
      RETURNING id`);
    if (rows.length === 0) return null;
    const [notice] = await tx.select().from(notices).where(eq(notices.id, rows[0].id));
    const [attempt] = await tx
      .insert(noticeAttempts)
      .values({ noticeId: notice.id, at: now })
      .returning({ id: noticeAttempts.id });
    return { notice, attemptId: attempt.id };
  });
  if (!leased) return false;
  const { notice, attemptId } = leased;
  const started = Date.now();
  let outcome: "sent" | "failed" = "sent";
  let detail: string;
  try {
    detail = await deliver(notice);
  } catch (error) {
    outcome = "failed";
    detail = (error as Error).message;
  }
  await db().transaction(async (tx) => {
    await tx
      .update(noticeAttempts)
      .set({ outcome, detail: detail.slice(0, 500), durationMs: Date.now() - started })
      .where(eq(noticeAttempts.id, attemptId));
    await tx.update(notices).set(stateAfter(notice, outcome)).where(eq(notices.id, notice.id));
  });
  if (outcome === "failed")
    log.warn({ notice: notice.id, attempts: notice.attempts, detail }, "a notice was not sent");
  return true;
}

async function deliver(notice: Notice): Promise<string> {
  const settings = await mailSettingsForSending();
  if (!settings) throw new Error("no mail server is set; fill in Settings, Mail");
  const [alert] = await db().select().from(alerts).where(eq(alerts.id, notice.alertId));
  const message = alertMessage(alert, notice.event, settings.publicUrl);
  return sendMail(
    settings,
    { name: notice.recipient, address: notice.address },
    message,
    `notice-${notice.id}`,
  );
}

function stateAfter(notice: Notice, outcome: "sent" | "failed") {
  const now = Date.now();
  if (outcome === "sent") return { state: "sent" as const, sentAt: now, leaseUntil: 0 };
  if (now - notice.createdAt > GIVE_UP_AFTER_MS) return { state: "given-up" as const, leaseUntil: 0 };
  return { state: "waiting" as const, leaseUntil: 0, nextAt: now + retryDelay(notice.attempts) };
}

/** 5 s after the first failure, then twice as long each time, five minutes at most. */
export function retryDelay(attempts: number): number {
  return Math.min(FIRST_RETRY_MS * 2 ** Math.min(attempts - 1, 20), LONGEST_RETRY_MS);
}
