import nodemailer from "nodemailer";
import type { MailSettings } from "../services/settings";
import type { Message } from "./message";

const TIMEOUT_MS = 15_000;
/** Shorter than a notice's lease, so that no other worker sends it while this one still tries. */
const DELIVERY_MS = 45_000;

/**
 * Hands one message to the mail server; resolves with what the server answered.
 * @param id makes the Message-ID, the same at every attempt, so that a mailbox can tell a repetition
 * @throws Error with the server's or the network's own words
 */
export async function sendMail(
  settings: MailSettings & { password: string | null },
  to: { name: string; address: string },
  message: Message,
  id: string,
): Promise<string> {
  const transport = nodemailer.createTransport({
    host: settings.host,
    port: settings.port,
    secure: settings.security === "tls",
    requireTLS: settings.security === "starttls",
    ignoreTLS: settings.security === "none",
    auth: settings.user ? { user: settings.user, pass: settings.password ?? "" } : undefined,
    connectionTimeout: TIMEOUT_MS,
    greetingTimeout: TIMEOUT_MS,
    socketTimeout: TIMEOUT_MS,
    // Nothing in a message may make this process read files or fetch addresses.
    disableFileAccess: true,
    disableUrlAccess: true,
  });
  let timer: NodeJS.Timeout | undefined;
  const tooLong = new Promise<never>((_, reject) => {
    timer = setTimeout(() => reject(new Error(`not delivered within ${DELIVERY_MS / 1000} s`)), DELIVERY_MS);
  });
  try {
    const sending = transport.sendMail({
      from: { name: "Barn Lamp", address: settings.from },
      to,
      subject: message.subject,
      text: message.text,
      html: message.html,
      messageId: `<${id}@${settings.from.split("@")[1]}>`,
      headers: { "Auto-Submitted": "auto-generated" },
    });
    const { response } = await Promise.race([sending, tooLong]);
    return response;
  } finally {
    clearTimeout(timer);
    transport.close();
  }
}
