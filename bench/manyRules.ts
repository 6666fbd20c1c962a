import {
  Catalog,
  compileRule,
  MemoryWorkspace,
  runEvent,
  type ChangeEvent,
  type CompiledRule,
  type Rule,
  type System,
} from '@vast-knot/core';
import { bestTimes, type Figure } from './timing';

const events = 400;
const few = 10;
const many = 300;

const system: System = {
  key: 's',
  tag: 'SS',
  name: 'S',
  hue: 0,
  recordTypes: [
    {
      name: 'company',
      label: 'Company',
      plural: 'Companies',
      idField: 'id',
      nameField: 'id',
      fields: [
        { name: 'id', label: 'Id', type: 'text' },
        { name: 'copy', label: 'Copy', type: 'text' },
        ...Array.from({ length: many }, (_none, at) => ({
          name: `f${at}`,
          label: `Field ${at}`,
          type: 'text' as const,
        })),
      ],
    },
  ],
};

/** A rule that watches one field and copies it. */
const ruleOf = (at: number): Rule => ({
  id: `00000000-0000-7000-8000-${String(at).padStart(12, '0')}`,
  version: 1,
  name: `Rule ${at}`,
  note: '',
  trigger: { system: 's', recordType: 'company', kinds: ['updated'], watched: [`f${at}`] },
  guard: `NOT(ISBLANK(f${at}))`,
  finds: [],
  actions: [
    {
      kind: 'write',
      target: 'record',
      lines: [{ field: 'copy', formula: `UPPER(f${at})`, policy: 'always' }],
    },
  ],
});

function compiled(count: number, catalog: Catalog): readonly CompiledRule[] {
  return Array.from({ length: count }, (_none, at) => {
    const result = compileRule(ruleOf(at), { catalog, tables: new Map() });
    if (!result.ok) throw new Error(result.problems[0]?.error.message);
    return result.compiled;
  });
}

/** Events of which each concerns one rule: with ten rules on its record type, and with three hundred; and what is kept of each. */
export async function benchManyRules(): Promise<readonly Figure[]> {
  const catalog = new Catalog([system]);
  const sets = { few: compiled(few, catalog), many: compiled(many, catalog) };
  const ref = { system: 's', recordType: 'company', id: 'C1' };
  const event = (at: number): ChangeEvent => ({
    id: `e${at}`,
    source: '/s',
    kind: 'updated',
    ref,
    time: '2026-03-09T09:00:00Z',
    record: { id: 'C1', f3: `value ${at}` },
    before: { id: 'C1', f3: 'before' },
    changed: ['f3'],
  });
  const run = async (rules: readonly CompiledRule[]) => {
    const workspace = new MemoryWorkspace(catalog, [{ ref, record: { id: 'C1', f3: 'value' } }]);
    let kept = 0;
    for (let at = 0; at < events; at++) {
      const { report } = await runEvent(event(at), { catalog, rules, workspace });
      kept += JSON.stringify(report).length;
    }
    return kept / events;
  };
  const sizes = { few: await run(sets.few), many: await run(sets.many) };
  const best = await bestTimes(
    { few: async () => void (await run(sets.few)), many: async () => void (await run(sets.many)) },
    7,
  );
  const ratio = best.many / best.few;
  return [
    { what: `${events} events, each for one of ${few} rules`, value: best.few, unit: 'ms' },
    { what: `the same for one of ${many}`, value: best.many, unit: 'ms' },
    {
      what: `${many} rules against ${few}`,
      value: ratio,
      unit: '×',
      wanted: 'at most 1.5',
      met: ratio <= 1.5,
    },
    { what: `kept of each event, with ${few} rules`, value: sizes.few / 1000, unit: 'kB' },
    { what: `kept of each event, with ${many} rules`, value: sizes.many / 1000, unit: 'kB' },
  ];
}
