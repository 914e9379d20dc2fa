import type { CastMember } from '@/contract';

/** How far a body map is settled, in words. */
export function mapSummary(member: CastMember): { open: number; text: string } {
  const counts = { sure: 0, guessed: 0, missing: 0, empty: 0 };
  for (const slot of Object.values(member.map.slots)) counts[slot.state]++;
  const parts = [`${counts.sure} sure`];
  if (counts.guessed) parts.push(`${counts.guessed} guessed`);
  if (counts.missing) parts.push(`${counts.missing} missing`);
  if (counts.empty) parts.push(`${counts.empty} empty on purpose`);
  return { open: counts.guessed, text: `map: ${parts.join(', ')}` };
}
