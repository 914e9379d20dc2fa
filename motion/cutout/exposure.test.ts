import fc from 'fast-check';
import { puppet } from '../test/puppet';
import { copyExposure, exposedAt, exposureTrack, withExposure, withExposures } from './exposure';

const rig = puppet();
const head = rig.parts.find((p) => p.name === 'head')!;
const blink = [
  { frame: 3, label: 'shut' },
  { frame: 5, label: 'open' },
];

describe('exposures', () => {
  test('hold until the next key, and show what is at rest before the first', () => {
    expect([0, 2, 3, 4, 5, 9].map((f) => exposedAt({ keys: blink }, head, f))).toEqual([
      'open',
      'open',
      'shut',
      'shut',
      'open',
      'open',
    ]);
    const track = exposureTrack({ part: 'head', keys: blink }, rig, 8)!;
    expect([...track.values].map((v) => track.labels[v])).toEqual([
      'open',
      'open',
      'open',
      'shut',
      'shut',
      'open',
      'open',
      'open',
    ]);
  });

  test('of one part leave every other track as it is', () => {
    const other = { name: 'order', labels: ['0 1'], values: new Uint16Array(8) };
    const steps = withExposures(
      [other, exposureTrack({ part: 'head', keys: [{ frame: 0, label: 'wide' }] }, rig, 8)!],
      [{ part: 'head', keys: blink }],
      rig,
      8,
    );
    expect(steps).toHaveLength(2);
    expect(steps[0]).toBe(other);
    expect(withExposures([other], [{ part: 'nobody', keys: blink }], rig, 8)).toEqual([other]);
  });

  test('setting a key changes what shows from there to the next key, and nothing before', () => {
    const keyed = fc.array(fc.tuple(fc.nat(40), fc.constantFrom('open', 'shut', 'wide')), { maxLength: 12 });
    fc.assert(
      fc.property(keyed, fc.nat(40), fc.constantFrom('open', 'shut', 'wide'), (list, frame, label) => {
        const before = list.reduce(
          (keys, [f, l]) => withExposure(keys, f, l),
          [] as readonly { frame: number; label: string }[],
        );
        const after = withExposure(before, frame, label);
        const end = before.find((k) => k.frame > frame)?.frame ?? 60;
        for (let f = 0; f < 60; f++)
          expect(exposedAt({ keys: after }, head, f)).toBe(
            f >= frame && f < end ? label : exposedAt({ keys: before }, head, f),
          );
        after.forEach((k, i) => expect(i === 0 || k.frame > after[i - 1]!.frame).toBe(true));
      }),
    );
  });

  test('go to another part by label; what that lacks is told and left out', () => {
    const poor = { ...head, drawings: ['open', 'shut'] };
    const keys = [
      { frame: 0, label: 'open' },
      { frame: 2, label: 'wide' },
      { frame: 4, label: 'shut' },
      { frame: 6, label: 'open' },
    ];
    expect(copyExposure(keys, head)).toEqual({ keys, missing: [] });
    expect(copyExposure(keys, poor)).toEqual({ keys: [keys[0], keys[2], keys[3]], missing: ['wide'] });
  });
});
