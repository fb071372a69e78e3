import { CollectError } from "./collector";

const TLS_MEANING: Record<string, string> = {
  DEPTH_ZERO_SELF_SIGNED_CERT: "its certificate is self-signed",
  SELF_SIGNED_CERT_IN_CHAIN: "its certificate chain ends in a self-signed certificate",
  UNABLE_TO_VERIFY_LEAF_SIGNATURE: "the authority that signed its certificate is not known here",
  UNABLE_TO_GET_ISSUER_CERT_LOCALLY: "the authority that signed its certificate is not known here",
  CERT_HAS_EXPIRED: "its certificate has expired",
  CERT_NOT_YET_VALID: "its certificate is not valid yet",
  ERR_TLS_CERT_ALTNAME_INVALID: "its certificate was made for another host name",
};

/** Turns what Node.js says of a failed connection into words; null when it is no matter of the network. */
export function networkError(error: unknown, where: string, timeoutMs: number): CollectError | null {
  const causes: { name?: string; code?: string; message?: string }[] = [];
  for (let at = error as { cause?: unknown } | undefined; at && causes.length < 5; at = at.cause as typeof at)
    causes.push(at as (typeof causes)[number]);
  // A name that has several addresses fails with one error for each.
  const inner =
    (error as { cause?: { errors?: unknown[] } }).cause?.errors?.[0] ??
    (error as { errors?: unknown[] }).errors?.[0];
  if (inner) causes.push(inner as (typeof causes)[number]);

  if (
    causes.some(
      (cause) =>
        cause.name === "TimeoutError" ||
        cause.name === "AbortError" ||
        cause.code === "ETIMEDOUT" ||
        cause.code === "UND_ERR_CONNECT_TIMEOUT",
    )
  )
    return new CollectError("timeout", `${where} did not answer within ${timeoutMs / 1000} s`);
  for (const { code = "", message = "" } of causes) {
    if (TLS_MEANING[code]) return new CollectError("tls", `${where} cannot be trusted: ${TLS_MEANING[code]}`);
    if (code === "ERR_SSL_WRONG_VERSION_NUMBER" || code === "EPROTO" || /wrong version number/i.test(message))
      return new CollectError("tls", `${where} does not speak TLS; is it http:// rather than https://?`);
    if (code.startsWith("ERR_SSL") || code.startsWith("ERR_TLS"))
      return new CollectError("tls", `the TLS handshake with ${where} failed (${code})`);
    // The Fetch standard's list of ports that belong to other protocols.
    if (message === "bad port")
      return new CollectError(
        "address",
        `the port of ${where} is reserved for another protocol; choose another`,
      );
    switch (code) {
      case "ECONNREFUSED":
        return new CollectError("refused", `${where} refused the connection: nothing listens there`);
      case "ENOTFOUND":
      case "EAI_AGAIN":
      case "EAI_NONAME":
        return new CollectError("unknown-host", `the host name in ${where} is not known`);
      case "EHOSTUNREACH":
      case "ENETUNREACH":
      case "EADDRNOTAVAIL":
        return new CollectError("unreachable", `there is no way to ${where} from this machine`);
      case "ECONNRESET":
      case "EPIPE":
      case "UND_ERR_SOCKET":
        return new CollectError("closed", `${where} closed the connection before it had answered`);
    }
  }
  return null;
}
