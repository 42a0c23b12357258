import { EternoError } from '../errors';
import type { ProofLine } from './prove-patch';

/** A result that fails any line of its proof is not kept. @throws {EternoError} `bad-hash` */
export function needProof(proof: readonly ProofLine[], file: string): readonly ProofLine[] {
  const failed = proof.filter(({ ok }) => !ok);
  if (failed.length === 0) return proof;
  throw new EternoError(
    'bad-hash',
    `the changed image failed its proof: ${failed.map(({ check }) => check).join('; ')}`,
    { file },
  );
}
