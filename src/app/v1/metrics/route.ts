import { takeOtlp } from "@/server/services/otlp";

export const dynamic = "force-dynamic";

/** OTLP/HTTP, at the path that exporters use unless told otherwise. */
export function POST(request: Request) {
  return takeOtlp(request);
}
