import { load, outFormat, save } from '../files';
import { type Options, readFps } from '../options';
import { UsageError } from '../usage';

export async function convert(files: string[], options: Options, print: (text: string) => void): Promise<void> {
  const [from, to] = files as [string, string];
  const format = outFormat(to);
  if (!format) throw new UsageError('the second file name must end in .bvh or .glb');
  const fps = readFps(options.fps);
  const file = await load(from);
  const figure = options['no-mesh'] ? undefined : file.figure;
  const left = await save(to, format, { rig: file.rig, figure, clips: file.clips }, fps);
  const warnings = [...file.warnings, ...left];
  if (options.json) print(JSON.stringify({ out: to, format, clips: file.clips.map((c) => c.name), warnings }, null, 2));
  else for (const w of [`${to} written`, ...warnings.map((x) => `note: ${x}`)]) print(w);
}
