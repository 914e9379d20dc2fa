import { load, outFormat, save } from '../files';
import type { Options } from '../options';

export async function convert(files: string[], options: Options, print: (text: string) => void): Promise<void> {
  const [from, to] = files as [string, string];
  const format = outFormat(to, 'the second file name');
  const file = await load(from, options);
  const left = await save(
    to,
    format,
    { rig: file.rig, map: file.map, figure: file.figure, clips: file.clips },
    options,
  );
  const warnings = [...file.warnings, ...left];
  if (options.json) print(JSON.stringify({ out: to, format, clips: file.clips.map((c) => c.name), warnings }, null, 2));
  else for (const w of [`${to} written`, ...warnings.map((x) => `note: ${x}`)]) print(w);
}
