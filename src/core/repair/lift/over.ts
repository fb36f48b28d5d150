/** What lies over a place and lets the picture through: v → gain · v + offset, pixel by pixel. */
export interface Over {
  /** size of what it does over what is left unexplained */
  certainty: number;
  /** what was found, in words */
  told: string;
  /** gain and offset in each channel of a pixel of the box it was asked for; false where it does nothing */
  at(i: number, gain: Float32Array, offset: Float32Array): boolean;
}
