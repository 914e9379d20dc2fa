import { parseArgs } from 'node:util';
import { MotionError } from '../motion/index';
import { convert } from './commands/convert';
import { inspect } from './commands/inspect';
import { map } from './commands/map';
import { retargetCommand } from './commands/retarget';
import type { Options } from './options';
import { USAGE, UsageError } from './usage';

type Command = (files: string[], options: Options, print: (text: string) => void) => Promise<void>;

interface Entry {
  run: Command;
  files: number;
  options: readonly (keyof Options)[];
}

const COMMANDS: Record<string, Entry> = {
  inspect: { run: inspect, files: 1, options: ['json'] },
  convert: { run: convert, files: 2, options: ['json', 'fps', 'no-mesh'] },
  map: { run: map, files: 1, options: ['json'] },
  retarget: {
    run: retargetCommand,
    files: 1,
    options: ['json', 'to', 'out', 'map', 'no-plants', 'travel', 'fps', 'no-mesh', 'report'],
  },
};

const FLAGS: Record<keyof Options, { type: 'boolean' | 'string' }> = {
  json: { type: 'boolean' },
  fps: { type: 'string' },
  to: { type: 'string' },
  out: { type: 'string' },
  map: { type: 'string' },
  report: { type: 'string' },
  travel: { type: 'string' },
  'no-plants': { type: 'boolean' },
  'no-mesh': { type: 'boolean' },
};

/** Runs one command; returns the exit code. Prints results to stdout and one line of trouble to stderr. */
export async function main(
  args: string[],
  print: (text: string) => void = (text) => process.stdout.write(`${text}\n`),
  complain: (text: string) => void = (text) => process.stderr.write(`${text}\n`),
): Promise<number> {
  try {
    const name = args[0];
    if (name === 'help' || name === '--help' || name === '-h') {
      print(USAGE);
      return 0;
    }
    const command = name === undefined ? undefined : COMMANDS[name];
    if (!command) throw new UsageError(name === undefined ? 'a command is due' : `there is no command "${name}"`);
    const { files, options } = parse(args.slice(1), command);
    await command.run(files, options, print);
    return 0;
  } catch (error) {
    if (error instanceof UsageError) {
      complain(`velvet-reel: ${error.message}. See velvet-reel help.`);
      return 2;
    }
    complain(
      `velvet-reel: ${error instanceof MotionError ? error.sentence() : `something went wrong inside: ${(error as Error).message}`}`,
    );
    return 1;
  }
}

function parse(args: string[], command: Entry): { files: string[]; options: Options } {
  let parsed: { values: Options; positionals: string[] };
  try {
    parsed = parseArgs({ args, options: FLAGS, allowPositionals: true }) as { values: Options; positionals: string[] };
  } catch (error) {
    throw new UsageError((error as Error).message.split('\n')[0]!.replace(/\.$/, ''));
  }
  const unknown = Object.keys(parsed.values).find((o) => !command.options.includes(o as keyof Options));
  if (unknown) throw new UsageError(`--${unknown} does not belong to this command`);
  if (parsed.positionals.length !== command.files)
    throw new UsageError(`${command.files} file name${command.files > 1 ? 's are' : ' is'} due`);
  return { files: parsed.positionals, options: parsed.values };
}
