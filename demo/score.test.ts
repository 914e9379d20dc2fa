import {
  guessBodyMap,
  measureThickness,
  type Party,
  radiiOf,
  retarget,
  scoreReport,
  skinnedJoints,
  trim,
} from '../motion/index';
import { buildBody } from './body-spec';
import { breakings, reportBroken } from './broken';
import { CAST } from './cast';
import { buildFigure } from './figure';
import { rankCorrelation } from './rank';
import { performAll } from './world';

const { actor, performances } = performAll((s) => ['Quay run', 'Counting crates'].includes(s.name));
const self: Party = { rig: actor.rig, map: guessBodyMap(actor.rig) };

test.each([
  ['Quay run', 'ines'],
  ['Counting crates', 'winch'],
])(
  '%s on %s, spoilt in forty ways: the score falls as an eye’s mark does, and what is broken is told',
  (clip, id) => {
    const member = CAST.find((m) => m.id === id)!;
    const body = buildBody(member.spec, member.seed);
    const thickness = measureThickness(body.rig, buildFigure(body.rig, body.map, member.spec, member.look));
    const { edges } = thickness;
    const target = { ...body, radii: radiiOf(body, thickness), skinned: skinnedJoints(thickness), edges };
    const take = performances.find((p) => p.score.name === clip)!.motion;
    const done = retarget(self, trim(self.rig, take, 0, Math.min(take.frameCount, 120) - 1), target);
    expect(scoreReport(reportBroken(done, done.motion))).toBe(100);
    const all = breakings(done).map((b) => {
      const report = reportBroken(done, b.result);
      return { ...b, report, score: scoreReport(report) };
    });
    expect(all).toHaveLength(40);
    expect(
      rankCorrelation(
        all.map((x) => x.mark),
        all.map((x) => x.score),
      ),
    ).toBeGreaterThanOrEqual(0.95);
    // no result is without fault while a lane of its is red
    const red = all.filter((x) =>
      x.report.lanes.some((l) => l.name === 'direction' && l.values.some((v) => v > l.limit)),
    );
    for (const { score } of red) expect(score).toBeLessThan(100);
    for (const { what, amount, mark, report, score } of all.filter((x) => x.mark <= 15)) {
      const place = `${what} by ${amount}, marked ${mark}`;
      expect([place, score <= 40]).toEqual([place, true]);
      expect([place, report.troubles.filter((t) => t.kind !== 'unpaired').length > 0]).toEqual([place, true]);
      // and a lane shows where
      const beyond = report.lanes.filter((lane) => lane.values.some((x) => x > lane.limit));
      expect([place, beyond.length > 0]).toEqual([place, true]);
    }
  },
  240_000,
);
