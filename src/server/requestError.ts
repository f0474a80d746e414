/** A refusal with a remedy, for the person at the page. */
export class RequestError extends Error {
  constructor(
    message: string,
    readonly remedy: string,
    readonly status = 422,
    /** What the page needs to go on from, beside words. */
    readonly now?: unknown,
    readonly headers?: Record<string, string>,
  ) {
    super(message);
  }
}
