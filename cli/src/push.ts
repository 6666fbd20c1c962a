import {
  bundleText,
  printJson,
  type ImportAsked,
  type ImportPlan,
  type SystemSlot,
  type WholeBundle,
} from '@vast-knot/core';
import { WrongInput } from './files';
import type { Say } from './say';
import type { Server } from './server';

interface PushOptions {
  /** Only shows what would be done. */
  readonly plan?: boolean | undefined;
  readonly running?: boolean | undefined;
  /** What is to stand where both sides changed something. */
  readonly take?: string | undefined;
  /** `trial-desk=freight-desk`: what stands there for a system or an outside address. */
  readonly bind?: readonly string[] | undefined;
  /** Goes on although samples differ there. */
  readonly 'though-samples-differ'?: boolean | undefined;
  readonly 'as-json'?: boolean | undefined;
}

/** What is brought: bundles, by their names, and the hashes that were noted when they were pulled. */
export interface Pushed {
  readonly bundle: WholeBundle;
  readonly names: readonly string[];
  readonly known: Readonly<Record<string, string>>;
}

/**
 * Brings bundles into a server: shows what would change there, what there is to say of the rules and what the samples say, and does it, all or
 * nothing. Returns 0 when it was done or nothing was to do, 1 when something is in its way.
 */
export async function push(server: Server, pushed: Pushed, options: PushOptions, say: Say): Promise<number> {
  const asked = askedFor(pushed, options);
  let plan = await server.ask<ImportPlan>('POST', '/imports/plan', { body: asked });
  const undecided = plan.items.filter(({ taken }) => taken === null);
  if (options.take !== undefined && undecided.length > 0) {
    const take = options.take === 'theirs' ? 'theirs' : 'ours';
    asked.take = Object.fromEntries(undecided.map(({ kind, key }) => [`${kind} ${key}`, take]));
    plan = await server.ask<ImportPlan>('POST', '/imports/plan', { body: asked });
  }
  if (options['as-json']) say(printJson(plan, 2));
  else for (const line of linesOf(plan)) say(line);
  const differing = plan.samples.filter(({ verdict }) => verdict === 'differs');
  const isStopped = differing.length > 0 && !options['though-samples-differ'];
  if (plan.problems.length > 0 || isStopped) {
    if (!options['as-json']) for (const problem of plan.problems) say(`in the way: ${problem}`);
    if (!options['as-json'] && isStopped) say(`in the way: ${differing.length} samples differ there`);
    return 1;
  }
  if (options.plan) return 0;
  const { asked: waiting } = await server.ask<{ asked: readonly string[] }>('POST', '/imports', {
    body: { ...asked, stamp: plan.stamp },
  });
  if (options['as-json']) return 0;
  for (const name of waiting) say(`“${name}” waits for a second person to be published`);
  say('done');
  return 0;
}

function askedFor(
  { bundle, names, known }: Pushed,
  { running = false, bind = [], take }: PushOptions,
): { -readonly [K in keyof ImportAsked]: ImportAsked[K] } {
  if (take !== undefined && take !== 'theirs' && take !== 'ours')
    throw new WrongInput(
      '--take says “theirs”, which are the files, or “ours”, which is what the server has.',
    );
  const bound = bind.map((each): readonly [string, SystemSlot & { is: 'bound' }] => {
    const [key = '', to = ''] = each.split('=');
    if (key === '' || to === '')
      throw new WrongInput(`--bind ${each}: say KEY=KEY, which system there stands for which.`);
    return [key, { is: 'bound', to }];
  });
  const isSystem = (key: string) => bundle.systems.some(({ system }) => system.key === key);
  const stray = bound.find(([key]) => !isSystem(key) && !bundle.addresses.some((each) => each.key === key));
  if (stray)
    throw new WrongInput(`--bind ${stray[0]}: no system or outside address is called so in the bundles.`);
  return {
    files: [{ name: names.join(', ').slice(0, 400), text: bundleText(bundle) }],
    systems: Object.fromEntries(bound.filter(([key]) => isSystem(key))),
    addresses: Object.fromEntries(bound.filter(([key]) => !isSystem(key))),
    take: {},
    known,
    running,
  };
}

/** Returns what would be done, in lines: what is the same is counted alone. */
function linesOf({ slots, items, findings, samples }: ImportPlan): readonly string[] {
  const same = items.filter(({ state }) => state === 'same').length;
  return [
    ...slots
      .filter(({ key, to }) => key !== to)
      .map(({ key, to }) => `${key} is ${to ?? 'nothing yet'} there`),
    ...slots.flatMap(({ to, schema }) =>
      schema.map(({ what, type, field, how }) => {
        const place = [to, type, field].filter((word) => word !== undefined).join('.');
        return `${place} ${what === 'went' ? 'is not there' : how}`;
      }),
    ),
    ...items
      .filter(({ state }) => state !== 'same')
      .flatMap(({ kind, name, state, taken, changes, more, runs }) => [
        `${doing(taken)}  ${kind} ${name}: ${state}${kind === 'rule' && runs ? ', runs' : ''}`,
        ...changes.map(
          ({ at, before, after }) => `           ${at}: ${before ?? 'nothing'} → ${after ?? 'nothing'}`,
        ),
        ...(more > 0 ? [`           and ${more} more`] : []),
      ]),
    ...findings.flatMap(({ name, findings: all }) =>
      all.map(({ severity, at, message }) => `${severity.padEnd(7)}  ${name}  ${at}: ${message}`),
    ),
    ...samples
      .filter(({ verdict }) => verdict === 'differs')
      .flatMap(({ name, differences }) => [`differs  ${name}`, ...differences.map((line) => `  ${line}`)]),
    `${items.filter(({ taken }) => taken === 'theirs').length} to take over, ${same} the same`,
  ];
}

const doing = (taken: ImportPlan['items'][number]['taken']) =>
  taken === null ? 'undecided' : taken === 'theirs' ? 'take over' : 'leave as it is';
