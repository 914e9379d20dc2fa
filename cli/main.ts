import { parseArgs } from 'node:util';
import { MotionError } from '../motion/errors';
import { FLAGS, type Options } from './options';
import { CommandError, USAGE, UsageError } from './usage';

type Command = (files: string[], options: Options, print: (text: string) => void) => Promise<void>;

interface Entry {
  /** Loads the command, so that one alone is read and compiled. */
  load: () => Promise<Command>;
  /** How many file names it takes; 'some' for one or more, 'any' for none or more. */
  files: number | 'some' | 'any';
  options: readonly (keyof Options)[];
}

const IN: readonly (keyof Options)[] = ['json', 'skeleton', 'choose', 'fps', 'columns'];
const OUT: readonly (keyof Options)[] = [...IN, 'no-mesh', 'keys'];

const COMMANDS: Record<string, Entry> = {
  inspect: { load: async () => (await import('./commands/inspect')).inspect, files: 1, options: IN },
  convert: { load: async () => (await import('./commands/convert')).convert, files: 2, options: OUT },
  map: { load: async () => (await import('./commands/map')).map, files: 1, options: IN },
  retarget: {
    load: async () => (await import('./commands/retarget')).retargetCommand,
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
    load: async () => (await import('./commands/tune')).tuneCommand,
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
  mirror: {
    load: async () => (await import('./commands/tune')).mirrorCommand,
    files: 1,
    options: [...OUT, 'out', 'mode', 'plane'],
  },
  cycle: {
    load: async () => (await import('./commands/read')).cycle,
    files: 1,
    options: [...OUT, 'out', 'start', 'end'],
  },
  join: {
    load: async () => (await import('./commands/reel')).joinCommand,
    files: 2,
    options: [...OUT, 'out', 'join', 'frames', 'meet', 'a-to', 'b-from', 'find', 'level', 'report'],
  },
  layer: {
    load: async () => (await import('./commands/reel')).layerCommand,
    files: 2,
    options: [...OUT, 'out', 'mode', 'parts', 'at', 'onset', 'report'],
  },
  reel: {
    load: async () => (await import('./commands/reel')).reelCommand,
    files: 1,
    options: [...OUT, 'out', 'member', 'report'],
  },
  cutout: {
    load: async () => (await import('./commands/cutout')).cutoutCommand,
    files: 'some',
    options: [...IN, 'to', 'out', 'view', 'foreshorten', 'no-plants', 'report', 'at', 'height'],
  },
  keys: {
    load: async () => (await import('./commands/keys')).keysCommand,
    files: 1,
    options: [...IN, 'no-mesh', 'out', 'report', 'tolerance', 'curves'],
  },
  film: {
    load: async () => (await import('./commands/film')).filmCommand,
    files: 'some',
    options: [...IN, 'out', 'view', 'height'],
  },
  'capture-stage': {
    load: async () => (await import('./commands/capture-stage')).captureStage,
    files: 'any',
    options: ['port', 'fps', 'performers', 'jitter', 'loss', 'reorder', 'dropout', 'restart', 'seed', 'skeleton'],
  },
  supplier: {
    load: async () => (await import('./commands/supplier')).supplier,
    files: 'any',
    options: ['port', 'takes', 'key', 'data', 'credits', 'faults', 'slow', 'seed'],
  },
  identity: {
    load: async () => (await import('./commands/identity')).identity,
    files: 'any',
    options: ['port', 'key'],
  },
  solve: {
    load: async () => (await import('./commands/solve')).solveCommand,
    files: 1,
    options: [
      'json',
      'to',
      'out',
      'report',
      'fps',
      'no-mesh',
      'keys',
      'skeleton',
      'choose',
      'columns',
      'body',
      'keep-body',
    ],
  },
  rig: {
    load: async () => (await import('./commands/rig')).rigCommand,
    files: 1,
    options: ['json', 'marks', 'tie', 'no-fingers', 'out', 'report'],
  },
  analyse: { load: async () => (await import('./commands/read')).analyse, files: 1, options: IN },
  compare: { load: async () => (await import('./commands/read')).compare, files: 2, options: IN },
  pairing: { load: async () => (await import('./commands/read')).pairing, files: 1, options: IN },
  fit: { load: async () => (await import('./commands/read')).fit, files: 'some', options: [...IN, 'to'] },
  library: {
    load: async () => (await import('./commands/library')).library,
    files: 'some',
    options: ['json', 'url', 'token', 'limit', 'format', 'fps', 'to', 'out', 'no-mesh', 'keys', 'skeleton'],
  },
  codec: { load: async () => (await import('./commands/codec')).codec, files: 3, options: [...OUT, 'bound', 'rig'] },
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
    if (!command) throw new UsageError(name === undefined ? 'name a command' : `there is no command called "${name}"`);
    const { files, options } = parse(args.slice(1), command);
    await (await command.load())(files, options, print);
    return 0;
  } catch (error) {
    if (error instanceof UsageError) {
      complain(`velvet-reel: ${error.message}. See velvet-reel help.`);
      return 2;
    }
    complain(
      `velvet-reel: ${error instanceof MotionError ? error.sentence() : error instanceof CommandError ? error.message : `something went wrong: ${(error as Error).message}`}`,
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
  if (command.files !== 'any' && (command.files === 'some' ? given === 0 : given !== command.files))
    throw new UsageError(
      command.files === 'some'
        ? 'name at least one file'
        : command === COMMANDS.codec
          ? 'it takes pack or unpack, and two files'
          : command.files === 1
            ? 'it takes one file name'
            : `it takes ${command.files} file names`,
    );
  return { files: parsed.positionals, options: parsed.values };
}
