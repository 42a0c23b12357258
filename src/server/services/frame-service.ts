import 'server-only';
import type { HandsetSummary } from '@/contracts/handset-view';
import { splitFingerprint } from '@/core/formats/facts/parse-facts';
import { listImages } from '../repositories/image-repository';
import { vaultSize } from '../vault/vault';
import { now } from './clock';
import { handsetSummaries } from './bench-service';
import { newestMessageId } from './message-bus';

export interface FrameView {
  readonly now: number;
  readonly since: number;
  readonly handsets: readonly HandsetSummary[];
  readonly targets: readonly { readonly label: string; readonly text: string; readonly href: string }[];
  readonly vault: { readonly files: number; readonly bytes: number };
}

/** What the frame around every room shows. */
export async function frameView(): Promise<FrameView> {
  const handsets = await handsetSummaries();
  const images = (await listImages()).map((image) => {
    const build = image.fingerprint ? (splitFingerprint(image.fingerprint)?.id ?? '') : '';
    return {
      label: `${image.role} ${image.partition} ${build}`,
      text: `${image.partition} ${image.role} ${image.fingerprint ?? ''} ${image.sha256}`,
      href: `/images/${image.sha256}`,
    };
  });
  const targets = [
    ...handsets.map(({ id, name, model, build }) => ({ label: name, text: `${name} ${model} ${build ?? ''}`, href: `/handsets/${id}` })),
    ...images,
  ];
  return { now: now(), since: newestMessageId(), handsets, targets, vault: await vaultSize() };
}
