/** A refusal with a message for the person who sent the input, and the status of an answer over HTTP. */
export class Refused extends Error {
  constructor(
    message: string,
    readonly status = 422,
  ) {
    super(message);
  }
}
