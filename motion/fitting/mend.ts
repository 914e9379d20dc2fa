import { isSole, type Plant } from '../analysis/plants';
import type { Report } from '../retarget/report';
import type { Trouble, TroubleKind } from '../retarget/trouble';
import { type FittingEdits, type FittingSettings, tidyPlants } from './document';

/** A way to put a trouble right, as changed settings and edits: nothing happens until it is taken. */
export interface Mend {
  readonly id: string;
  /** What would be done, as a command. */
  readonly label: string;
  /** Kinds of trouble it is meant for. */
  readonly against: TroubleKind;
  readonly settings: FittingSettings;
  readonly edits: FittingEdits;
}

const round = (x: number, step: number): number => Math.round(x / step) * step;
const tidy = (x: number): number => Number(x.toFixed(4));

/**
 * Offers for one trouble, the mildest first. Each is a whole document, so that a preview is one evaluation and taking it is
 * one step that can be undone.
 * @param report of the fitting as it is; its plants are those held
 */
export function mendsFor(
  trouble: Trouble,
  report: Report,
  settings: FittingSettings,
  edits: FittingEdits,
  fps: number,
): Mend[] {
  const out: Mend[] = [];
  const add = (
    id: string,
    label: string,
    change: Partial<FittingSettings>,
    changed: Partial<FittingEdits> = {},
  ): void => {
    out.push({
      id,
      label,
      against: trouble.kind,
      settings: { ...settings, ...change },
      edits: { ...edits, ...changed, frames: report.frames },
    });
  };
  const tuned = (change: Partial<FittingSettings['tuning']>): Partial<FittingSettings> => ({
    tuning: { ...settings.tuning, ...change },
  });
  const plantsWith = (change: (plants: Plant[]) => Plant[]): Partial<FittingEdits> => ({
    plants: tidyPlants(change(report.plants.map((p) => ({ ...p }))), report.frames),
  });
  const lower = (by: number): Partial<FittingSettings> => ({ lower: tidy(Math.min(0.2, settings.lower + by)) });
  const wider = tidy(Math.min(3, round(settings.tuning.stance * 1.15, 0.05)));
  const shorter = tidy(Math.max(0.3, round(settings.tuning.stride * 0.9, 0.05)));
  switch (trouble.kind) {
    case 'slip': {
      if (!settings.plants) add('hold', 'Hold planted soles in place', { plants: true });
      const plant = plantAt(report.plants, trouble);
      if (plant && settings.plants) {
        const pause = Math.max(1, Math.round(0.1 * fps));
        add(
          'release',
          `Let the ${nameOf(plant)} go ${pause} frames earlier`,
          {},
          plantsWith((ps) => ps.map((p) => (same(p, plant) ? { ...p, end: Math.max(p.start, p.end - pause) } : p))),
        );
        add(
          'longer',
          `Hold the ${nameOf(plant)} ${pause} frames longer`,
          {},
          plantsWith((ps) => ps.map((p) => (same(p, plant) ? { ...p, end: p.end + pause } : p))),
        );
      }
      add('lower2', 'Lower the hips by 2 % of the leg', lower(0.02));
      break;
    }
    case 'floor':
    case 'hover':
      if (!settings.plants) add('hold', 'Hold planted soles in place', { plants: true });
      add('lower1', 'Lower the hips by 1 % of the leg', lower(0.01));
      if (trouble.kind === 'floor') add('wide', `Widen the stance to × ${wider}`, tuned({ stance: wider }));
      break;
    case 'reach':
      if (trouble.parts[0]!.startsWith('hand')) {
        add('near', 'Let the hands count only when near', {
          hands: settings.hands === 'together' ? 'hips' : settings.hands,
        });
        if (edits.goals.length > 0)
          add(
            'goals',
            'Halve the importance of the hand goals',
            {},
            {
              goals: edits.goals.map((g) => ({ ...g, weight: typeof g.weight === 'number' ? g.weight / 2 : 0.5 })),
            },
          );
        break;
      }
      add('lower2', 'Lower the hips by 2 % of the leg', lower(0.02));
      add('lower5', 'Lower the hips by 5 % of the leg', lower(0.05));
      add('stride', `Shorten the stride to × ${shorter}`, tuned({ stride: shorter }));
      break;
    case 'snap':
      add('lower1', 'Lower the hips by 1 % of the leg', lower(0.01));
      add('lower3', 'Lower the hips by 3 % of the leg', lower(0.03));
      add(
        'calm',
        `Calm the motion to energy ${tidy(settings.tuning.energy * 0.9)}`,
        tuned({ energy: tidy(settings.tuning.energy * 0.9) }),
      );
      break;
    case 'limit':
      if (!settings.limits) add('limits', 'Keep arms and head within joint limits', { limits: true });
      add(
        'energy',
        `Make the motion smaller, energy ${tidy(settings.tuning.energy * 0.85)}`,
        tuned({ energy: tidy(settings.tuning.energy * 0.85) }),
      );
      break;
    case 'crossing':
      if (!settings.clear && trouble.parts.some((part) => /^(forearm|shin)/.test(part)))
        add('clear', 'Keep limbs out of one another', { clear: true });
      if (trouble.parts.some((part) => /^(thigh|shin|foot)/.test(part)))
        add('wide', `Widen the stance to × ${wider}`, tuned({ stance: wider }));
      for (const by of [6, 12])
        add(
          `arms${by}`,
          `Hold the arms ${by}° farther apart`,
          tuned({ arms: Math.min(60, settings.tuning.arms + by) }),
        );
      break;
    case 'hands':
      add('together', 'Keep both hands on the thing they hold', { hands: 'together' });
      break;
    case 'map':
    case 'still':
    case 'unpaired':
      break;
  }
  return out.filter(
    (m) => JSON.stringify([m.settings, m.edits]) !== JSON.stringify([settings, { ...edits, frames: report.frames }]),
  );
}

const same = (a: Plant, b: Plant): boolean => a.part === b.part && a.start === b.start && a.end === b.end;
const nameOf = (p: Plant): string => `${p.part.endsWith('L') ? 'left' : 'right'} ${p.part.slice(0, -1)}`;

/** The plant that a trouble speaks of: the one of soles that ends or lies at its frame, on the side it names. */
function plantAt(plants: readonly Plant[], trouble: Trouble): Plant | undefined {
  const soles = plants.filter((p) => isSole(p.part) && trouble.parts.includes(p.part));
  return (
    soles.find((p) => p.end === trouble.frame) ?? soles.find((p) => p.start <= trouble.frame && p.end >= trouble.frame)
  );
}
