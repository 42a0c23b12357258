import type { Due } from '@/core/schedule/dues';
import { dueWords } from '@/core/words/schedule';

/** What is due, on which handset. */
export const dueLine = ({ name, says }: Due): string => `${name}: ${dueWords(says)}`;
