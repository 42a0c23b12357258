import { database } from '@/server/db/connection';
import { closeRound, confirmChecks, confirmProtect, lookAround } from '@/server/rounds/by-hand';
import { pasteAtStep, sayAtStep } from '../fixtures/at-step';
import { updateHandset } from '@/server/repositories/handset-repository';
import { pageResponse } from '@/server/services/pages-service';
import { roundsSaid } from '../fixtures/check-store';
import { begin, stepNow, version, walk } from '../fixtures/lane-walk';
import type { LaneWorld } from '../fixtures/lane-world';
import { laneWorld, SEPTEMBER } from '../fixtures/lane-world';
import { DUMP, VARIABLES } from '../fixtures/server-world';

/*
 * A child that walks a round, over the link or by hand: `link|hand STATEMENT`. With a statement's number it
 * kills itself right before that statement of SQL; with 0 it walks to the end and says what the store says
 * between any two commands.
 */

const [how, at] = process.argv.slice(2);
const killAt = Number(at);
const say = (word: string) => process.stdout.write(`${word}\n`);

const world = await laneWorld();
say(world.dir);
const between = async () => {
  if (killAt === 0) say(`between ${await roundsSaid(world.dir)}`);
};

let statements = 0;
const { sequelize } = await database();
(sequelize as unknown as { readonly options: { logging: unknown } }).options.logging = () => {
  statements += 1;
  if (statements === killAt) process.kill(process.pid, 'SIGKILL');
};

async function byHand(
  { handset, keepPackageOf, keepImagesOf, keepPatched, profile }: LaneWorld,
  round: string,
): Promise<void> {
  await updateHandset(handset, { link: 'hand', profile: null });
  for (;;) {
    await between();
    const step = await stepNow(round);
    const now = await version(round);
    switch (step?.key) {
      case undefined:
        return;
      case 'read-facts':
      case 'start':
        await pasteAtStep(round, now, DUMP);
        break;
      case 'bootloader':
        await pasteAtStep(round, now, VARIABLES);
        break;
      case 'open-installed-package':
        await keepPackageOf(SEPTEMBER);
        break;
      case 'take-stock':
        await keepImagesOf(SEPTEMBER, [profile.rootPartition]);
        break;
      case 'patch':
        await keepPatched(SEPTEMBER);
        break;
      case 'protect':
        await pageResponse(round, 'rescue');
        await between();
        await confirmProtect(round, now, '');
        break;
      case 'check':
        await confirmChecks(
          round,
          now,
          ['tool', 'listed', 'battery', 'room'].map((checkId) => ({ checkId, reason: 'looked at' })),
        );
        break;
      case 'look-around':
        await lookAround(round, now, { data: 'works', calls: 'works', payments: 'not used here' });
        break;
      case 'close':
        await closeRound(round, now);
        break;
      default:
        await sayAtStep(round, now, 'it looks right');
    }
  }
}

await between();
const round = await begin(world, 'first root');
if (how === 'hand') await byHand(world, round);
else await walk(world, round, { between });
await between();
say(`statements ${statements}`);
process.exit(0);
