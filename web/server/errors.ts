/** What a caller may be told. Everything else is answered with a plain 500 and kept in the log. */
export class Refusal extends Error {
  override readonly name = 'Refusal';

  constructor(
    readonly status: 400 | 401 | 403 | 404 | 405 | 409 | 413 | 422 | 429 | 502 | 507,
    readonly code: string,
    message: string,
    /** What a page needs to show more than the sentence. */
    readonly details?: Record<string, unknown>,
  ) {
    super(message);
  }
}

export const notFound = (what: string): Refusal => new Refusal(404, 'not-found', `${what} no longer exists.`);
