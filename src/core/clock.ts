/** Time as a parameter. Everything that waits or looks at the time is given one of these, in milliseconds. */
export interface Clock {
  /** Milliseconds of this clock; only differences mean anything. */
  now(): number;
  /** Runs `work` once `ms` have passed on this clock. @returns what calls it off */
  after(ms: number, work: () => void): () => void;
}

/** Resolves once `ms` have passed on `clock`. */
export const sleep = (clock: Clock, ms: number): Promise<void> =>
  new Promise((resolve) => void clock.after(ms, resolve));
