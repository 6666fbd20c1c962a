import { linesIn, kindOf, type Action } from '../engine/actions';
import { policyWords } from '../engine/actions/policyWords';
import { tablesReadBy } from '../engine/formulasOf';
import type { Reported, Step } from '../engine/report';
import type { Rule } from '../engine/rule';
import { scopeAt } from '../engine/scopes';
import type { Surroundings } from '../engine/surroundings';
import { recordNamed, targetOf } from '../engine/targetOf';
import { compile } from '../formula/compile';
import type { Find } from '../model/find';
import type { Json } from '../model/json';
import { printJson, scalarText } from '../model/jsonText';
import { isLongNumber } from '../model/longNumber';
import { printPlace } from '../model/place';
import type { Sample } from '../model/sample';
import { labelAt, type Catalog, type Field } from '../model/system';
import { triggerKind } from '../model/triggers';
import { andList, orList } from '../model/triggers/words';
import { flat } from '../replay/outcome';
import { ensemble, replaySample } from '../replay/replay';

/** What one target field gets, in words that people read who write no formulas. */
export interface SpecifiedLine {
  /** The fields that its value is made of: `Company › Phone (phone)`. */
  readonly sources: readonly string[];
  readonly how: string;
  readonly label: string;
  readonly code: string;
  /** Its type and its limits: `text, 20 characters at most`. */
  readonly type: string;
  readonly when: string;
  /** What samples give: the name of each, and the value. */
  readonly examples: readonly { readonly sample: string; readonly value: string }[];
}

/** What a rule does to one kind of record. */
export interface SpecifiedPart {
  readonly does: string;
  readonly system: string;
  readonly recordType: string;
  /** The condition of this part; blank where there is none. */
  readonly onlyIf: string;
  readonly lines: readonly SpecifiedLine[];
}

/** Returns what a part of a rule does, and to what: `Write to a record: Booking of Freight Desk`. */
export function digest({
  does,
  system,
  recordType,
}: Pick<SpecifiedPart, 'does' | 'system' | 'recordType'>): string {
  return `${does}${recordType === '' ? '' : `: ${recordType} of ${system}`}`;
}

/** A rule as business people read it. */
export interface SpecifiedRule {
  readonly id: string;
  readonly name: string;
  readonly note: string;
  readonly version: number;
  readonly starts: string;
  readonly onlyIf: string;
  readonly finds: readonly string[];
  readonly parts: readonly SpecifiedPart[];
  readonly tables: readonly string[];
}

/** A lookup table that one of the rules reads. */
export interface SpecifiedTable {
  readonly name: string;
  readonly columns: readonly string[];
  readonly rows: readonly (readonly string[])[];
  /** How many rows it has in all. */
  readonly count: number;
}

/** What chosen rules do, as one document: made from the rules, so that it is never stale. */
export interface Specification {
  readonly rules: readonly SpecifiedRule[];
  readonly tables: readonly SpecifiedTable[];
}

/** Samples of which examples are given for a rule, and rows that are given of a table. */
const [mostExamples, mostRows] = [3, 500];

/** What a specification is made from. */
export interface SpecifiedFrom {
  readonly rules: readonly Rule[];
  /** All rules, for those that do what another does. */
  readonly known: readonly Rule[];
  readonly samples: readonly Sample[];
}

/** Returns the specification of rules, with what their samples give. */
export async function specificationOf(
  { rules, known, samples }: SpecifiedFrom,
  surroundings: Surroundings,
): Promise<Specification> {
  const all = { ...surroundings, rules: new Map(known.map((rule) => [rule.id, rule])) };
  const specified: SpecifiedRule[] = [];
  for (const rule of rules) specified.push(await specifiedRule(rule, samples, all));
  const names = [...new Set(specified.flatMap(({ tables }) => tables))].sort();
  return {
    rules: specified,
    tables: names.flatMap((name): SpecifiedTable[] => {
      const table = surroundings.tables.get(name)?.table;
      if (!table) return [];
      const { columns, rows } = table;
      return [
        {
          name,
          columns: columns.map(({ label }) => label),
          rows: rows.slice(0, mostRows).map((row) => columns.map((_, at) => valueText(row[at] ?? null))),
          count: rows.length,
        },
      ];
    }),
  };
}

async function specifiedRule(
  rule: Rule,
  samples: readonly Sample[],
  surroundings: Surroundings,
): Promise<SpecifiedRule> {
  const { catalog } = surroundings;
  const given = await examplesOf(rule, samples, surroundings);
  return {
    id: rule.id,
    name: rule.name,
    note: rule.note,
    version: rule.version,
    starts: startsOf(rule, catalog),
    onlyIf: rule.guard === '' ? '' : `${rule.guard}${rule.becomesTrue ? ' (now, and not before)' : ''}`,
    finds: rule.finds.map((find) => findText(find, catalog)),
    parts: rule.actions.map((action, at) => specifiedPart(rule, action, at, { surroundings, given })),
    tables: [...tablesReadBy(rule)],
  };
}

/** Returns what starts a rule, as a sentence. */
function startsOf({ trigger }: Rule, catalog: Catalog): string {
  const type = catalog.recordType(trigger.system, trigger.recordType);
  const system = catalog.system(trigger.system)?.name ?? trigger.system;
  const kinds = orList(trigger.kinds.map((kind) => triggerKind(kind).words));
  const watched = trigger.watched.map((path) => labelAt(type?.fields ?? [], path));
  return `${type?.label ?? trigger.recordType} in ${system} ${kinds}${watched.length > 0 ? `, and ${orList(watched)} changes` : ''}${trigger.once ? '; once for all of them' : ''}.`;
}

const onNone: Readonly<Record<Find['none'], string>> = {
  stop: 'the rule stops quietly',
  fail: 'the rule fails',
  'go on': 'it goes on without one',
  create: 'one is created',
};
const onSeveral: Readonly<Record<Find['several'], string>> = {
  fail: 'the rule fails',
  each: 'each of them is taken',
  first: 'the first is taken',
};

/** Returns which records a find reaches, as a sentence. */
function findText(find: Find, catalog: Catalog): string {
  const { alias, system, recordType, match, where, none, several } = find;
  const type = catalog.recordType(system, recordType);
  const conditions = match.map(
    ({ field, is, formula }) =>
      `${labelAt(type?.fields ?? [], field)} ${is === 'equal' ? 'is' : is} ${formula}`,
  );
  const also = where === undefined ? '' : `, of these where ${where}`;
  return `“${alias}”: ${type?.label ?? recordType} of ${catalog.system(system)?.name ?? system} whose ${andList(conditions)}${also}. Where there is none, ${onNone[none]}; where there are several, ${onSeveral[several]}.`;
}

interface Making {
  readonly surroundings: Surroundings;
  readonly given: Examples;
}

function specifiedPart(
  rule: Rule,
  action: Action,
  at: number,
  { surroundings, given }: Making,
): SpecifiedPart {
  const { catalog } = surroundings;
  const target = targetOf(rule, action, catalog);
  const { offer, summary, tells } = kindOf(action);
  const told = tells?.(action) ?? [];
  return {
    does: linesIn(action).length + told.length > 0 ? offer : `${offer} (${summary(action)})`,
    system: catalog.system(target?.system ?? '')?.name ?? '',
    recordType: target?.type.label ?? '',
    onlyIf: action.only ?? '',
    lines: [
      ...told.map(({ name, formula, at: inAction }): SpecifiedLine => ({
        sources: sourcesOf(rule, `actions/${at}/${inAction}`, formula, surroundings),
        how: formula,
        label: name,
        code: '',
        type: '',
        when: '',
        examples: given.get(`${at}/${name}`) ?? [],
      })),
      ...linesIn(action).map(({ field, formula, policy }, line): SpecifiedLine => {
        const definition = fieldOf(target?.type.fields ?? [], field);
        return {
          sources: sourcesOf(
            rule,
            printPlace({ of: 'line', at, line, member: 'formula' }),
            formula,
            surroundings,
          ),
          how: formula,
          label: labelAt(target?.type.fields ?? [], field),
          code: field,
          type: definition ? typeText(definition) : '',
          when: policyWords[policy],
          examples: given.get(`${at}/${field}`) ?? [],
        };
      }),
    ],
  };
}

function fieldOf(fields: readonly Field[], path: string): Field | undefined {
  const [first, ...rest] = path.split('.');
  const field = fields.find(({ name }) => name === first);
  return rest.length === 0 || !field ? field : fieldOf(field.fields ?? [], rest.join('.'));
}

/** Returns the type of a field with its limits, in words. */
function typeText({ type, maxLength, min, max, options, required, refersTo }: Field): string {
  const limits = [
    ...(required ? ['required'] : []),
    ...(maxLength === undefined ? [] : [`${maxLength} characters at most`]),
    ...(min === undefined ? [] : [`${min} at least`]),
    ...(max === undefined ? [] : [`${max} at most`]),
    ...(refersTo ? [`names a ${orList([...refersTo])}`] : []),
    ...(options ? [`one of ${options.map(({ label }) => label).join(', ')}`] : []),
  ];
  return [type, ...limits].join(', ');
}

/** Returns the fields that a formula reads, with the record type of each, as people call them. */
function sourcesOf(
  rule: Rule,
  place: string,
  formula: string,
  surroundings: Surroundings,
): readonly string[] {
  const { catalog } = surroundings;
  const scope = scopeAt(rule, place, surroundings);
  const compiled = scope && compile(formula, scope);
  if (!compiled?.ok) return [];
  const said = compiled.formula.uses.map(({ of, path }) => {
    if (of === 'event') return `the event › ${path}`;
    if (of === 'input') return `what is asked of the person › ${path}`;
    const name = of === 'before' ? 'record' : of;
    const action = rule.actions[Number(place.split('/')[1])];
    const type =
      action &&
      (name === 'target' ? targetOf(rule, action, catalog) : recordNamed(rule, action, name, catalog));
    const label = type ? `${type.type.label} › ${labelAt(type.type.fields, path)}` : path;
    return `${label} (${path})${of === 'before' ? ', before the change' : ''}`;
  });
  return [...new Set(said)];
}

/** What samples give, by action and field. */
type Examples = ReadonlyMap<string, readonly { readonly sample: string; readonly value: string }[]>;

async function examplesOf(
  rule: Rule,
  samples: readonly Sample[],
  surroundings: Surroundings,
): Promise<Examples> {
  const { system, recordType } = rule.trigger;
  const found = new Map<string, { sample: string; value: string }[]>();
  const ready = ensemble([rule], surroundings, [...(surroundings.rules?.values() ?? [])]);
  if (ready.compiled.length === 0) return found;
  let used = 0;
  for (const sample of samples) {
    if (used === mostExamples) break;
    const { ref } = sample.event;
    if (ref.system !== system || ref.recordType !== recordType) continue;
    const { report } = await replaySample(sample, ready, surroundings);
    const own = report.rules.find(({ ruleId, depth }) => ruleId === rule.id && depth === 0);
    if (own?.verdict !== 'writes') continue;
    used++;
    for (const step of own.steps) {
      for (const { field, value } of givenBy(step)) {
        const key = `${'action' in step ? step.action : ''}/${field}`;
        const known = found.get(key) ?? [];
        if ('error' in value || known.some((each) => each.sample === sample.name)) continue;
        found.set(key, [...known, { sample: sample.name, value: valueText(value.json) }]);
      }
    }
  }
  return found;
}

/** Returns what a step gives under names: fields that it writes, columns of the first row of a file, parts of a message. */
function givenBy(step: Step): readonly { readonly field: string; readonly value: Reported }[] {
  switch (step.kind) {
    case 'write':
      return step.tidied ? [] : step.lines;
    case 'file':
      return step.columns.map((field, at) => ({ field, value: { json: step.first[0]?.[at] ?? null } }));
    case 'message':
      return Object.entries(flat(step.message.data)).map(([field, json]) => ({ field, value: { json } }));
    default:
      return [];
  }
}

function valueText(json: Json): string {
  if (json === null || json === '') return 'blank';
  return typeof json === 'object' && !isLongNumber(json) ? printJson(json) : scalarText(json);
}
