/** What a service refuses to do, with the words for the person who asked. */
export class ServiceError extends Error {
  constructor(
    readonly status: 404 | 409 | 422,
    message: string,
    /** Name of the field at fault, where it is one. */
    readonly field?: string,
  ) {
    super(message);
  }
}

export function notFound(what: string): ServiceError {
  return new ServiceError(404, `${what} does not exist`);
}

/** PostgreSQL's code for a unique key that is taken. */
export function isTaken(error: unknown): boolean {
  const code =
    (error as { code?: string; cause?: { code?: string } }).cause?.code ?? (error as { code?: string }).code;
  return code === "23505";
}
