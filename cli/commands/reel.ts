import { dirname, resolve } from 'node:path';
import {
  checkJoin,
  findMatches,
  JOIN_DEFAULTS,
  JOIN_KINDS,
  layLane,
  layOver,
  looksAbsolute,
  MEETS,
  type Motion,
  MotionError,
  OVERLAY_DEFAULTS,
  OVERLAY_MODES,
  type Overlay,
  onsetStrength,
  type Party,
  PLACEMENT_DEFAULTS,
  type Placement,
  REGIONS,
  ReelEvaluator,
  type ReelMember,
  type Region,
  resample,
  retarget,
  rigIdentity,
  strengthAt,
  stretchLength,
  trim,
} from '../../motion/index';
import { firstClip, load, outFormat, party, readJson, save, writeOut } from '../files';
import { type Options, readNumber, readWhole, readWord } from '../options';
import { UsageError } from '../usage';

/** A file's motion on another skeleton: as it is where the skeletons are the same. */
function onto(target: Party, source: Party, motion: Motion): Motion {
  return rigIdentity(source.rig) === rigIdentity(target.rig) ? motion : retarget(source, motion, target).motion;
}

async function pair(files: string[], options: Options) {
  const [a, b] = [await load(files[0]!, options), await load(files[1]!, options)];
  const self = party(a);
  const first = firstClip(a, files[0]!);
  const second = firstClip(b, files[1]!);
  const fps = first.motion.fps;
  const other = resample(self.rig, onto(self, party(b), second.motion), fps);
  return {
    a,
    self,
    fps,
    first,
    second: { name: second.name, motion: other },
    warnings: [...a.warnings, ...b.warnings],
  };
}

async function report(options: Options, answer: object): Promise<void> {
  if (options.report) await writeOut(options.report, JSON.stringify(answer, null, 2));
}

/** One motion, then another, on the skeleton of the first. */
export async function joinCommand(files: string[], options: Options, print: (text: string) => void): Promise<void> {
  const format = outFormat(options.out, '--out');
  const kind = readWord(options.join, 'join', JOIN_KINDS, 'crossfade');
  const meet = readWord(options.meet, 'meet', MEETS, 'hips');
  const frames = readWhole(options.frames, 'frames') ?? JOIN_DEFAULTS.frames;
  const aTo = readWhole(options['a-to'], 'a-to');
  const bFrom = readWhole(options['b-from'], 'b-from');
  if (options.find && (aTo !== undefined || bFrom !== undefined))
    throw new UsageError('--find seeks the frames that --a-to and --b-from name: give one or the other');
  const { a, self, fps, first, second, warnings } = await pair(files, options);
  const matches = options.find ? findMatches(self, first.motion, second.motion) : [];
  if (options.find && matches.length === 0)
    throw new MotionError('unmappable', 'No pair of frames was found at which both could meet.');
  const half = kind === 'crossfade' ? Math.floor(frames / 2) : 0;
  const last = first.motion.frameCount - 1;
  const to = Math.min(last, aTo ?? (matches[0] ? matches[0].a + half : last));
  const from = bFrom ?? (matches[0] ? Math.max(0, matches[0].b - half) : 0);
  const before = trim(self.rig, first.motion, 0, to);
  const after = trim(self.rig, second.motion, from, second.motion.frameCount - 1);
  const overlap = kind === 'crossfade' ? Math.min(frames, before.frameCount - 1, after.frameCount) : 0;
  const at = before.frameCount - overlap + (kind === 'bridge' ? frames : 0);
  const join = { ...JOIN_DEFAULTS, kind, frames, meet, level: options.level === true };
  const lane = layLane(
    self,
    [
      { motion: before, at: 0, join },
      { motion: after, at, join },
    ],
    at + after.frameCount,
  );
  const [passage] = lane.joins;
  const answer = {
    out: options.out,
    frames: lane.motion.frameCount,
    fps,
    join: passage!.kind,
    passes: { start: passage!.start, end: passage!.end },
    carried: { x: passage!.carry.by[0], z: passage!.carry.by[1], degrees: (passage!.carry.turn * 180) / Math.PI },
    check: checkJoin(self, lane, passage!),
    ...(options.find && { matches }),
    warnings: [
      ...warnings,
      ...(await save(
        options.out!,
        format,
        {
          rig: self.rig,
          figure: a.figure,
          clips: [{ name: `${first.name} ${second.name}`.trim(), motion: lane.motion }],
        },
        options,
      )),
    ],
  };
  await report(options, answer);
  if (options.json) return print(JSON.stringify(answer, null, 2));
  const { check } = answer;
  print(
    `${options.out} written: ${answer.frames} frames, ${answer.join} at ${answer.passes.start} to ${answer.passes.end}; feet slip ${check.slipCm.toFixed(2)} cm, hips jump ${check.placeCm.toFixed(2)} cm and ${check.facingDeg.toFixed(2)}°, fastest step ${check.stepRatio.toFixed(2)} × either side`,
  );
  for (const w of answer.warnings) print(`  note: ${w}`);
}

/** Short names of regions beside their own. */
const SHORT: Readonly<Record<string, Region>> = {
  armL: 'left arm',
  armR: 'right arm',
  legL: 'left leg',
  legR: 'right leg',
  fingersL: 'left fingers',
  fingersR: 'right fingers',
};

function regionsOf(text: string | undefined): Region[] {
  return (text ?? '')
    .split(',')
    .map((x) => x.trim())
    .filter(Boolean)
    .map((word) => {
      const region = SHORT[word] ?? REGIONS.find((r) => r === word);
      if (!region) throw new UsageError(`--parts takes ${[...REGIONS, ...Object.keys(SHORT)].join(', ')}`);
      return region;
    });
}

/** One motion over another, for some of the body. */
export async function layerCommand(files: string[], options: Options, print: (text: string) => void): Promise<void> {
  const format = outFormat(options.out, '--out');
  const mode = readWord(options.mode, 'mode', OVERLAY_MODES, 'replace');
  const regions = regionsOf(options.parts);
  const at = readWhole(options.at, 'at') ?? 0;
  const onset = readWhole(options.onset, 'onset') ?? 10;
  const { a, self, first, second, warnings } = await pair(files, options);
  const keys = onset > 0 ? onsetStrength(second.motion.frameCount, onset) : [];
  const reference = 'first' as const;
  const motion = layOver(self, first.motion, second.motion, {
    mode,
    reference,
    regions,
    joints: [],
    at,
    strength: (f) => strengthAt(keys, f - at),
  });
  const answer = {
    out: options.out,
    mode,
    parts: regions.length > 0 ? regions : ['whole body'],
    written: { start: at, end: Math.min(first.motion.frameCount, at + second.motion.frameCount) - 1 },
    absolute: mode === 'add' && looksAbsolute(self, second.motion, { reference: 'rest', regions, joints: [] }),
    warnings: [
      ...warnings,
      ...(await save(
        options.out!,
        format,
        { rig: self.rig, figure: a.figure, clips: [{ name: first.name, motion }] },
        options,
      )),
    ],
  };
  await report(options, answer);
  if (options.json) return print(JSON.stringify(answer, null, 2));
  print(`${options.out} written: ${answer.parts.join(', ')}, frames ${answer.written.start} to ${answer.written.end}`);
  for (const w of answer.warnings) print(`  note: ${w}`);
}

type Rough = Record<string, unknown>;
const listOf = (value: unknown, what: string, path: string): Rough[] => {
  if (value === undefined) return [];
  if (!Array.isArray(value) || value.some((x) => typeof x !== 'object' || x === null))
    throw new MotionError('bad-structure', `"${what}" must be a list.`, { file: path });
  return value as Rough[];
};

/** A member as the file has it, with what it leaves out filled in. Items and characters are paths beside the file. */
function memberOf(rough: Rough, path: string): ReelMember {
  const stretch = (x: Rough, i: number, kind: string): Rough => {
    if (typeof x.itemId !== 'string')
      throw new MotionError('bad-structure', `Entry ${i + 1} of "${kind}" names no file as its "itemId".`, {
        file: path,
      });
    return { at: 0, ...x, id: String(x.id ?? `${kind}${i + 1}`) };
  };
  if (typeof rough.castId !== 'string')
    throw new MotionError('bad-structure', 'A member names no character as its "castId".', { file: path });
  return {
    id: String(rough.id ?? 'member'),
    castId: rough.castId,
    order: 0,
    muted: rough.muted === true,
    base: listOf(rough.base, 'base', path).map((x, i) => ({
      ...PLACEMENT_DEFAULTS,
      ...(stretch(x, i, 'base') as unknown as Placement),
      join: { ...JOIN_DEFAULTS, ...(x.join as object) },
    })),
    overlays: listOf(rough.overlays, 'overlays', path).map(
      (x, i) => ({ ...OVERLAY_DEFAULTS, ...stretch(x, i, 'overlays') }) as unknown as Overlay,
    ),
    keys: listOf(rough.keys, 'keys', path) as unknown as ReelMember['keys'],
    numbers: listOf(rough.numbers, 'numbers', path) as unknown as NonNullable<ReelMember['numbers']>,
    labels: listOf(rough.labels, 'labels', path) as unknown as NonNullable<ReelMember['labels']>,
  };
}

/** A member of a reel, evaluated, as one motion. */
export async function reelCommand(files: string[], options: Options, print: (text: string) => void): Promise<void> {
  const format = outFormat(options.out, '--out');
  const path = files[0]!;
  const rough = (await readJson(path)) as Rough;
  const members = listOf(rough?.members, 'members', path);
  const number = readWhole(options.member, 'member') ?? 1;
  const chosen = members[number - 1];
  if (!chosen)
    throw new MotionError('bad-structure', `It has ${members.length} members: there is no number ${number}.`, {
      file: path,
    });
  const member = memberOf(chosen, path);
  const beside = (name: string): string => resolve(dirname(path), name);
  const character = await load(beside(member.castId), options);
  const target = party(character);
  const fps = readNumber(String(rough.fps ?? 30), 'fps', 1, 240)!;
  const motions = new Map<string, Motion>();
  for (const { itemId } of [...member.base, ...member.overlays]) {
    if (motions.has(itemId)) continue;
    const file = await load(beside(itemId), options);
    motions.set(itemId, onto(target, party(file), firstClip(file, itemId).motion));
  }
  const end = Math.max(
    1,
    ...[...member.base, ...member.overlays].map((s) => s.at + stretchLength(s, motions.get(s.itemId)!, fps)),
  );
  const frames = readNumber(String(rough.frames ?? end), 'frames', 1, 1_000_000)!;
  const { motion, joins, held } = new ReelEvaluator(target, fps).evaluate(member, frames, (s) => motions.get(s.itemId));
  const name = String(rough.name ?? 'reel');
  const answer = {
    out: options.out,
    member: member.castId,
    frames,
    fps,
    joins: joins.map((j) => ({
      from: j.from,
      to: j.to,
      kind: j.kind,
      start: j.start,
      end: j.end,
      check: checkJoin(target, { motion, joins: [], held }, j),
    })),
    warnings: [
      ...character.warnings,
      ...(members.length > 1 ? [`Member ${number} of ${members.length} was written; --member names another.`] : []),
      ...(await save(
        options.out!,
        format,
        { rig: target.rig, figure: character.figure, clips: [{ name, motion }] },
        options,
      )),
    ],
  };
  await report(options, answer);
  if (options.json) return print(JSON.stringify(answer, null, 2));
  print(`${options.out} written: ${frames} frames, ${answer.joins.length} joins`);
  for (const j of answer.joins)
    print(
      `  ${j.kind} from ${j.from} to ${j.to}, frames ${j.start} to ${j.end}: feet slip ${j.check.slipCm.toFixed(2)} cm`,
    );
  for (const w of answer.warnings) print(`  note: ${w}`);
}
