import type { Assumption } from '../words/assumptions';

/** What is taken for granted while a context is made, each said once. */
export class Assumptions {
  readonly said: Assumption[] = [];
  /** `known`, or `otherwise` with what is said of it. */
  take<T>(known: T | null, otherwise: T, assumption: Assumption): T {
    if (known === null) this.said.push(assumption);
    return known ?? otherwise;
  }
  note(holds: boolean, assumption: Assumption): void {
    if (holds) this.said.push(assumption);
  }
}
