import { createHash } from 'node:crypto';
import type { ModulesState } from '@/core/handset/state';
import { insertModuleTrials } from '@/server/repositories/module-repository';
import { storeModule } from '@/server/services/module-service';
import { onePiece } from '@/server/services/streams';
import { archiveBytes } from './demo-package';
import { at, BUILDS, fingerprintOf, HANDSETS } from './world';

/* The club's modules: real ZIP files, read by the shelf, and how each did on which build. */

interface DemoModule {
  readonly id: string;
  readonly name: string;
  readonly version: string;
  readonly description: string;
  readonly files: Readonly<Record<string, string>>;
}

export const DEMO_MODULES: readonly DemoModule[] = [
  {
    id: 'lantern',
    name: 'Lantern',
    version: '2.1',
    description: 'keeps the torch warm',
    files: { 'system/etc/lantern.conf': 'warm=1\n', 'install.sh': 'true\n' },
  },
  {
    id: 'trail-fonts',
    name: 'Trail fonts',
    version: '1.4',
    description: 'numerals that read in the rain',
    files: { 'system/fonts/Trail-Regular.ttf': 'font' },
  },
  {
    id: 'quiet-hosts',
    name: 'Quiet hosts',
    version: '3.0',
    description: 'no chatter on the hut line',
    files: { 'system/etc/hosts': '127.0.0.1 localhost\n' },
  },
  {
    id: 'long-exposure',
    name: 'Long exposure',
    version: '0.9',
    description: 'lets the camera hold its shutter',
    files: { 'hook/arm64.so': 'lib', 'late.sh': 'true\n' },
  },
  {
    id: 'gauge-bridge',
    name: 'Gauge bridge',
    version: '1.2',
    description: 'speaks with the trail counters',
    files: { 'vendor/lib/modules/gauge.ko': 'ko', 'early.sh': 'true\n' },
  },
  {
    id: 'dim-hut',
    name: 'Dim hut',
    version: '1.0',
    description: 'a screen for the dark',
    files: { 'system.prop': 'hut.dim=1\n', 'system/etc/lantern.conf': 'warm=0\n' },
  },
  {
    id: 'wide-keys',
    name: 'Wide keys',
    version: '2.0',
    description: 'keys for gloves',
    files: { 'system/usr/keylayout/wide.kl': 'key 1\n' },
  },
  {
    id: 'tide-sync',
    name: 'Tide sync',
    version: '1.1',
    description: 'counts kept through a restart',
    files: { 'hook/arm64.so': 'lib2', 'system/etc/tide.xml': '<t/>' },
  },
];

const MODULES_OF: Readonly<Record<string, readonly string[]>> = {
  ridge: ['lantern', 'trail-fonts', 'long-exposure', 'quiet-hosts', 'wide-keys'],
  'north-gate': ['gauge-bridge', 'lantern', 'dim-hut', 'tide-sync'],
  barn: ['trail-fonts', 'quiet-hosts'],
  saddle: ['lantern', 'wide-keys'],
};

/** The modules of a handset with their versions, as its system tells of them. */
export function modulesOn(handset: string): ModulesState {
  const own = installedOn(handset);
  return {
    on: true,
    ids: own.map(({ id }) => id),
    versions: Object.fromEntries(own.map(({ id, version }) => [id, version])),
  };
}
export const installedOn = (handset: string) =>
  (MODULES_OF[handset] ?? []).map((id) => DEMO_MODULES.find((one) => one.id === id)!);

type Outcome = 'worked' | 'looped' | 'misbehaved';
/** Module, handset, months as in a build number, what it came to, and what was seen. */
const STORY: readonly (readonly [string, number, readonly string[], Outcome, string])[] = [
  ['lantern', 1, ['260305', '260605', '260905', '261005'], 'worked', ''],
  ['trail-fonts', 1, ['260305', '260605', '260905', '261005'], 'worked', ''],
  ['quiet-hosts', 1, ['260605', '260905', '261005'], 'worked', ''],
  ['long-exposure', 1, ['260305'], 'looped', 'named in May: it looped until the kit rested it'],
  ['long-exposure', 1, ['260605', '261005'], 'worked', 'version 0.9, made for it'],
  ['long-exposure', 1, ['260905'], 'misbehaved', 'pictures were green for two days'],
  ['wide-keys', 1, ['261005'], 'worked', ''],
  ['gauge-bridge', 0, ['260905', '261005'], 'worked', ''],
  ['lantern', 0, ['260905', '261005'], 'worked', ''],
  ['dim-hut', 0, ['261005'], 'misbehaved', 'the screen stayed dim by day; Lantern lays over the same file'],
  ['tide-sync', 0, ['260905', '261005'], 'worked', ''],
  ['trail-fonts', 2, ['260301'], 'worked', ''],
  ['quiet-hosts', 2, ['260301'], 'worked', ''],
];
const BY_HANDSET = [BUILDS.northGate, BUILDS.ridge, BUILDS.barn] as const;

export async function recordModules(): Promise<void> {
  for (const { id, name, version, description, files } of DEMO_MODULES) {
    const note = `id=${id}\nname=${name}\nversion=${version}\nversionCode=${Number(version.replace('.', ''))}\nauthor=Hill Club\ndescription=${description}\n`;
    const bytes = await archiveBytes(
      Object.entries({ 'module.prop': note, ...files }).map(([file, text]) => ({
        name: file,
        bytes: new TextEncoder().encode(text),
        stored: false,
      })),
    );
    await storeModule(
      createHash('sha256').update(bytes).digest('hex'),
      onePiece(bytes),
      `${id}-${version}.zip`,
    );
  }
  await insertModuleTrials(
    STORY.flatMap(([module, index, months, outcome, note]) => {
      const handset = HANDSETS[index]!;
      return months.map((month) => {
        const build = BY_HANDSET[index]!.find((one) => one.buildId.includes(month))!;
        return {
          module,
          moduleVersion:
            module === 'long-exposure' && month === '260305'
              ? '0.7'
              : (DEMO_MODULES.find((one) => one.id === module)?.version ?? null),
          fingerprint: fingerprintOf(build, handset.brand),
          handsetId: handset.id,
          roundId: null,
          outcome,
          note,
          at: Math.min(build.publishedAt + 6 * 86_400_000, at('2026-11-09T12:00:00Z')),
        };
      });
    }),
  );
}
