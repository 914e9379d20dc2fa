import { performAll } from '/work/main/demo/world';
import { buildBody } from '/work/main/demo/body-spec';
import { CAST } from '/work/main/demo/cast';
import { guessBodyMap, retarget, reportOf, readFacts } from '/work/main/motion/index';
console.time('perform');const { actor, performances } = performAll();console.timeEnd('perform'); const full={rig:actor.rig,map:guessBodyMap(actor.rig)};
for(const {score,motion} of performances){const {facts}=readFacts(full.rig,full.map,motion);
 const rows=CAST.map(m=>{const b=buildBody(m.spec,m.seed);const r=reportOf(retarget(full,motion,b));return `${m.id[0]} s${r.slip.meanPercentLegPerPlantSecond.toFixed(3)} f${r.floor.maxDepthCm.toFixed(2)} h${r.hover.maxPercentLeg.toFixed(2)} r${r.reach.maxCm.toFixed(1)} d${r.direction.meanDeg.toFixed(1)}/${r.direction.p95Deg.toFixed(1)} j${r.jitter.ratio.toFixed(2)} n${r.snap.ratio.toFixed(2)}`});
 console.log(score.name.padEnd(28),motion.frameCount,'steps',facts.steps,'hip',facts.hipHeightM.low.toFixed(2),facts.hipHeightM.high.toFixed(2),'\n   '+rows.join('\n   '));}
