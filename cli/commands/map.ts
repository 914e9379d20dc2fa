import { bodyMapToJson, countStates, slotLabel } from '../../motion/index';
import { load } from '../files';
import type { Options } from '../options';

export async function map(files: string[], options: Options, print: (text: string) => void): Promise<void> {
  const file = await load(files[0]!, options);
  const json = bodyMapToJson(file.map, file.rig);
  if (options.json) return print(JSON.stringify(json, null, 2));
  for (const [slot, entry] of Object.entries(json.slots)) {
    print(`${slotLabel(slot).padEnd(20)} ${(entry.joint ?? '–').padEnd(24)} ${entry.state.padEnd(8)} ${entry.why}`);
  }
  const counts = countStates(file.map);
  print(
    `${counts.sure} sure, ${counts.guessed} guessed, ${counts.missing} missing; ${json.unused.length} joints unused${json.unused.length ? `: ${json.unused.join(', ')}` : ''}`,
  );
  for (const w of json.warnings) print(`note: ${w}`);
}
