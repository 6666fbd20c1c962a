import { FormulaError } from '../../formula/error';
import { writePath, type JsonObject } from '../../model/json';
import type { Branch } from '../branch';
import type { CompiledSend } from '../compiled';
import { withLinked } from '../follow';
import { toJson } from '../reported';
import { noteError, noteStep, type UnderWay } from '../ruleRun';
import { passing } from './targets';

/** Plans a message for every branch. It is sent once what the rule writes is written. */
export async function runSend(
  action: CompiledSend,
  branches: readonly Branch[],
  way: UnderWay,
): Promise<readonly Branch[]> {
  const about = branches.map((branch) => ({
    branch,
    target: { ref: branch.self, record: branch.env.record },
    env: branch.env,
  }));
  const targets = await passing(action, about, way);
  const envs = await withLinked(
    action.parts.map(({ compiled }) => compiled),
    targets.map(({ env }) => env),
    way.workspace,
  );
  for (const [at, { branch, env }] of targets.entries()) {
    way.tally.reached++;
    const lost = action.parts.find(({ compiled }) => compiled.uses.some(({ of }) => branch.lost.has(of)));
    const data = lost
      ? new FormulaError('value', `${lost.name} needs a record that was not created.`)
      : dataOf(action, envs[at] ?? env);
    if (data instanceof FormulaError) {
      noteError(way.tally, `The message to ${action.action.endpoint} is not sent: ${data.message}`);
      way.steps.push({ kind: 'problem', message: `Not sent: ${data.message}`, ref: branch.self });
      continue;
    }
    const { endpoint, type } = action.action;
    const message = { id: way.freshId(), endpoint, type, ref: branch.self, data };
    way.messages.push(message);
    noteStep(way, { kind: 'message', action: action.at, message });
  }
  return branches;
}

function dataOf(
  { parts }: CompiledSend,
  env: Parameters<CompiledSend['parts'][number]['compiled']['run']>[0],
): JsonObject | FormulaError {
  let data: JsonObject = {};
  for (const { name, compiled } of parts) {
    const value = compiled.run(env);
    if (value instanceof FormulaError) return new FormulaError('value', `${name}: ${value.message}`);
    data = writePath(data, name, toJson(value));
  }
  return data;
}
