/** Somewhere to go, found by its words. */
export interface FindTarget {
  readonly label: string;
  readonly href: string;
}
