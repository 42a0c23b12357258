/* What would prove a step, as a person reads it. */

/** What is to be seen, with the names that it is about. */
export interface Expected {
  readonly see: 'partition' | 'update' | 'build';
  /** Partition and slot, or that it is every image of the build. */
  readonly where: string;
  /** Build number that it is about. */
  readonly build: string;
}

export function expectedWords({ see, where, build }: Expected): string {
  if (see === 'partition') return `${where} read back, with the hash of what was sent.`;
  if (see === 'update') return `The system’s own word that an update to ${build} waits for its start.`;
  return `The running system’s own word, after the next start, that it is ${build}.`;
}
