import { randomUUID } from "node:crypto";
import { sendMail } from "../notify/mail";
import { mailSettingsForSending } from "./settings";

/** Sends one mail with the stored settings; what the server said comes back either way. */
export async function sendTestMail(to: string): Promise<{ ok: boolean; detail: string }> {
  const settings = await mailSettingsForSending();
  if (!settings) return { ok: false, detail: "no mail server is set yet; save the settings first" };
  const text = `This is a test. Notices of Barn Lamp at ${settings.publicUrl} reach this address.`;
  const message = { subject: "Barn Lamp: test mail", text: `${text}\n`, html: `<p>${text}</p>` };
  try {
    return {
      ok: true,
      detail: await sendMail(settings, { name: to, address: to }, message, `test-${randomUUID()}`),
    };
  } catch (error) {
    return { ok: false, detail: (error as Error).message };
  }
}
