import { CollectError } from "../collector";
import { networkError } from "../networkError";

/** What a failure of PostgreSQL means, in words that name what to do. Codes: PostgreSQL's manual, appendix A. */
export function postgresqlError(error: unknown, where: string, timeoutMs: number): CollectError {
  if (error instanceof CollectError) return error;
  const { code, message } = error as { code?: string; message: string };
  switch (code) {
    case "28P01":
      return new CollectError("credential", `${where} does not accept this user and password`);
    case "28000":
      return new CollectError("credential", `${where} lets this user not in: ${message}`);
    case "3D000":
      return new CollectError("database", `${where}: ${message}`);
    case "42501":
      return new CollectError(
        "rights",
        `a right is missing: ${message}; grant the role pg_monitor to this user`,
      );
    case "57P03":
      return new CollectError("refused", `${where} is starting up or shutting down`);
    case "57014":
      return new CollectError("timeout", `${where} took longer than ${timeoutMs / 1000} s to answer a query`);
    case "53300":
      return new CollectError("refused", `${where} has no connection left: ${message}`);
    case "25006":
      return new CollectError(
        "query",
        `the query tries to write, and runs in a read-only transaction: ${message}`,
      );
  }
  if (code?.startsWith("42") || code?.startsWith("22"))
    return new CollectError("query", `${where}: ${message}`);
  if (/timeout expired|query read timeout/i.test(message))
    return new CollectError("timeout", `${where} did not answer within ${timeoutMs / 1000} s`);
  if (/does not support SSL/i.test(message)) return new CollectError("tls", `${where} does not speak TLS`);
  if (/password must be a string/i.test(message))
    return new CollectError("credential", `${where} asks for a password; fill it in`);
  if (/Connection terminated/i.test(message))
    return new CollectError("closed", `${where} closed the connection before it had answered`);
  return networkError(error, where, timeoutMs) ?? new CollectError("failed", `${where}: ${message}`);
}
