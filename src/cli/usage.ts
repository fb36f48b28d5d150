/** Bad input on the command line: one line for the person, exit status 2. */
export class UsageError extends Error {}
