/*
 * "Will my data open?": image, system and data patch levels on one line (docs/method.md, "Will the data
 * open").
 */

export interface PatchLevels {
  /** Of the image that is to be written; `yyyy-mm` or `yyyy-mm-dd`. */
  readonly image: string | null;
  readonly system: string | null;
  /** Of the newest build that has run since the last wipe: its keys may be bound to it. */
  readonly data: string | null;
  readonly encrypted: boolean | null;
}

export interface DataVerdict {
  readonly verdict: 'opens' | 'may not open' | "can't tell";
  readonly sentence: string;
}

/** Months since year 0; null where the text is no patch level. */
export function monthOf(level: string | null): number | null {
  const match = level === null ? null : /^(\d{4})-(\d{2})/.exec(level);
  return match ? Number(match[1]) * 12 + Number(match[2]) : null;
}

export function willDataOpen({ image, system, data, encrypted }: PatchLevels): DataVerdict {
  if (encrypted === false)
    return { verdict: 'opens', sentence: 'Data is not encrypted, so no key is bound to a patch level.' };
  const [i, s, d] = [monthOf(image), monthOf(system), monthOf(data)];
  if (i === null || s === null) {
    const missing = [i === null ? 'the image’s' : '', s === null ? 'the system’s' : '']
      .filter((part) => part !== '')
      .join(' and ');
    return { verdict: "can't tell", sentence: `Not known: ${missing} patch level.` };
  }
  if (d !== null && Math.min(i, s) < d) {
    const older = i < d && s < d ? 'Image and system are' : i < d ? 'The image is' : 'The system is';
    return {
      verdict: 'may not open',
      sentence: `${older} older than the newest build that has opened data (${data}): its keys may refuse. If it asks for a wipe, say no; the newer build can still read it.`,
    };
  }
  if (i !== s)
    return {
      verdict: 'may not open',
      sentence: `Image (${image}) and system (${system}) are of different months; some handsets then keep their keys closed.`,
    };
  if (d === null)
    return { verdict: "can't tell", sentence: 'Which builds have opened its data is not known.' };
  return { verdict: 'opens', sentence: 'Image, system and data are of one month or newer.' };
}
