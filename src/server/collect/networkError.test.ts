import { describe, expect, it } from "vitest";
import { networkError } from "./networkError";

const told = (error: unknown) => {
  const made = networkError(error, "berth-db:9100", 2500);
  return made && [made.kind, made.message];
};
const withCode = (code: string, message = "") => Object.assign(new Error(message), { code });
/** As `fetch` wraps what happened beneath it. */
const fetched = (cause: unknown) => new TypeError("fetch failed", { cause });

describe("failures of the network, in words", () => {
  it("are found however deep they lie", () => {
    expect(told(withCode("ECONNREFUSED"))).toEqual([
      "refused",
      "berth-db:9100 refused the connection: nothing listens there",
    ]);
    expect(told(fetched(withCode("ECONNREFUSED")))?.[0]).toBe("refused");
    expect(told(fetched(new AggregateError([withCode("ECONNREFUSED")], "all failed")))?.[0]).toBe("refused");
  });
  it("each have their own message", () => {
    const cases: [string, string][] = [
      ["ENOTFOUND", "unknown-host"],
      ["EAI_AGAIN", "unknown-host"],
      ["EHOSTUNREACH", "unreachable"],
      ["ENETUNREACH", "unreachable"],
      ["ECONNRESET", "closed"],
      ["UND_ERR_SOCKET", "closed"],
      ["ETIMEDOUT", "timeout"],
      ["UND_ERR_CONNECT_TIMEOUT", "timeout"],
      ["CERT_HAS_EXPIRED", "tls"],
      ["DEPTH_ZERO_SELF_SIGNED_CERT", "tls"],
      ["ERR_TLS_CERT_ALTNAME_INVALID", "tls"],
      ["ERR_SSL_WRONG_VERSION_NUMBER", "tls"],
      ["EPROTO", "tls"],
      ["ERR_SSL_TLSV1_ALERT_UNKNOWN_CA", "tls"],
    ];
    const messages = cases.map(([code, kind]) => {
      const [found, message] = told(fetched(withCode(code)))!;
      expect(found, code).toBe(kind);
      expect(message).toContain("berth-db:9100");
      return message;
    });
    expect(new Set(messages).size).toBeGreaterThanOrEqual(9);
  });
  it("tell how long was waited", () => {
    const timeout = Object.assign(new Error("aborted"), { name: "TimeoutError" });
    expect(told(timeout)).toEqual(["timeout", "berth-db:9100 did not answer within 2.5 s"]);
  });
  it("are not made up for what is no matter of the network", () => {
    expect(told(new Error("something else"))).toBeNull();
    expect(told(fetched(new Error("body used already")))).toBeNull();
  });
});
