import { createCipheriv, createDecipheriv, randomBytes } from "node:crypto";
import fs from "node:fs";

/**
 * Credentials at rest: AES-256-GCM (NIST SP 800-38D) with a key that lives in a file outside the database, named by
 * BARNLAMP_KEY_FILE and made on first use. A stolen database dump alone opens nothing.
 */
function key(): Buffer {
  const file = process.env.BARNLAMP_KEY_FILE;
  if (!file)
    throw new Error("BARNLAMP_KEY_FILE is not set: it names the file with the key for stored credentials");
  try {
    // `wx` fails when the file exists, so two processes that start at once agree on one key.
    fs.writeFileSync(file, randomBytes(32).toString("base64"), { mode: 0o600, flag: "wx" });
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== "EEXIST") throw error;
  }
  const bytes = Buffer.from(fs.readFileSync(file, "utf8").trim(), "base64");
  if (bytes.length !== 32)
    throw new Error("the key file named by BARNLAMP_KEY_FILE does not hold a 256-bit key");
  return bytes;
}

export function sealSecret(secret: string): string {
  const nonce = randomBytes(12);
  const cipher = createCipheriv("aes-256-gcm", key(), nonce);
  const sealed = Buffer.concat([cipher.update(secret, "utf8"), cipher.final()]);
  return `v1.${Buffer.concat([nonce, cipher.getAuthTag(), sealed]).toString("base64")}`;
}

/** @throws Error when the text was sealed with another key or was changed since */
export function openSecret(sealed: string): string {
  const [version, body] = sealed.split(".");
  if (version !== "v1" || !body) throw new Error("the stored credential has an unknown form");
  const bytes = Buffer.from(body, "base64");
  const decipher = createDecipheriv("aes-256-gcm", key(), bytes.subarray(0, 12));
  decipher.setAuthTag(bytes.subarray(12, 28));
  return decipher.update(bytes.subarray(28), undefined, "utf8") + decipher.final("utf8");
}
