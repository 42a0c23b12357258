import { rmSync } from 'node:fs';
import { environment, makeDemo } from '../../scripts/stack.mjs';
import { WORLD_DIR } from './world-dir';

/** Makes the small world once; every journey works on a copy of it. */
export default function makeWorld(): void {
  rmSync(WORLD_DIR, { recursive: true, force: true });
  makeDemo(environment(WORLD_DIR, { ETERNO_DEMO_SYSTEM_MIB: '12' }));
}
