import { resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { bundlesAt } from './bundles';
import { check } from './check';
import { readJson, WrongInput } from './files';
import { pull } from './pull';
import { pulledIn } from './pulled';
import { push } from './push';
import { replay } from './replay';
import { publishRule, rules } from './rules';
import { run } from './run';
import { runs } from './runs';
import type { Say } from './say';
import { Refused, Server } from './server';

const usage = `Usage:
  vast-knot replay BUNDLE… [--sample NAME] [--drafts] [--junit FILE] [--json FILE]
      replays the samples; 0 when all hold, 1 when some differ
  vast-knot check BUNDLE…
      prints the findings of the rules; 1 when one is an error
  vast-knot run BUNDLE… --event EVENT.json --records RECORDS.json
      prints what the event would do, as JSON; 1 when something goes wrong in it

With a server (--server ADDRESS or VAST_KNOT_SERVER, --token-file FILE or VAST_KNOT_TOKEN):
  vast-knot pull FOLDER [--folder NAME] [--no-samples]
      writes its rules and what they need into a folder, a file for each
  vast-knot push BUNDLE… [--plan] [--running] [--take theirs|ours] [--bind KEY=KEY]… [--though-samples-differ] [--as-json]
      shows what would change there, then does it, all or nothing; 1 when something is in its way
  vast-knot runs [--rule NAME] [--result RESULT] [--since TIME] [--most NUMBER] [--as-json]
      prints its last runs; 1 when one of them failed
  vast-knot rules [--as-json]
      prints its rules
  vast-knot rules publish NAME [--note TEXT]
      puts the draft of a rule in force

With the settings of a server in the environment, DATABASE_URL among them:
  vast-knot audit verify [NUMBER:HASH]
      checks that nothing in the audit was changed, put in or taken out; 1 when something was
  vast-knot rotate-key
      seals all secrets with SEAL_KEY, which were sealed with one of SEAL_KEYS_FORMER

A BUNDLE is a JSON file, or a folder of them. Wrong input gives 2.`;

/** Where the program runs: the folder that names are looked up in, and the environment. */
export interface Place {
  readonly folder: string;
  readonly environment: NodeJS.ProcessEnv;
}

/** Runs the program with its arguments. Returns its exit code. */
export async function main(
  args: readonly string[],
  { folder, environment }: Place,
  say: Say = (line) => process.stdout.write(`${line}\n`),
  complain: Say = (line) => process.stderr.write(`${line}\n`),
): Promise<number> {
  try {
    const { values, positionals } = parsed(args);
    const [command, ...names] = positionals;
    const server = () => Server.from(values, environment, folder);
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
      case 'pull': {
        const [into] = names;
        if (into === undefined) throw new WrongInput('Say into which folder: vast-knot pull FOLDER.');
        return await pull(server(), resolve(folder, into), values, say);
      }
      case 'push':
        return await push(
          server(),
          { bundle: bundlesAt(names, folder), names, known: pulledIn(names, folder) },
          values,
          say,
        );
      case 'runs':
        return await runs(server(), values, say);
      case 'rules': {
        const [deed, name] = names;
        if (deed === undefined) return await rules(server(), values['as-json'] ?? false, say);
        if (deed !== 'publish' || name === undefined) throw new WrongInput(usage);
        return await publishRule(server(), name, values.note ?? '', say);
      }
      default:
        throw new WrongInput(usage);
    }
  } catch (thrown) {
    if (!(thrown instanceof WrongInput) && !(thrown instanceof Refused)) throw thrown;
    complain(thrown.message);
    return thrown instanceof Refused ? 1 : 2;
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
        server: { type: 'string' },
        'token-file': { type: 'string' },
        folder: { type: 'string' },
        'no-samples': { type: 'boolean' },
        plan: { type: 'boolean' },
        running: { type: 'boolean' },
        take: { type: 'string' },
        bind: { type: 'string', multiple: true },
        'though-samples-differ': { type: 'boolean' },
        'as-json': { type: 'boolean' },
        rule: { type: 'string' },
        result: { type: 'string' },
        since: { type: 'string' },
        most: { type: 'string' },
        note: { type: 'string' },
      },
    });
  } catch (thrown) {
    throw new WrongInput(`${thrown instanceof Error ? thrown.message : String(thrown)}\n\n${usage}`);
  }
}
