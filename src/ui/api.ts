/** A refusal of the API in its own words, with the fields at fault. */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    message: string,
    readonly fields: Record<string, string>,
  ) {
    super(message);
  }
}

/** Calls the API of this server. @throws ApiError, also when the server cannot be reached (status 0) */
export async function api<T>(
  method: "GET" | "POST" | "PATCH" | "PUT" | "DELETE",
  path: string,
  body?: unknown,
): Promise<T> {
  let response: Response;
  try {
    response = await fetch(path, {
      method,
      ...(body === undefined
        ? {}
        : { headers: { "content-type": "application/json" }, body: JSON.stringify(body) }),
    });
  } catch {
    throw new ApiError(0, "Barn Lamp cannot be reached; what you typed is kept here, try again", {});
  }
  if (response.status === 204) return undefined as T;
  const text = await response.text();
  let answer: unknown = null;
  try {
    answer = JSON.parse(text);
  } catch {
    // Not ours; the status has to do.
  }
  if (!response.ok) {
    const {
      detail,
      title,
      errors = [],
    } = (answer ?? {}) as {
      detail?: string;
      title?: string;
      errors?: { field: string; detail: string }[];
    };
    const fields = Object.fromEntries(errors.map((error) => [error.field, error.detail]));
    throw new ApiError(
      response.status,
      detail ?? title ?? `the server answered with status ${response.status}`,
      fields,
    );
  }
  return answer as T;
}

/** Query string of the parameters that have a value. */
export function withParams(path: string, params: Record<string, string | undefined>): string {
  const query = new URLSearchParams(
    Object.entries(params).filter((entry): entry is [string, string] => Boolean(entry[1])),
  );
  return query.size > 0 ? `${path}?${query}` : path;
}

export function rfc3339(at: number): string {
  return new Date(at).toISOString();
}
