import { expect } from 'vitest';

/*
 * Bytes are compared as bytes: the general comparison looks at every index as at a property, and takes
 * seconds over an image.
 */

expect.addEqualityTesters([
  (a: unknown, b: unknown) =>
    a instanceof Uint8Array && b instanceof Uint8Array ? Buffer.compare(a, b) === 0 : undefined,
]);
