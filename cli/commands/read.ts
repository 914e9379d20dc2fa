import {
  angleBetween,
  closeLoop,
  findLoops,
  findPairing,
  fitProfile,
  MotionError,
  PoseReader,
  pairingSummary,
  readFacts,
  resample,
  scoreFit,
  seamOf,
  sketchFit,
  suggestWords,
  trim,
} from '../../motion/index';
import { firstClip, load, outFormat, party, save } from '../files';
import { type Options, readWhole } from '../options';
import { UsageError } from '../usage';

type Print = (text: string) => void;
const round = (x: number, digits = 3): number => Number(x.toFixed(digits));

export async function cycle(files: string[], options: Options, print: Print): Promise<void> {
  const format = options.out === undefined ? undefined : outFormat(options.out, '--out');
  const file = await load(files[0]!, options);
  const clip = firstClip(file, files[0]!);
  const self = party(file);
  const start = readWhole(options.start, 'start');
  const end = readWhole(options.end, 'end');
  if ((start === undefined) !== (end === undefined)) throw new UsageError('--start and --end go together');
  const loops = start === undefined ? findLoops(self, clip.motion) : [];
  const seamJson = (s: ReturnType<typeof seamOf>) => ({
    angleDeg: round(s.angleDeg),
    joint: s.joint,
    distanceCm: round(100 * s.distanceM),
    distancePercentLeg: round(s.distancePercentLeg),
    speedStepPercent: round(100 * s.speedStep),
  });
  const answer: Record<string, unknown> = {
    loops: loops.map((l) => ({
      start: l.start,
      end: l.end,
      steps: l.steps,
      repeats: l.repeats,
      apartPercentLeg: round(l.apartPercentLeg),
      seam: seamJson(l.seam),
    })),
  };
  if (format) {
    const from = start ?? loops[0]?.start;
    const to = end ?? loops[0]?.end;
    if (from === undefined || to === undefined)
      throw new MotionError(
        'bad-argument',
        'No two frames of it are alike enough to loop; name a stretch with --start and --end.',
        { file: files[0]! },
      );
    const closed = closeLoop(self, trim(file.rig, clip.motion, from, to));
    const warnings = await save(
      options.out!,
      format,
      { rig: file.rig, figure: file.figure, clips: [{ name: clip.name, motion: closed }] },
      options,
    );
    Object.assign(answer, {
      out: options.out,
      start: from,
      end: to,
      frames: closed.frameCount,
      seam: seamJson(seamOf(self, closed)),
      warnings,
    });
  }
  if (options.json) return print(JSON.stringify(answer, null, 2));
  for (const l of loops)
    print(
      `frames ${l.start} to ${l.end}: ${l.repeats ? 'a period' : 'a pair of frames'}, ${l.steps} steps, ${l.seam.angleDeg.toFixed(1)}° and ${l.seam.distancePercentLeg.toFixed(1)} % of the leg apart`,
    );
  if (loops.length === 0 && start === undefined) print('no two frames are alike enough to loop');
  if (format) print(`${options.out} written`);
}

export async function analyse(files: string[], options: Options, print: Print): Promise<void> {
  const file = await load(files[0]!, options);
  firstClip(file, files[0]!);
  const self = party(file);
  const clips = file.clips.map(({ name, motion }) => {
    const { facts, contacts } = readFacts(file.rig, file.map, motion, undefined, self.pose);
    const { words, props } = suggestWords(self, motion, contacts);
    return {
      name,
      facts,
      plants: contacts.plants,
      words: words.map((w) => ({ word: w.word, confidence: round(w.confidence, 2), why: w.why })),
      props,
    };
  });
  if (options.json) return print(JSON.stringify({ clips, warnings: file.warnings }, null, 2));
  for (const c of clips) {
    print(
      `${c.name}: ${c.facts.durationS.toFixed(2)} s, ${c.facts.inPlace ? 'on the spot' : `${c.facts.travelM.toFixed(2)} m`}, ${c.facts.steps} steps${c.facts.tempo ? ` at ${c.facts.tempo} a minute` : ''}, turns ${c.facts.turnDeg.toFixed(0)}°, ${c.facts.loops ? 'loops' : 'does not loop'}, noise ${c.facts.noiseDeg.toFixed(2)}°`,
    );
    print(`  words: ${c.words.map((w) => `${w.word} (${w.why})`).join('; ') || 'none'}`);
    for (const p of c.props) print(`  ${p.text}`);
  }
}

export async function compare(files: string[], options: Options, print: Print): Promise<void> {
  const [a, b] = [await load(files[0]!, options), await load(files[1]!, options)];
  const [x, y] = [firstClip(a, files[0]!).motion, firstClip(b, files[1]!).motion];
  const other = resample(b.rig, y, x.fps);
  const frames = Math.min(x.frameCount, other.frameCount);
  const shared = a.rig.names.flatMap((name, j) => {
    const k = b.rig.names.indexOf(name);
    return k >= 0 ? [{ name, j, k }] : [];
  });
  if (shared.length === 0)
    throw new MotionError('unmappable', 'The two files have no joint names in common.', { file: files[1]! });
  const totals = shared.map(() => ({ deg: 0, maxDeg: 0, degFrame: 0, cm: 0, maxCm: 0, cmFrame: 0 }));
  const [ra, rb] = [new PoseReader(a.rig, x), new PoseReader(b.rig, other)];
  for (let f = 0; f < frames; f++) {
    const [pa, pb] = [ra.at(f), rb.at(f)];
    shared.forEach(({ j, k }, i) => {
      const t = totals[i]!;
      const deg = (angleBetween(pa.r, 4 * j, pb.r, 4 * k) * 180) / Math.PI;
      const cm = 100 * Math.hypot(...[0, 1, 2].map((c) => pa.p[3 * j + c]! - pb.p[3 * k + c]!));
      t.deg += deg / frames;
      t.cm += cm / frames;
      if (deg > t.maxDeg) Object.assign(t, { maxDeg: deg, degFrame: f });
      if (cm > t.maxCm) Object.assign(t, { maxCm: cm, cmFrame: f });
    });
  }
  const joints = shared.map(({ name }, i) => {
    const t = totals[i]!;
    return {
      name,
      meanDeg: round(t.deg),
      maxDeg: round(t.maxDeg),
      maxDegFrame: t.degFrame,
      meanCm: round(t.cm),
      maxCm: round(t.maxCm),
      maxCmFrame: t.cmFrame,
    };
  });
  const answer = {
    frames,
    fps: x.fps,
    joints,
    onlyInA: a.rig.names.filter((n) => !b.rig.names.includes(n)),
    onlyInB: b.rig.names.filter((n) => !a.rig.names.includes(n)),
    largest: { deg: Math.max(...joints.map((j) => j.maxDeg)), cm: Math.max(...joints.map((j) => j.maxCm)) },
  };
  if (options.json) return print(JSON.stringify(answer, null, 2));
  for (const j of [...joints].sort((p, q) => q.maxDeg - p.maxDeg))
    print(
      `${j.name.padEnd(24)} ${j.meanDeg.toFixed(2).padStart(8)}° mean ${j.maxDeg.toFixed(2).padStart(8)}° at ${j.maxDegFrame}  ${j.maxCm.toFixed(2).padStart(8)} cm at ${j.maxCmFrame}`,
    );
  print(`${frames} frames compared, ${answer.onlyInA.length + answer.onlyInB.length} joints in one file only`);
}

export async function pairing(files: string[], options: Options, print: Print): Promise<void> {
  const file = await load(files[0]!, options);
  const found = findPairing(file.rig, file.map, party(file).pose);
  const name = (j: number): string => file.rig.names[j]!;
  const summary = pairingSummary(file.rig, found);
  if (options.json)
    return print(
      JSON.stringify(
        {
          counts: {
            left: found.pairs.length,
            right: found.pairs.length,
            centre: found.centre.length,
            unpaired: found.unpaired.length,
          },
          pairs: found.pairs.map((p) => ({ left: name(p.left), right: name(p.right), by: p.by })),
          centre: found.centre.map(name),
          unpaired: summary.unpaired,
        },
        null,
        2,
      ),
    );
  for (const p of found.pairs) print(`${name(p.left).padEnd(28)} ${name(p.right).padEnd(28)} by ${p.by}`);
  print(summary.text + (summary.unpaired.length > 0 ? `: ${summary.unpaired.join(', ')}` : ''));
}

export async function fit(files: string[], options: Options, print: Print): Promise<void> {
  if (!options.to) throw new UsageError('fit needs --to CHARACTER');
  const target = await load(options.to);
  const profile = fitProfile(party(target));
  const rows: {
    file: string;
    clip: string;
    score: number;
    reasons: readonly string[];
    driftPercentLeg: number;
    reachPercentLeg: number;
  }[] = [];
  for (const path of files) {
    const file = await load(path, options);
    for (const clip of file.clips) {
      const s = scoreFit(sketchFit(party(file), clip.motion), profile);
      rows.push({
        file: path,
        clip: clip.name,
        score: s.score,
        reasons: s.reasons,
        driftPercentLeg: round(s.driftPercent),
        reachPercentLeg: round(s.reachPercent),
      });
    }
  }
  if (rows.length === 0) throw new MotionError('no-motion', 'It holds no motion.', { file: files[0]! });
  rows.sort((a, b) => b.score - a.score || (a.clip < b.clip ? -1 : 1));
  if (options.json) return print(JSON.stringify({ to: options.to, fits: rows }, null, 2));
  for (const r of rows) print(`${String(r.score).padStart(3)}  ${r.clip}${r.reasons[0] ? `: ${r.reasons[0]}` : ''}`);
}
