import 'server-only';
import { factWord } from '@/core/facts/catalogue';
import { passportText } from '@/core/sharing/passport-text';
import { wayBackWords } from '@/core/words/way-back';
import { handsetDetail } from './handset-service';
import { privateValuesOf } from './private-values';
import { rootWords } from '@/core/words/root';

/** A handset's passport as a Markdown file that can be shown to others. @throws {EternoError} `not-found` */
export async function passportResponse(id: string): Promise<Response> {
  const handset = await handsetDetail(id);
  const text = passportText(
    {
      name: handset.name,
      model: handset.model,
      root: `root: ${handset.root}`,
      facts: handset.facts.map(({ group, label, value, said, contradiction }) => ({
        group,
        label,
        value: factWord(value),
        said,
        contradicted: contradiction !== null,
      })),
      slots: handset.slots.map(({ slot, partition, role, kit, build, sha256, verdict }) => ({
        slot,
        partition,
        holds:
          sha256 === null
            ? 'its own stock image'
            : `${role === 'patched' ? `patched by ${kit}` : (role ?? 'unknown')} ${build ?? ''} ${sha256}`,
        verdict,
      })),
      seats: [
        `Root sits in ${handset.rootPartition.partition ?? 'a partition not known'}: ${rootWords(handset.rootPartition.because)}`,
        `Way back to stock: ${wayBackWords(handset.wayBack.says)}`,
      ],
    },
    await privateValuesOf(id),
  );
  return new Response(text, {
    headers: {
      'content-type': 'text/markdown; charset=utf-8',
      'content-disposition': 'attachment; filename="passport.md"',
      'cache-control': 'no-store',
    },
  });
}
