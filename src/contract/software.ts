/** What made a file, as metadata and records say; the number is that of package.json. */
export const SOFTWARE = 'Tersum 0.1.0';
