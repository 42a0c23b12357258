import { baseName } from './package-files';

/*
 * What a part of a firmware set is for, by what lies in it and by its name (docs/formats.md, "Tar sets").
 */

export type SetRole = 'bootloader' | 'system' | 'modem' | 'region-wipe' | 'region-keep' | 'data' | 'unknown';

/** A file in a part, as far as its role goes. */
export interface RoleMember {
  /** Without folders, packing and ending. */
  readonly stem: string;
  /** Its ending without packing, in lower case: `img`, `bin`, `pit`. */
  readonly ending: string;
}

const SYSTEM = new Set(['boot', 'init_boot', 'recovery', 'vbmeta', 'super']);
const REGION = new Set(['cache', 'prism', 'optics', 'omr', 'hidden', 'carrier', 'preload']);
const MODEM = /^(modem|radio|baseband|cp)([_-]|$)/;
const BOOTLOADER = /^(bootloader|param|[ax]bl|aboot|lk|preloader|tz|hyp|keystorage|keymaster)([_-]|$)/;
const DATA = /^(userdata|user_data|data)$/;

const NAME = /^(.+?)\.([A-Za-z0-9]+(?:\.ext4)?)(\.lz4)?$/;
/** A member by its path in the archive. */
export function roleMember(path: string): RoleMember {
  const base = baseName(path);
  const [, stem = base, ending = ''] = NAME.exec(base) ?? [];
  return { stem, ending: ending.toLowerCase() };
}

const stemOf = ({ stem }: RoleMember) => stem.toLowerCase();
export const isTable = ({ ending }: RoleMember) => ending === 'pit';
export const isData = (member: RoleMember) => DATA.test(stemOf(member));

/** What lies in a part, sorted by what it is for. */
export interface RoleContent {
  readonly system: readonly string[];
  readonly region: readonly string[];
  readonly modem: readonly string[];
  readonly bootloader: readonly string[];
  readonly data: readonly string[];
  readonly tables: readonly string[];
  /** Nothing else is in it. */
  readonly dataAlone: boolean;
}

export function contentOf(members: readonly RoleMember[]): RoleContent {
  const named = (test: (member: RoleMember) => boolean) => members.filter(test).map(({ stem }) => stem);
  const data = named(isData);
  return {
    system: named((one) => SYSTEM.has(stemOf(one))),
    region: named((one) => REGION.has(stemOf(one))),
    modem: named((one) => MODEM.test(stemOf(one))),
    bootloader: named((one) => BOOTLOADER.test(stemOf(one))),
    data,
    tables: named(isTable),
    dataAlone: data.length > 0 && data.length === members.length,
  };
}

/** By what lies in it; null where that tells nothing. */
export function roleByContent(content: RoleContent): SetRole | null {
  const { system, region, modem, bootloader, data, tables, dataAlone } = content;
  if (system.length > 0) return 'system';
  if (region.length > 0) return data.length > 0 || tables.length > 0 ? 'region-wipe' : 'region-keep';
  if (dataAlone) return 'data';
  if (modem.length > 0) return 'modem';
  return bootloader.length > 0 ? 'bootloader' : null;
}

const BY_TOKEN: Readonly<Record<string, SetRole>> = {
  BL: 'bootloader',
  AP: 'system',
  CP: 'modem',
  CSC: 'region-wipe',
  HOME_CSC: 'region-keep',
  USERDATA: 'data',
};
const TOKEN = /^(HOME_CSC|BL|AP|CP|CSC|USERDATA)_([^_]*?)(?:\.tar(?:\.md5)?)?(?:_|$)/i;

/** What a part's file name says: its leading token, and the build behind that; nothing where it begins otherwise. */
export function nameOf(fileName: string): {
  readonly token: string | null;
  readonly role: SetRole | null;
  readonly build: string | null;
} {
  const match = TOKEN.exec(baseName(fileName));
  if (!match) return { token: null, role: null, build: null };
  const token = match[1]!.toUpperCase();
  // a browser that finds the name taken adds a number to it
  const build = match[2]!.replace(/\s*\(\d+\)$/, '');
  return { token, role: BY_TOKEN[token]!, build: build === '' ? null : build };
}

export const isRegion = (role: SetRole): boolean => role === 'region-wipe' || role === 'region-keep';

/** As a person reads it, behind "a" or "the". */
export const ROLE_WORDS: Readonly<Record<SetRole, string>> = {
  bootloader: 'bootloader part',
  system: 'system archive',
  modem: 'modem part',
  'region-wipe': 'region part that erases',
  'region-keep': 'region part that keeps',
  data: 'data part',
  unknown: 'part of unknown use',
};
