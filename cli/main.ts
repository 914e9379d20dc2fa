import { parseArgs } from 'node:util';
import { MotionError } from '../motion/index';
import { codec } from './commands/codec';
import { convert } from './commands/convert';
import { inspect } from './commands/inspect';
import { LibraryError, library } from './commands/library';
import { map } from './commands/map';
import { analyse, compare, cycle, fit, pairing } from './commands/read';
import { retargetCommand } from './commands/retarget';
import { mirrorCommand, tuneCommand } from './commands/tune';
import { FLAGS, type Options } from './options';
import { USAGE, UsageError } from './usage';

type Command = (files: string[], options: Options, print: (text: string) => void) => Promise<void>;

interface Entry {
  run: Command;
  /** How many file names are due; 'some' for one or more. */
  files: number | 'some';
  options: readonly (keyof Options)[];
}

const IN: readonly (keyof Options)[] = ['json', 'skeleton', 'choose', 'fps'];
const OUT: readonly (keyof Options)[] = [...IN, 'no-mesh', 'keys'];

const COMMANDS: Record<string, Entry> = {
  inspect: { run: inspect, files: 1, options: IN },
  convert: { run: convert, files: 2, options: OUT },
  map: { run: map, files: 1, options: IN },
  retarget: {
    run: retargetCommand,
    files: 1,
    options: [
      ...OUT,
      'to',
      'out',
      'map',
      'no-plants',
      'travel',
      'hands',
      'no-clear',
      'limits',
      'rest',
      'report',
      'fitting',
    ],
  },
  tune: {
    run: tuneCommand,
    files: 1,
    options: [
      ...OUT,
      'out',
      'energy',
      'arms',
      'stance',
      'stride',
      'lean',
      'speed',
      'trim',
      'hold',
      'place',
      'smooth',
      'steps',
      'reverse',
      'despike',
      'fill-gaps',
      'in-place',
      'root-joint',
      'floor',
    ],
  },
  mirror: { run: mirrorCommand, files: 1, options: [...OUT, 'out', 'mode', 'plane'] },
  cycle: { run: cycle, files: 1, options: [...OUT, 'out', 'start', 'end'] },
  analyse: { run: analyse, files: 1, options: IN },
  compare: { run: compare, files: 2, options: IN },
  pairing: { run: pairing, files: 1, options: IN },
  fit: { run: fit, files: 'some', options: [...IN, 'to'] },
  library: {
    run: library,
    files: 'some',
    options: ['json', 'url', 'token', 'limit', 'format', 'fps', 'to', 'out', 'no-mesh', 'keys', 'skeleton'],
  },
  codec: { run: codec, files: 3, options: [...OUT, 'bound', 'rig'] },
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
      `velvet-reel: ${error instanceof MotionError ? error.sentence() : error instanceof LibraryError ? error.message : `something went wrong inside: ${(error as Error).message}`}`,
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
  const given = parsed.positionals.length;
  if (command.files === 'some' ? given === 0 : given !== command.files)
    throw new UsageError(
      command.files === 'some'
        ? 'at least one file name is due'
        : `${command.files} ${command === COMMANDS.codec ? 'words (pack or unpack, and two files)' : 'file name'}${command.files > 1 ? `${command === COMMANDS.codec ? '' : 's'} are` : ' is'} due`,
    );
  return { files: parsed.positionals, options: parsed.values };
}
