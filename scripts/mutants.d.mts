export interface Mutant {
  readonly file: string;
  readonly kind: 'comparison' | 'dropped check' | 'off by one' | 'swapped slot' | 'dropped term';
  /** Characters of the file from here to there are replaced by `text`. */
  readonly start: number;
  readonly end: number;
  readonly text: string;
}
export function mutantsOf(file: string): Mutant[];
export function planted(content: string, mutant: Pick<Mutant, 'start' | 'end' | 'text'>): string;
export function compiler(configPath?: string): (mutant: Mutant) => boolean;
