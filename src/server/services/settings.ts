import { eq } from "drizzle-orm";
import { z } from "zod";
import { db } from "../db/connection";
import { settings } from "../db/schema";
import { openSecret, sealSecret } from "../secrets";

/** How notices leave: the mail server, the sender, and the address under which people reach Barn Lamp. */
export const mailSettings = z.strictObject({
  host: z.string().min(1, "name the mail server").max(253),
  port: z.int().min(1).max(65_535),
  /** `starttls` insists on an upgrade; `none` is for a relay on this machine. */
  security: z.enum(["none", "starttls", "tls"]),
  user: z.string().max(200).default(""),
  from: z.email("write a mail address, such as barnlamp@example.org").max(254),
  publicUrl: z.url({
    protocol: /^https?$/,
    error: "write the address of Barn Lamp, such as https://lamp.example.org",
  }),
});
export type MailSettings = z.infer<typeof mailSettings>;

/** As entered: with the password, which is kept sealed and never shown. Left out, the stored one stays. */
export const mailSettingsInput = mailSettings.extend({ password: z.string().max(500).optional() });

const KEY = "mail";
type Stored = MailSettings & { sealedPassword: string | null };

async function stored(): Promise<Stored | null> {
  const [row] = await db().select().from(settings).where(eq(settings.key, KEY));
  return (row?.value as Stored | undefined) ?? null;
}

/** For pages: without the password, only whether there is one. */
export async function readMailSettings(): Promise<(MailSettings & { hasPassword: boolean }) | null> {
  const value = await stored();
  if (!value) return null;
  const { sealedPassword, ...rest } = value;
  return { ...rest, hasPassword: sealedPassword !== null };
}

/** For the sender alone: with the password in clear. */
export async function mailSettingsForSending(): Promise<(MailSettings & { password: string | null }) | null> {
  const value = await stored();
  if (!value) return null;
  const { sealedPassword, ...rest } = value;
  return { ...rest, password: sealedPassword === null ? null : openSecret(sealedPassword) };
}

export async function saveMailSettings(input: z.infer<typeof mailSettingsInput>) {
  const { password, ...rest } = input;
  const before = await stored();
  const sealedPassword =
    password === undefined ? (before?.sealedPassword ?? null) : password === "" ? null : sealSecret(password);
  const value: Stored = { ...rest, sealedPassword };
  await db()
    .insert(settings)
    .values({ key: KEY, value })
    .onConflictDoUpdate({ target: settings.key, set: { value } });
}
