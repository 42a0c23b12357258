/* What is often changed for a while beside a step, and forgotten. Each is also what the list of put-backs says. */

export const USUAL_CHANGES = [
  'Apps from outside the store may be installed',
  'The screen lock is off',
  'Wi-Fi is off',
  'The handset does not go to sleep',
] as const;
