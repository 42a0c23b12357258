import { boolean, number, object, string } from 'yup';
import { EternoError } from '@/core/errors';
import type { ObserveExpectation } from '@/core/observe/expectation';
import { OBSERVED_MODES, OBSERVED_STEPS } from '@/core/observe/expectation';

/* What a step expects, as JSON. */

const text = (most: number) => string().min(1).max(most);

const expectationSchema = object({
  step: string().oneOf(OBSERVED_STEPS).required(),
  mode: string().oneOf(OBSERVED_MODES),
  serial: text(120),
  product: text(120),
  slot: string().oneOf(['a', 'b'] as const),
  partition: text(60),
  lock: string().oneOf(['unlocked', 'locked'] as const),
  image: object({
    sha256: string().matches(/^[0-9a-f]{64}$/i, 'sha256 is 64 hexadecimal digits'),
    size: number().integer().min(0),
    file: text(300),
  })
    .default(undefined)
    .noUnknown(),
  build: object({ fingerprint: text(300), buildId: text(120) })
    .default(undefined)
    .noUnknown(),
  freshWipe: boolean(),
})
  .noUnknown()
  .strict();

/** What is not expected may be left out or null. */
function withoutNulls(value: unknown): unknown {
  if (typeof value !== 'object' || value === null || Array.isArray(value)) return value;
  return Object.fromEntries(
    Object.entries(value)
      .filter(([, one]) => one !== null)
      .map(([key, one]) => [key, withoutNulls(one)]),
  );
}

/** @throws {EternoError} `bad-field` for what is no expectation */
export async function parseObserveExpectation(value: unknown): Promise<ObserveExpectation> {
  return expectationSchema.validate(withoutNulls(value)).catch((thrown: unknown) => {
    throw new EternoError(
      'bad-field',
      thrown instanceof Error ? thrown.message : 'this is no expectation of a step',
    );
  });
}
