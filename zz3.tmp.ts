import { performAll } from '/work/main/demo/world';
import { guessBodyMap, retarget, steadiness, jointOf, PoseReader } from '/work/main/motion/index';
const { actor, performances } = performAll(); const full={rig:actor.rig,map:guessBodyMap(actor.rig)};
for(const name of ['Kneel and scrub','About turn','Sidestep along the rail','Rope haul, noisy capture']){const m=performances.find(p=>p.score.name===name)!.motion; const d=retarget(full,m,full);
 const a=steadiness(full,m),b=steadiness(full,d.motion); console.log(name,'src',a.snap.toFixed(0),a.snapSlot,a.snapFrame,'res',b.snap.toFixed(0),b.snapSlot,b.snapFrame,'jit',a.jitter.toFixed(0),b.jitter.toFixed(0));
 const s=b.snapSlot.slice(-1);const leg=b.snapSlot.startsWith('shin');const J=(leg?['thigh','shin','foot']:['upperArm','forearm','hand']).map(x=>jointOf(full.map,x+s));
 const bend=(p:Float64Array)=>{const u=[0,1,2].map(i=>p[3*J[1]!+i]!-p[3*J[0]!+i]!),v=[0,1,2].map(i=>p[3*J[2]!+i]!-p[3*J[1]!+i]!);return Math.acos(Math.min(1,u.reduce((q,x,i)=>q+x*v[i]!,0)/Math.hypot(...u)/Math.hypot(...v)))*180/Math.PI};
 const A=new PoseReader(full.rig,m),B=new PoseReader(full.rig,d.motion);
 console.log(d.plants.filter(p=>p.part.endsWith(s)&&Math.abs(p.start-b.snapFrame)<60).map(p=>`${p.part}${p.start}-${p.end}`).join(' '));
 for(let f=b.snapFrame-4;f<=b.snapFrame+4;f++){if(f<0||f>=m.frameCount)continue;const pa=A.at(f).p.slice(),pb=B.at(f).p;const e=3*J[2]!;console.log('  ',f,bend(pa).toFixed(2),bend(pb).toFixed(2),[0,1,2].map(k=>(1000*pa[e+k]!).toFixed(1)).join(' '),'|',[0,1,2].map(k=>(1000*pb[e+k]!).toFixed(1)).join(' '),'hip',(1000*pa[1]!).toFixed(1),(1000*pb[1]!).toFixed(1))}}
