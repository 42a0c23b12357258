import 'server-only';
import type { FindTarget } from '@/contracts/find-target';
import { splitFingerprint } from '@/core/formats/facts/parse-facts';
import { listImages } from '../repositories/image-repository';
import { handsetSummaries } from './bench-service';

/** More than these help nobody: another letter does. */
const MOST_FOUND = 8;
const LONGEST = 200;

/** Handsets and images of the vault by any part of a name, build or hash; handsets first. */
export async function findWords(text: string): Promise<readonly FindTarget[]> {
  const wanted = text.trim().toLowerCase().slice(0, LONGEST);
  if (wanted === '') return [];
  const handsets = (await handsetSummaries()).map(({ id, name, model, build }) => ({
    label: name,
    text: `${name} ${model} ${build ?? ''}`,
    href: `/handsets/${id}`,
  }));
  const images = (await listImages()).map(({ role, partition, fingerprint, sha256 }) => ({
    label: `${role} ${partition} ${fingerprint ? (splitFingerprint(fingerprint)?.id ?? '') : ''}`,
    text: `${partition} ${role} ${fingerprint ?? ''} ${sha256}`,
    href: `/images/${sha256}`,
  }));
  return [...handsets, ...images]
    .filter((target) => target.text.toLowerCase().includes(wanted))
    .slice(0, MOST_FOUND)
    .map(({ label, href }) => ({ label, href }));
}
