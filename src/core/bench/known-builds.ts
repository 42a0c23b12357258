import { splitFingerprint } from '../formats/facts/parse-facts';
import type { Bench, Subject } from './bench';

/** Builds of this handset that are known, the oldest first. */
export function knownBuilds(
  { facts }: Pick<Subject, 'facts'>,
  { builds }: Pick<Bench, 'builds'>,
): readonly string[] {
  const { fingerprint } = facts.typed;
  const product = fingerprint === null ? undefined : splitFingerprint(fingerprint)?.product;
  return [...builds]
    .filter((build) => build.product === product)
    .sort((a, b) => a.publishedAt - b.publishedAt)
    .map((build) => build.fingerprint);
}
