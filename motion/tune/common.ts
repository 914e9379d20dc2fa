import type { Party } from '../body/party';
import { carrierOf } from '../bodymap/body-root';
import { MotionError } from '../errors';

export const RAD = Math.PI / 180;
/** Window of the slow course, seconds. */
export const COURSE_S = 0.45;

/** Refuses a setting outside its range. @throws MotionError 'bad-argument' */
export function inRange(value: number, low: number, high: number, what: string): void {
  if (!(value >= low && value <= high))
    throw new MotionError('bad-argument', `${what} must lie between ${low} and ${high}.`);
}

/** Joint in which the body travels: the hips, else the first root. */
export function travelJoint(party: Party): number {
  return carrierOf(party.rig, party.map, party.skinned);
}
