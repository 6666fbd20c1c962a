import { resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { bundlesAt } from './bundles';
import { check } from './check';
import { readJson, WrongInput } from './files';
import { replay } from './replay';
import { run } from './run';
import type { Say } from './say';

const usage = `Usage:
  vast-knot replay BUNDLE… [--sample NAME] [--drafts] [--junit FILE] [--json FILE]
      replays the samples; 0 when all hold, 1 when some differ
  vast-knot check BUNDLE…
      prints the findings of the rules; 1 when one is an error
  vast-knot run BUNDLE… --event EVENT.json --records RECORDS.json
      prints what the event would do, as JSON; 1 when something goes wrong in it
A BUNDLE is a JSON file, or a folder of them. Wrong input gives 2.`;

/** Runs the program with its arguments, from a folder that names are looked up in. Returns its exit code. */
export async function main(
  args: readonly string[],
  folder: string,
  say: Say = (line) => process.stdout.write(`${line}\n`),
  complain: Say = (line) => process.stderr.write(`${line}\n`),
): Promise<number> {
  try {
    const { values, positionals } = parsed(args);
    const [command, ...names] = positionals;
    switch (command) {
      case 'replay':
        return await replay(bundlesAt(names, folder), values, folder, say);
      case 'check':
        return check(bundlesAt(names, folder), say);
      case 'run': {
        const { event, records } = values;
        if (event === undefined || records === undefined)
          throw new WrongInput('Say which event and which records: --event FILE --records FILE.');
        const bundle = bundlesAt(names, folder);
        return await run(bundle, readJson(resolve(folder, event)), readJson(resolve(folder, records)), say);
      }
      default:
        throw new WrongInput(usage);
    }
  } catch (thrown) {
    if (!(thrown instanceof WrongInput)) throw thrown;
    complain(thrown.message);
    return 2;
  }
}

function parsed(args: readonly string[]) {
  try {
    return parseArgs({
      args: [...args],
      allowPositionals: true,
      options: {
        sample: { type: 'string' },
        drafts: { type: 'boolean' },
        junit: { type: 'string' },
        json: { type: 'string' },
        event: { type: 'string' },
        records: { type: 'string' },
      },
    });
  } catch (thrown) {
    throw new WrongInput(`${thrown instanceof Error ? thrown.message : String(thrown)}\n\n${usage}`);
  }
}
