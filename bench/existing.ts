import pg from 'pg';
import type { ReconcileView, RuleBody, RuleView } from '@vast-knot/core';
import { removeData } from '../scripts/machine/postgres.mjs';
import { startStack } from '../scripts/machine/stack.mjs';
import { signedIn, type Api } from './api';
import { watchMemory } from './memory';
import { comparedAfter, connectPiers, piers, servePiers } from './piers';
import { quiet, untilDone } from './systems';
import { bestTimes, type Figure } from './timing';

const { page, system } = piers;
const count = 1_000_000;
const rounds = 3;
const least = 0.5;
const mostMemory = 300;
const remark = 'Nothing stays here over night without a light.';

/** A rule beside all records of a type, which are right, against a script that reads the same pages and compares by hand. */
export async function benchExisting(): Promise<readonly Figure[]> {
  const { server, host } = await servePiers(count);
  removeData('bench');
  const stack = await startStack({ name: 'bench', reach: [host], extra: { LOG_LEVEL: 'fatal' } });
  const database = new pg.Client({ connectionString: stack.database('vast_knot') });
  try {
    await database.connect();
    const api = await signedIn(stack);
    await connectPiers(api, host);
    await comparedAfter(database, null);
    // The words by which their values are found are kept meanwhile, which takes longer than all that is measured.
    await quiet(stack);
    const rule = await publish(api);
    let right = 0;
    let latest = '';
    const script = async () => {
      right = 0;
      for (let at = 0; at < count; at += page) {
        const answer = await fetch(`http://${host}/piers?limit=${page}&offset=${at}`);
        const { data } = (await answer.json()) as { data: { remark: string; depth: number }[] };
        for (const record of data) if (record.depth >= 0 && record.remark === remark) right++;
      }
    };
    const product = async () => {
      const { id } = await api<{ id: string }>('POST', '/reconciles', { rule });
      await untilDone(database, id);
      latest = id;
    };
    await script();
    await product();
    const memory = watchMemory(stack);
    const times = await bestTimes({ script, product }, rounds);
    const most = memory.stop();
    const { counts } = await api<ReconcileView>('GET', `/reconciles/${latest}`);
    if (counts.right !== right) throw new Error(`${counts.right} are right, and not ${right}`);
    const ratio = times.script / times.product;
    return [
      {
        what: `${count.toLocaleString('en')} records: a script that compares by hand`,
        value: times.script,
        unit: 'ms',
      },
      { what: 'a rule beside them, and how each stands kept', value: times.product, unit: 'ms' },
      {
        what: 'rate against the script',
        value: ratio,
        unit: '×',
        wanted: `at least ${least}`,
        met: ratio >= least,
      },
      {
        what: 'resident memory at most',
        value: most,
        unit: 'MB',
        wanted: `at most ${mostMemory}`,
        met: most <= mostMemory,
      },
    ];
  } finally {
    await database.end();
    await stack.stop();
    server.kill();
  }
}

async function publish(api: Api): Promise<string> {
  const body: RuleBody = {
    name: 'Remark of a pier',
    note: '',
    trigger: { system, recordType: 'pier', kinds: ['updated'], watched: ['depth'] },
    guard: 'depth >= 0',
    finds: [],
    actions: [
      {
        kind: 'write',
        target: 'record',
        lines: [{ field: 'remark', formula: `"${remark}"`, policy: 'always' }],
      },
    ],
  };
  const made = await api<RuleView>('POST', '/rules', body);
  const published = await api<RuleView>('POST', `/rules/${made.id}/publish`, undefined, made.revision);
  return published.id;
}
