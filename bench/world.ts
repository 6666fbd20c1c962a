import { cpSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Bundle, Field, Find, RuleBody } from '@vast-knot/core';

export const wideRule = '0192f3a0-00ff-7000-8000-0000000000ff';
export const wideSample = '0192f3a0-1000-7000-8000-000000000004';
export const lines = 60;

/** Finds the party of a company. */
export const partyOfCompany: Find = {
  alias: 'party',
  system: 'freight-desk',
  recordType: 'party',
  match: [{ field: 'customerNumber', is: 'equal', formula: 'id' }],
  none: 'stop',
  several: 'fail',
};

/** The systems and tables of the demo with one rule of its own: a folder to be loaded as a demo. */
export function worldWithOneRule(folder: string, rule: RuleBody): void {
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(join(folder, 'rules'), { recursive: true });
  for (const part of ['systems', 'tables'])
    cpSync(join('demo', part), join(folder, part), { recursive: true });
  const bundle: Bundle = {
    vastKnot: 2,
    rules: [{ id: '0192f3a0-00fe-7000-8000-0000000000fe', published: true, rule }],
  };
  writeFileSync(join(folder, 'rules/1-rule.json'), JSON.stringify(bundle));
}

/** The demo with a party that has sixty more fields, and a rule that fills all of them: a folder to be loaded as a demo. */
export function wideWorld(folder: string): void {
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(folder, { recursive: true });
  for (const part of ['systems', 'tables', 'rules', 'samples']) {
    cpSync(join('demo', part), join(folder, part), { recursive: true });
  }
  const file = join(folder, 'systems/2-freight-desk.json');
  const bundle = JSON.parse(readFileSync(file, 'utf8')) as Bundle;
  const more = Array.from({ length: lines }, (_none, at): Field => ({
    name: `extra${at}`,
    label: `Extra ${at}`,
    type: 'text',
    maxLength: 120,
  }));
  const [desk] = bundle.systems ?? [];
  if (!desk) throw new Error(`there is no system in ${file}`);
  const recordTypes = desk.system.recordTypes.map((type) =>
    type.name === 'party' ? { ...type, fields: [...type.fields, ...more] } : type,
  );
  const wide: Bundle = { vastKnot: 2, systems: [{ ...desk, system: { ...desk.system, recordTypes } }] };
  writeFileSync(file, JSON.stringify(wide));
  const rule: RuleBody = {
    name: 'Sixty lines',
    note: '',
    trigger: { system: 'customer-book', recordType: 'company', kinds: ['updated'], watched: [] },
    guard: '',
    finds: [partyOfCompany],
    actions: [
      {
        kind: 'write',
        target: 'party',
        lines: more.map(({ name }, at) => ({ field: name, formula: formulaFor(at), policy: 'always' })),
      },
    ],
  };
  const wideBundle: Bundle = { vastKnot: 2, rules: [{ id: wideRule, published: false, rule }] };
  writeFileSync(join(folder, 'rules/9-wide.json'), JSON.stringify(wideBundle));
}

/** Formulas as administrators write them: text, tables, conditions. */
function formulaFor(at: number): string {
  switch (at % 4) {
    case 0:
      return `UPPER(LEFT(TRIM(name), ${4 + (at % 8)}))`;
    case 1:
      return `TEXTJOIN(", ", TRUE, address.street, address.postcode, address.town, "${at}")`;
    case 2:
      return 'TABLE("Countries to regions", address.country, "desk")';
    default:
      return `IF(credit_terms = "prepaid", "PRE", SUBSTITUTE(phone, " ", "") & "-${at}")`;
  }
}
