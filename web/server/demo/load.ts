// Fills an empty library with the demo world: the same files a person could drop in, read by the same code.
import { count } from 'drizzle-orm';
import { memberFile, performanceFile } from '../../../demo/build';
import { CAST } from '../../../demo/cast';
import { performAll } from '../../../demo/world';
import { writeBvh } from '../../../motion/index';
import { readFile } from '../../workers/heavy';
import { openDatabase } from '../db/client';
import { castMembers, items, people } from '../db/schema';
import { newId } from '../ids';
import { takeIn } from '../services/intake';

export async function loadDemo(url: string, withWorld: boolean): Promise<void> {
  const { db, pool } = openDatabase(url, 2);
  try {
    const [someone] = await db.select().from(people).limit(1);
    const personId = someone?.id ?? newId();
    if (!someone) await db.insert(people).values({ id: personId, name: 'Ilse Varga', role: 'admin' });
    const [a] = await db.select({ n: count() }).from(items);
    const [b] = await db.select({ n: count() }).from(castMembers);
    if (!withWorld || (a?.n ?? 0) + (b?.n ?? 0) > 0) return;
    console.log('velvet reel · bringing in the demo world');
    for (const member of CAST) {
      const bytes = await memberFile(member);
      const read = await readFile({ bytes, name: `${member.id}.glb` });
      if ('ok' in read)
        await takeIn(db, read.ok, `${member.id}.glb`, bytes.length, personId, {
          cast: { name: member.name, note: member.note },
        });
      else throw new Error(read.refused.message);
    }
    const { actor, performances } = performAll();
    for (const { score, motion } of performances) {
      // BVH knows no faces
      const file = motion.scalars.length > 0 ? 'glb' : 'bvh';
      const bytes =
        file === 'glb'
          ? await performanceFile(CAST[0]!, score.name, motion)
          : new TextEncoder().encode(writeBvh(actor.rig, motion));
      const read = await readFile({ bytes, name: `${score.name}.${file}` });
      if (!('ok' in read)) throw new Error(read.refused.message);
      // the performer's figure is in the cast already
      await takeIn(db, { ...read.ok, figure: null }, `${score.name}.${file}`, bytes.length, personId, {
        item: {
          name: score.name,
          kind: score.kind,
          note: score.note,
          tags: score.tags,
          folder: `Saltmarsh Ferry / ${score.folder}`,
        },
      });
    }
  } finally {
    await pool.end();
  }
}

if (process.argv[1]?.endsWith('load.ts'))
  await loadDemo(process.env.VELVET_DATABASE ?? '', process.env.VELVET_DEMO !== '0');
