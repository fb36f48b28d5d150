/** Kinds of fault whose removal changes what a picture shows, beyond dust and damage. */
const CONTENT = ['object', 'lettering', 'strand', 'mesh', 'shadow', 'glare'];

/**
 * Whether a job's policy lets a kind of fault be repaired. A documentary job leaves the scene as it was: only dust,
 * scratches and marks of the print or the sensor may go (common practice).
 */
export const mayRepair = (policy: string, kind: string): boolean => policy !== 'documentary' || !CONTENT.includes(kind);
