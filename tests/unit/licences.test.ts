import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';

/* Terms of the packages that Eterno is made with: none comes in unseen (docs/licences.md). */

const PERMISSIVE = ['MIT', 'ISC', 'BSD-3-Clause', 'Apache-2.0', 'Zlib'];
const text = (path: string) => readFileSync(new URL(`../../${path}`, import.meta.url), 'utf8');
const licenceOf = (name: string) =>
  (JSON.parse(text(`node_modules/${name}/package.json`)) as { readonly license: string }).license;
const packages = Object.keys(
  (JSON.parse(text('package.json')) as { readonly dependencies: Record<string, string> }).dependencies,
);
const isPermissive = (licence: string) =>
  licence
    .replaceAll(/[()]/g, '')
    .split(' AND ')
    .every((one) => PERMISSIVE.includes(one));
/** Rows of the table: package, licence, path of its text. */
const rows = [...text('docs/licences.md').matchAll(/^\| (\S+) \| (\S+) \| \[text\]\(\.\.\/(\S+?)\)/gm)].map(
  ([, name, licence, path]) => ({ name: name!, licence: licence!, path: path! }),
);

describe('licences', () => {
  it('that ask for their text to go along are exactly those of the table', () => {
    const asking = packages.filter((name) => !isPermissive(licenceOf(name)));
    expect(rows.map(({ name }) => name).sort()).toEqual(asking.sort());
    expect(rows.length).toBeGreaterThan(0);
  });
  it.each(rows)('$name has its own text beside it', ({ name, licence, path }) => {
    expect(licenceOf(name)).toBe(licence);
    expect(text(path)).toBe(text(`node_modules/${name}/LICENSE`));
  });
  it('the text that the one for packing refers to is there', () =>
    expect(text('licences/gpl-3.0.txt')).toContain('Version 3, 29 June 2007'));
});
