/** What a fact of two values says: `yes` or `true`, `no` or `false`; null for everything else. */
export const flagSaid = (told: string | null): boolean | null => {
  if (told === 'yes' || told === 'true') return true;
  return told === 'no' || told === 'false' ? false : null;
};
