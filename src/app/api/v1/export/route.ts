import { z } from "zod";
import { parseRfc3339 } from "@/core/time/rfc3339";
import { failure } from "@/server/api/handle";
import { faultsOf, problem } from "@/server/api/problem";
import { exportSamples } from "@/server/services/exports";

const time = z.string().transform((text, context) => {
  const at = parseRfc3339(text);
  if (at !== null) return at;
  context.addIssue({ code: "custom", message: "write an RFC 3339 time" });
  return z.NEVER;
});
const query = z.strictObject({
  metric: z.string().max(200).optional(),
  scope: z.string().max(200).default(""),
  from: time,
  to: time,
  format: z.enum(["csv", "ndjson"]).default("csv"),
});

/** Samples as a file, streamed. */
export async function GET(request: Request) {
  const wanted = query.safeParse(Object.fromEntries(new URL(request.url).searchParams));
  if (wanted.error)
    return problem(422, "Not acceptable as it is", "The query is not valid", faultsOf(wanted.error));
  try {
    const { format } = wanted.data;
    return new Response(await exportSamples(wanted.data), {
      headers: {
        "content-type": format === "csv" ? "text/csv; charset=utf-8; header=present" : "application/x-ndjson",
        "content-disposition": `attachment; filename="samples.${format}"`,
      },
    });
  } catch (error) {
    return failure(error, "exportSamples");
  }
}
