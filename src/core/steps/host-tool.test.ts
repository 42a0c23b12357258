import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { hostToolWords, readHostTool } from './host-tool';
import { tries } from '../../../tests/fixtures/soak';

describe('what a host tool prints of itself', () => {
  it.each([
    [
      'writer version 34.0.5-11580240\nInstalled as C:\\tools 2\\writer.exe',
      '34.0.5-11580240',
      'C:\\tools 2\\writer.exe',
      [],
    ],
    ['/usr/bin/writer\nwriter 2.1', '2.1', '/usr/bin/writer', []],
    ['v1.9.2', '1.9.2', null, []],
    ['writer 3.0\n/opt/a/writer\n/home/me/writer', '3.0', '/opt/a/writer', ['/home/me/writer']],
  ])('%s', (printed, version, path, others) =>
    expect(readHostTool(printed)).toEqual({ version, path, others }),
  );

  it('a number in a path is no version', () => expect(readHostTool('/opt/tools-2.1/writer')).toBeNull());
  it('two copies are said', () =>
    expect(hostToolWords({ version: '3.0', path: '/a/writer', others: ['/b/writer'] })).toContain(
      'Another copy lies at /b/writer',
    ));
  it('any text is read without an error', () =>
    fc.assert(
      fc.property(fc.string(), (text) => {
        const tool = readHostTool(text);
        if (tool) expect(tool.version).toMatch(/^\d/);
      }),
      tries(),
    ));
});
