/** A kept fact as a person says it. */
export const factValue = (value: string) => (value === 'true' ? 'yes' : value === 'false' ? 'no' : value);
