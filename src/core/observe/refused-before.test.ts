import { describe, expect, it } from 'vitest';
import { refusedBefore } from './refused-before';

describe('a shell that is root', () => {
  it.each([
    ['uid=2000(shell)\nuid=0(root)', true],
    ['$ id\nuid=2000(shell) gid=2000(shell)\n$ su\n# id\nuid=0(root)\nuid=2000(shell)', true],
    ['uid=0(root)', false],
    ['uid=0(root)\nuid=2000(shell)', false],
    ['uid=0(root)\nuid=0(root)', false],
    ['uid=2000(shell)', false],
    ['nothing', false],
  ])('%j was another user before: %s', (text, was) => expect(refusedBefore(text)).toBe(was));
});
