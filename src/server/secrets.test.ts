import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import fc from "fast-check";
import { afterAll, beforeEach, describe, expect, it } from "vitest";
import { openSecret, sealSecret } from "./secrets";

const folder = fs.mkdtempSync(path.join(os.tmpdir(), "barnlamp-secrets-"));
afterAll(() => fs.rmSync(folder, { recursive: true }));
let made = 0;
beforeEach(() => {
  process.env.BARNLAMP_KEY_FILE = path.join(folder, `key-${++made}`);
});

describe("sealed secrets", () => {
  it("open to what they were, and never look the same twice", () => {
    fc.assert(
      fc.property(fc.string({ unit: "grapheme" }), (secret) => {
        const sealed = sealSecret(secret);
        expect(openSecret(sealed)).toBe(secret);
        expect(sealSecret(secret)).not.toBe(sealed);
        if (secret.length > 3) expect(sealed).not.toContain(secret);
      }),
    );
  });
  it("do not open once a single bit was changed", () => {
    const bytes = Buffer.from(sealSecret("the password").slice(3), "base64");
    for (let i = 0; i < bytes.length; i++) {
      const changed = Buffer.from(bytes);
      changed[i] ^= 1;
      expect(() => openSecret(`v1.${changed.toString("base64")}`)).toThrow();
    }
  });
  it("do not open with another key, nor in another form", () => {
    const sealed = sealSecret("x");
    process.env.BARNLAMP_KEY_FILE = path.join(folder, "another");
    expect(() => openSecret(sealed)).toThrow();
    expect(() => openSecret("v2.abc")).toThrow(/unknown form/);
    expect(() => openSecret("plain")).toThrow(/unknown form/);
  });
  it("keep their key to its owner, make it once, and refuse a broken one", () => {
    const sealed = sealSecret("kept");
    const file = process.env.BARNLAMP_KEY_FILE!;
    expect(fs.statSync(file).mode & 0o077).toBe(0);
    expect(openSecret(sealed)).toBe("kept");
    fs.writeFileSync(file, "short");
    expect(() => sealSecret("y")).toThrow(/256-bit/);
    delete process.env.BARNLAMP_KEY_FILE;
    expect(() => sealSecret("z")).toThrow(/BARNLAMP_KEY_FILE is not set/);
  });
});
