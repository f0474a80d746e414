/** A mistake of the user's: printed as it is, exit code 2. */
export class UsageError extends Error {}
