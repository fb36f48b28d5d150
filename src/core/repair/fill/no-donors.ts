/** Thrown where nothing in reach may be taken: whoever asked looks farther, or says so. */
export class NoDonorsInReach extends Error {
  constructor() {
    super('no donors');
  }
}
