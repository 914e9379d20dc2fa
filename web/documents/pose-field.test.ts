import { applyWrites, diffCells } from './cells';
import { asField, type FieldContent, POSE_FIELD } from './pose-field';

const field: FieldContent = {
  pins: [
    { itemId: 'low', name: 'Lantern low', at: [0.2, 0.3] },
    { itemId: 'up', name: 'Lantern up', at: [0.8, 0.3] },
  ],
};

test('a field is what its cells say, in the order in which poses were pinned', () => {
  expect(POSE_FIELD.join(POSE_FIELD.split(field))).toEqual(field);
  expect(asField(field)).toEqual(field);
  expect(() => asField({ pins: [{ ...field.pins[0]!, at: [0.2, 1.3] }] })).toThrow();
});

test('who moves a pin and who pins another do not meet', () => {
  const base = POSE_FIELD.split(field);
  const [low, up] = field.pins;
  const moved = diffCells(base, POSE_FIELD.split({ pins: [{ ...low!, at: [0.5, 0.5] }, up!] }));
  const pinned = diffCells(base, POSE_FIELD.split({ pins: [low!, up!, { ...low!, itemId: 'hung', name: 'Hung' }] }));
  const both = POSE_FIELD.join(applyWrites(applyWrites(base, moved), pinned));
  expect(both.pins.map((p) => [p.itemId, p.at[0]])).toEqual([
    ['low', 0.5],
    ['up', 0.8],
    ['hung', 0.2],
  ]);
});
