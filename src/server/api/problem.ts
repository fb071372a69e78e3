import type { z } from "zod";

export interface FieldFault {
  field: string;
  detail: string;
}

/** An error answer as RFC 9457 ("Problem Details for HTTP APIs") has it, with the fields at fault. */
export function problem(
  status: number,
  title: string,
  detail: string,
  errors: FieldFault[] = [],
  headers: Record<string, string> = {},
): Response {
  const body = { type: "about:blank", title, status, detail, ...(errors.length > 0 ? { errors } : {}) };
  return new Response(JSON.stringify(body), {
    status,
    headers: { "content-type": "application/problem+json", "cache-control": "no-store", ...headers },
  });
}

export function faultsOf(error: z.ZodError): FieldFault[] {
  return error.issues.map((issue) => ({
    field: [...issue.path, ...(issue.code === "unrecognized_keys" ? [issue.keys[0]] : [])].join("."),
    detail: issue.code === "unrecognized_keys" ? "is not known here" : issue.message,
  }));
}
