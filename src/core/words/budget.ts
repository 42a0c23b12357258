import { wordsBy } from './words-by';

/* Whether battery and disk last for a round, as a person reads it. */

export type BudgetSays =
  | {
      readonly code: 'battery';
      /** Percent to begin with, used by the steps, and below which nothing is written. */
      readonly need: number;
      readonly drain: number;
      readonly least: number;
      readonly minutes: number;
      /** Null where it was not read. */
      readonly has: number | null;
    }
  /** Bytes; `free` is null where it was not read. */
  | { readonly code: 'room'; readonly need: number; readonly free: number | null };

export const BUDGET_TITLES: Readonly<Record<BudgetSays['code'], string>> = {
  battery: 'Battery',
  room: 'Room here',
};

const GIB = 2 ** 30;
const size = (bytes: number) =>
  bytes < 10 * GIB ? `${Math.ceil(bytes / 2 ** 20)} MiB` : `${Math.floor(bytes / GIB)} GiB`;

export const budgetWords = wordsBy<BudgetSays>({
  battery: ({ need, drain, least, minutes, has }) =>
    [
      `Have ${need} % or more: the steps take up to ${minutes} min and may use ${drain} %, and below ${least} % Eterno writes nothing.`,
      has === null
        ? 'Look at the handset: its charge is not known here.'
        : `It has ${has} %${has >= need ? '.' : `: charge it by ${need - has} % first.`}`,
    ].join(' '),
  room: ({ need, free }) =>
    free === null
      ? `The vault needs ${size(need)} more.`
      : `The vault needs ${size(need)} more; ${size(free)} are free.`,
});
