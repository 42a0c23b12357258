import { describe, expect, it } from 'vitest';
import { FINGERPRINT } from '../../../tests/fixtures/images';
import type { InstalledBuild } from '../fit/fit-package';
import { judgeLine, judgeList, lineOfRow, lineOfText } from './listed-builds';

/* The line of a maker's list that is the installed build, and those that only look like it. */

// club/hill_eu/hill:16/HC1.260905.007/9001
const INSTALLED: InstalledBuild = { fingerprint: FINGERPRINT, device: 'hill', patchLevel: '2026-09-05' };
const verdict = (text: string, installed = INSTALLED) => judgeLine(lineOfText(text), installed).verdict;

describe('a line of a list', () => {
  it.each([
    ['16 (HC1.260905.007, Sep 2026)', 'exact'],
    ['hill_eu-HC1.260905.007-whole.zip', 'exact'],
    ['HC1.260905.007.tar.md5', 'exact'],
    // another build of the same month, whatever the eye says
    ['16 (HC1.260905.007.A1, Sep 2026)', 'look-alike'],
    ['16 (HC1.260905.008)', 'look-alike'],
    ['16 (HC1.260905.070)', 'look-alike'],
    ['16 (HC1.260905.O07)', 'look-alike'],
    ['16 (HCl.260905.007)', 'look-alike'],
    ['16 (hc1.260905.007)', 'look-alike'],
    ['16 (HC1.261005.014, Oct 2026)', 'newer'],
    ['16 (HC1.260805.004, Aug 2026)', 'older'],
    ['Terms of use for all handsets, 16 and later', 'no build'],
    ['', 'no build'],
  ])('%s: %s', (text, expected) => expect(verdict(text)).toBe(expected));

  it('is never the one where its label shuts the handset out, or nobody knows whether it does', () => {
    expect(verdict('HC1.260905.007, all but eu')).toBe('shut out');
    expect(verdict('HC1.260905.007, all but us')).toBe('exact');
    expect(verdict('HC1.260905.007 (excluding Orchard Mobile)')).toBe("can't tell");
    const orchard = { ...INSTALLED, region: 'Orchard Mobile' };
    expect(verdict('HC1.260905.007 (excluding Orchard Mobile)', orchard)).toBe('shut out');
    expect(verdict('HC1.260905.007 (excluding Fernwave)', orchard)).toBe('exact');
  });

  it('is known by the incremental too, and by nothing where no build was read', () => {
    const long = { ...INSTALLED, fingerprint: FINGERPRINT.replace('9001', 'HT8KEU5DYF3') };
    expect(verdict('AP_HT8KEU5DYF3_user.tar', long)).toBe('exact');
    expect(verdict('set HT8KEU5DYF3 of region eu', long)).toBe('exact');
    expect(verdict('set HT8KEU5DYF4', long)).toBe('look-alike');
    expect(verdict('HC1.260905.007', { ...INSTALLED, fingerprint: null })).toBe('no build');
  });
});

describe('a table of builds', () => {
  it('has its variant, size and hash in columns of their own', () => {
    const sha256 = 'AB'.repeat(32);
    const line = lineOfRow({
      Build: ' HC1.260905.007 ',
      Product: 'hill_eu',
      'Size (bytes)': '1,234,567',
      'SHA-256': sha256,
      Note: '',
      Released: '2026-09-06',
      'Security patch': '2026-09-05',
      Fingerprint: FINGERPRINT,
    });
    expect(line).toEqual({
      serials: null,
      file: null,
      fingerprint: FINGERPRINT,
      patchLevel: '2026-09-05',
      published: '2026-09-06',
      label: 'HC1.260905.007 hill_eu',
      variant: 'hill_eu',
      sizeBytes: 1_234_567,
      sha256: sha256.toLowerCase(),
    });
    expect(lineOfRow({ Build: 'x', Size: '2 GB', SHA256: 'short' })).toMatchObject({
      variant: null,
      sizeBytes: null,
      sha256: null,
    });
    expect(lineOfText(`HC1 ${sha256}`)).toMatchObject({ label: 'HC1', sha256: sha256.toLowerCase() });
  });

  it('says which line is the one, where exactly one is', () => {
    const row = (Build: string, Variant: string) => lineOfRow({ Build, Variant });
    const { lines, exact } = judgeList(
      [row('HC1.260905.007', 'hill_us'), row('HC1.260905.007', 'Hill_EU'), row('HC1.261005.014', 'hill_eu')],
      INSTALLED,
    );
    expect(lines.map((one) => one.verdict)).toEqual(['other variant', 'exact', 'newer']);
    expect(exact).toBe(1);
    expect(judgeList([lineOfText('HC1.261005.014')], INSTALLED).exact).toBeNull();
    const twice = [lineOfText('HC1.260905.007 a'), lineOfText('HC1.260905.007 b')];
    expect(judgeList(twice, INSTALLED).exact).toBeNull();
    // one for everybody and one for all but a carrier: which of them it is depends on that
    const open = [lineOfText('HC1.260905.007'), lineOfText('HC1.260905.007, all but Orchard')];
    expect(judgeList(open, INSTALLED).exact).toBeNull();
    expect(judgeList(open, { ...INSTALLED, region: 'Orchard' }).exact).toBe(0);
  });
});

describe('a line that names serials', () => {
  const row = (serials: string) => lineOfRow({ build: 'HC1.260905.007', serials, size: '12', file: 'x.zip' });
  it.each([
    ['HN7*', 'HN7Q2', 'exact'],
    ['hn7', 'HN7Q2', 'exact'],
    ['AA1, HN7*', 'HN7Q2', 'exact'],
    ['all', 'HN7Q2', 'exact'],
    ['', null, 'exact'],
    ['HN8*', 'HN7Q2', 'shut out'],
    ['HN7Q22', 'HN7Q2', 'shut out'],
    ['HN7*', null, "can't tell"],
  ] as const)('for %s, and the handset’s is %s: %s', (serials, serial, expected) => {
    const judged = judgeLine(row(serials), INSTALLED, serial);
    expect(judged.verdict).toBe(expected);
    expect(JSON.stringify(judged.says)).not.toContain('HN7Q');
  });
  it('is read without them', () => expect(row('HN7*').label).toBe('HC1.260905.007 x.zip'));
});
