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

/**
 * Whether a full package of a build can be had: one was opened here, or the maker's page offers it. Where no page
 * speaks of the handset at all, every build that is known counts.
 */
export function canBeHad({ packages, offered }: Pick<Bench, 'packages' | 'offered'>, build: string): boolean {
  const product = splitFingerprint(build)?.product;
  const speaks = offered !== null && [...offered].some((one) => splitFingerprint(one)?.product === product);
  return (
    !speaks ||
    offered.has(build) ||
    packages.some(({ report }) => !report.incremental && report.build.fingerprint === build)
  );
}
