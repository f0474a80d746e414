/** A file that cannot be read, with what is wrong and what to do, for the person who chose it. */
export class FormatError extends Error {
  constructor(
    message: string,
    readonly remedy: string,
  ) {
    super(message);
    this.name = 'FormatError';
  }
}
