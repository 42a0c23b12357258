import { wordsBy } from './words-by';

/* Whether the next build can be taken now: what it waits for, and how a person reads it. */

export type ReadinessReason =
  | {
      readonly code:
        'merging' | 'no-kit' | 'no-kit-for-level' | 'only-preview' | 'stock-not-kept' | 'package-unopened';
    }
  | { readonly code: 'kit-failed'; readonly kit: string }
  | { readonly code: 'recovery-unsupported' | 'recovery-unknown'; readonly recovery: string };

/** What it waits for or what is missing, as a part of a sentence. */
export const readinessReasonWords = wordsBy<ReadinessReason>({
  merging: () => 'the last update is still merging',
  'no-kit': () => 'there is no kit in the vault',
  'no-kit-for-level': () => 'no kit supports its platform level yet',
  'only-preview': () => 'only a preview of the kit supports it',
  'stock-not-kept': () => 'the stock image of the installed build is not in the vault',
  'package-unopened': () => 'its package was not opened under Firmware yet',
  'kit-failed': ({ kit }) => `${kit} failed on it`,
  'recovery-unsupported': ({ recovery }) => `${recovery} does not support it yet`,
  'recovery-unknown': ({ recovery }) => `nothing says whether ${recovery} supports it`,
});

const BEGINS = {
  hold: (build: string) => `Hold ${build}: `,
  "can't tell": (build: string) => `Not known yet for ${build}: `,
} as const;

/** @param readiness its build is a build number, null where no newer one is known */
export function readinessWords(readiness: {
  readonly verdict: 'go' | 'hold' | "can't tell" | 'up to date';
  readonly build: string | null;
  readonly reasons: readonly ReadinessReason[];
}): string {
  const { verdict, build, reasons } = readiness;
  if (build === null || verdict === 'up to date') return 'No newer build is known.';
  if (verdict === 'go') return `${build} can be taken.`;
  return `${BEGINS[verdict](build)}${reasons.map(readinessReasonWords).join('; ')}.`;
}
