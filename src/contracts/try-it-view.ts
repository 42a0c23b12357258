/** What the demo can be set to the beginning of. */
export interface TryItView {
  /** The piece of work that this world was made for; null for the whole demo world. */
  readonly way: number | null;
  readonly handset: string | null;
  readonly works: readonly {
    readonly n: number;
    readonly sentence: string;
    /** Where it begins; null where this world is of another one. */
    readonly begin: string | null;
    /** Makes the world of it. */
    readonly command: string;
  }[];
}
