/** The parts of the Handset room, as the address names them. */
export const PARTS = ['passport', 'slots', 'ways', 'fits', 'wipe', 'records'] as const;
export type Part = (typeof PARTS)[number];

export const partOf = (text: string | readonly string[] | undefined): Part =>
  PARTS.find((part) => part === text) ?? 'passport';
