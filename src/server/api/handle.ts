import type { z } from "zod";
import { log } from "../log";
import { ServiceError } from "../services/serviceError";
import { TooManySamplesError } from "../store/read";
import { toJson } from "./json";
import type { Operation } from "./operations";
import { faultsOf, problem } from "./problem";

const BODY_LIMIT = 2 ** 20;
const TITLES = { 404: "Not found", 409: "Conflict", 422: "Not acceptable as it is" } as const;

type Parsed<T> = T extends z.ZodType ? z.output<T> : undefined;

interface Input<O extends Operation> {
  query: Parsed<O["query"]>;
  body: Parsed<O["body"]>;
  params: Parsed<O["params"]>;
}

type RouteContext = { params: Promise<Record<string, string>> };

/** A route handler for one operation: everything that comes in is validated, every failure becomes a problem document. */
export function handle<O extends Operation>(operation: O, work: (input: Input<O>) => Promise<unknown>) {
  return async (request: Request, context: RouteContext): Promise<Response> => {
    try {
      // `?state=` without a value asks for nothing in particular, as if it were left out.
      const given = [...new URL(request.url).searchParams].filter(([, value]) => value !== "");
      const query = operation.query?.safeParse(Object.fromEntries(given));
      if (query?.error) return invalid("The query is not valid", query.error);
      const params = operation.params?.safeParse(await context.params);
      if (params?.error) return problem(404, TITLES[404], "there is nothing at this address");
      let body: z.ZodSafeParseResult<unknown> | undefined;
      if (operation.body) {
        const read = await readJson(request);
        if (read instanceof Response) return read;
        body = operation.body.safeParse(read.json);
        if (body.error) return invalid("The body is not valid", body.error);
      }
      const result = await work({ query: query?.data, body: body?.data, params: params?.data } as Input<O>);
      if (operation.status === 204) return new Response(null, { status: 204 });
      return new Response(toJson(result), {
        status: operation.status,
        headers: { "content-type": "application/json", "cache-control": "no-store" },
      });
    } catch (error) {
      return failure(error, operation.id);
    }
  };
}

function invalid(detail: string, error: z.ZodError): Response {
  return problem(422, TITLES[422], detail, faultsOf(error));
}

async function readJson(request: Request): Promise<{ json: unknown } | Response> {
  const type = request.headers.get("content-type")?.split(";")[0].trim();
  // Insisting on the type also keeps forms of other sites out: they cannot send it without asking first.
  if (type !== "application/json")
    return problem(415, "Unsupported media type", "send application/json", [
      { field: "Content-Type", detail: "application/json" },
    ]);
  const text = await request.text();
  if (text.length > BODY_LIMIT) return problem(413, "Too large", `a body holds at most ${BODY_LIMIT} bytes`);
  try {
    return { json: JSON.parse(text) };
  } catch (error) {
    return problem(400, "Not JSON", (error as Error).message);
  }
}

/** What became of a request, as a problem document. */
export function failure(error: unknown, operation: string): Response {
  if (error instanceof ServiceError)
    return problem(
      error.status,
      TITLES[error.status],
      error.message,
      error.field ? [{ field: error.field, detail: error.message }] : [],
    );
  if (error instanceof TooManySamplesError) return problem(422, TITLES[422], error.message);
  log.error({ operation, error: (error as Error).stack }, "a request failed");
  if (isConnectionFailure(error))
    return problem(503, "The database is away", "try again in a moment; nothing was changed", [], {
      "retry-after": "5",
    });
  return problem(500, "Something went wrong here", "the log of the web process has the details");
}

function isConnectionFailure(error: unknown): boolean {
  for (
    let at = error as { code?: string; message?: string; cause?: unknown } | undefined;
    at;
    at = at.cause as typeof at
  ) {
    // Class 08 and 57P: connection exceptions and shutdown (PostgreSQL's manual, appendix A).
    if (
      /^(ECONN|EPIPE|08|57P)/.test(at.code ?? "") ||
      /timeout exceeded|Connection terminated/.test(at.message ?? "")
    )
      return true;
  }
  return false;
}
