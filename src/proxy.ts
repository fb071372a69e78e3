import { type NextRequest, NextResponse } from "next/server";

/** Hosts this instance answers for: loopback, and what BARNLAMP_HOSTS names (behind a reverse proxy, say). */
function isKnownHost(host: string): boolean {
  const name = host.replace(/:\d+$/, "");
  if (name === "localhost" || name === "127.0.0.1" || name === "[::1]") return true;
  return (process.env.BARNLAMP_HOSTS ?? "").split(",").some((known) => known.trim() === name && name !== "");
}

/**
 * Keeps other web sites out. Whoever is on this machine may use Barn Lamp; a page open in their browser may not do so
 * for them, be it by a cross-site request or by a host name that points here (DNS rebinding).
 */
export function proxy(request: NextRequest) {
  const refuse = (detail: string) =>
    NextResponse.json(
      { type: "about:blank", title: "Forbidden", status: 403, detail },
      { status: 403, headers: { "content-type": "application/problem+json" } },
    );
  if (!isKnownHost(request.headers.get("host") ?? ""))
    return refuse("this host name is not known; see BARNLAMP_HOSTS");
  if (request.method !== "GET" && request.method !== "HEAD") {
    const site = request.headers.get("sec-fetch-site");
    if (site === "cross-site" || site === "same-site")
      return refuse("requests from other sites change nothing here");
  }
  return NextResponse.next();
}
